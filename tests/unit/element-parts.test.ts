/** The form of an element: whatever is entered in any of its fields leaves a scene that is valid. */
import { describe, expect, test } from 'vitest'
import { elementParts, type Part } from '../../app/components/scenes/elementParts'
import { Scene, type Element, type Look } from '../../core/draw/scene/scene'
import { emptyScene, figure, lettering, newElement } from '../../core/draw/scene/fresh'
import { starters } from '../../core/draw/scene/starters'

const SIZE = { width: 320, height: 180, rate: [25, 1] as [number, number], seconds: 2 }
const GRADIENT = { from: '#102030', to: '#405060', angle: 30 } as const

const sceneOf = (look: Look, more: Partial<Element> = {}): Scene => ({
  ...emptyScene('form', SIZE),
  elements: [{ ...newElement('one', 'One', look, SIZE), ...more }]
})
const point = (x: number, y: number) => ({ x, y, before: null, after: null })
const path: Look = {
  kind: 'path',
  points: [point(0, 0), point(90.123, 40)],
  closed: false,
  fill: null,
  stroke: { colour: '#ffffff', width: 3 },
  rider: 'arrow',
  riderSize: 12
}
const under = {
  shadow: { x: 1, y: 2, soft: 3, colour: '#010203', opacity: 0.5 },
  glow: { soft: 9, colour: '#0a0b0c', opacity: 0.7, added: true }
} as const

const scenes: [string, Scene][] = [
  ...starters.map(({ id, make }): [string, Scene] => [id, make({}, SIZE)]),
  [
    'star with a gradient',
    sceneOf(figure('star', 40, 30, { fill: GRADIENT, stroke: { colour: '#ffffff', width: 2 } }))
  ],
  ['polygon', sceneOf(figure('polygon', 40, 30, { fill: null }), under)],
  ['path', sceneOf(path)],
  ['tall picture', sceneOf({ kind: 'picture', data: '', width: 3, height: 8000 })],
  [
    'lettering with words set otherwise',
    sceneOf(
      lettering('Ferns at night', 40, {
        accents: [
          { words: 'night', face: 'sans', colour: GRADIENT, scale: 1.2 },
          { words: '', face: 'sans', colour: '#ffffff', scale: 0.1 }
        ]
      })
    )
  ],
  ['lettering with a gradient', sceneOf(lettering('Ferns', 40, { colour: GRADIENT }), under)]
]

const ENTERED: Record<Part['kind'], (string | number | boolean)[]> = {
  number: [-1e12, 1e12, 0, 0.333, NaN],
  words: ['', 'n'.repeat(500)],
  lines: ['', 'One\nTwo'],
  colour: ['#ABCDEF', 'rgb(1, 2, 3)', '#abcdef', ''],
  choice: ['', 'nothing of the kind'],
  tick: [true, false]
}

function after(scene: Scene, n: number, part: Part, value: string | number | boolean): Scene {
  const changed = structuredClone(scene)
  part.set(changed.elements[n]!, value)
  return changed
}

describe.each(scenes)('%s', (_, scene) => {
  const fields = scene.elements.flatMap((element, n) => elementParts(element).map(part => ({ n, part })))

  test('every field has an id of its own, and what it shows changes nothing', () => {
    for (const [n, element] of scene.elements.entries()) {
      const parts = elementParts(element)
      expect(new Set(parts.map(({ id }) => id)).size).toBe(parts.length)
      for (const part of parts.filter(({ kind }) => kind !== 'tick' && kind !== 'number'))
        expect(after(scene, n, part, part.value), part.id).toEqual(scene)
    }
  })

  test('whatever is entered leaves a valid scene', () => {
    for (const { n, part } of fields)
      for (const value of [...ENTERED[part.kind], ...(part.choices ?? []).map(choice => choice.value)]) {
        const read = Scene.safeParse(after(scene, n, part, value))
        expect(read.error?.issues[0]?.message, `${part.id}: ${value}`).toBeUndefined()
      }
  })

  test('a number within its bounds is what the field shows next', () => {
    for (const { n, part } of fields.filter(({ part }) => part.kind === 'number')) {
      const value = Math.round((part.least! + part.most!) / 2)
      const next = elementParts(after(scene, n, part, value).elements[n]!).find(({ id }) => id === part.id)
      expect(next?.value, part.id).toBe(value)
    }
  })
})

test('fields follow the look: a star has points, a rectangle corners; a fill of two colours shows both', () => {
  const labels = (look: Look): string[] => elementParts(newElement('a', 'A', look, SIZE)).map(({ label }) => label)
  expect(labels(figure('star', 9, 9))).toEqual(expect.arrayContaining(['Points', 'Inner', 'Fill', 'Solid']))
  expect(labels(figure('rectangle', 9, 9))).toContain('Corners')
  expect(labels(figure('rectangle', 9, 9))).not.toContain('Points')
  expect(labels(figure('ellipse', 9, 9, { fill: GRADIENT }))).toEqual(expect.arrayContaining(['Fill', 'Other']))
  expect(labels(figure('ellipse', 9, 9, { fill: null }))).not.toContain('Fill')
})

test('a gradient keeps its angle and its other colour, and a picture its shape', () => {
  const set = (look: Look, label: string, value: string | number | boolean): Look => {
    const element = newElement('a', 'A', structuredClone(look), SIZE)
    elementParts(element)
      .find(part => part.label === label)!
      .set(element, value)
    return element.look
  }
  const star = figure('star', 9, 9, { fill: GRADIENT })
  expect(set(star, 'Fill', '#ffffff')).toMatchObject({ fill: { ...GRADIENT, from: '#ffffff' } })
  expect(set(star, 'Other', '#ffffff')).toMatchObject({ fill: { ...GRADIENT, to: '#ffffff' } })
  expect(set(star, 'To another', false)).toMatchObject({ fill: '#102030' })
  const picture = set({ kind: 'picture', data: '', width: 40, height: 30 }, 'Width', 100)
  expect(picture).toMatchObject({ width: 100, height: 75 })
  // a second look does not take what was meant for the first
  const [text] = elementParts(newElement('a', 'A', lettering('a', 9), SIZE)).filter(({ label }) => label === 'Size')
  const other = newElement('b', 'B', figure('star', 9, 9), SIZE)
  text!.set(other, 100)
  expect(other).toEqual(newElement('b', 'B', figure('star', 9, 9), SIZE))
})
