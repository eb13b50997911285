/** Kinds of elements: a new one of each is valid and drawn, and whatever is entered in its form leaves it so. */
import { readFileSync } from 'node:fs'
import path_ from 'node:path'
import { describe, expect, test } from 'vitest'
import { elementEntries } from '../../core/draw/scene/elements/form'
import type { Entered, FormEntry } from '../../core/draw/scene/elements/entry'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { elementKinds, kindOf, type Look } from '../../core/draw/scene/elements/kinds'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { SceneRenderer } from '../../core/draw/scene/render'
import { EVERY_MOVE } from '../../core/draw/scene/values'
import { testHost } from './support'
import { starters } from '../../core/draw/scene/starters'

const host = await testHost()
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
const ringLook = (more: Partial<Extract<Look, { kind: 'ring' }>> = {}): Look => ({
  kind: 'ring',
  across: 100,
  thickness: 20,
  begins: 0,
  gap: 0.25,
  fill: '#ff0000',
  fillOpacity: 1,
  stroke: null,
  ...more
})
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
  ['ring', sceneOf(ringLook({ stroke: { colour: '#ffffff', width: 2 } }))],
  ['tall picture', sceneOf({ kind: 'picture', data: '', width: 3, height: 8000 })],
  [
    'lettering with words set otherwise',
    sceneOf(
      lettered('Ferns at night', 40, {
        accents: [
          { words: 'night', face: 'sans', colour: GRADIENT, scale: 1.2 },
          { words: '', face: 'sans', colour: '#ffffff', scale: 0.1 }
        ]
      })
    )
  ],
  [
    'lettering in a box, and a bar as wide as it',
    {
      ...emptyScene('form', SIZE),
      elements: [
        newElement('one', 'One', lettered('Ferns', 40, { box: { width: 90, lines: 2, least: 0.5, clip: true } }), SIZE),
        newElement('bar', 'Bar', figure('rectangle', 40, 30, { follows: { lettering: 'one', beyond: 6 } }), SIZE)
      ]
    }
  ],
  ['lettering that runs to the left', sceneOf(lettered('Ferns', 40, { direction: 'rtl' }))],
  ['lettering with a gradient', sceneOf(lettered('Ferns', 40, { colour: GRADIENT }), under)]
]

const ENTERED: Partial<Record<string, Entered[]>> = {
  number: [-1e12, 1e12, 0, 0.333, NaN],
  words: ['', 'n'.repeat(5000), 'One\nTwo'],
  colour: ['#ABCDEF', 'rgb(1, 2, 3)', '#abcdef', ''],
  choice: ['', 'nothing of the kind'],
  switch: [true, false]
}

const choicesOf = ({ field }: FormEntry<Element>): string[] =>
  field.type === 'choice' ? field.choices.map(({ value }) => value) : []

function after(scene: Scene, n: number, part: FormEntry<Element>, value: Entered): Scene {
  const changed = structuredClone(scene)
  part.set(changed.elements[n]!, value)
  return changed
}

describe.each(scenes)('%s', (_, scene) => {
  const fields = scene.elements.flatMap((element, n) => elementEntries(element).map(part => ({ n, part })))

  test('every field has an id of its own, and what it shows changes nothing', () => {
    for (const [n, element] of scene.elements.entries()) {
      const parts = elementEntries(element)
      expect(new Set(parts.map(({ key }) => key)).size).toBe(parts.length)
      for (const part of parts.filter(({ field }) => field.type !== 'switch' && field.type !== 'number'))
        expect(after(scene, n, part, part.value), part.key).toEqual(scene)
    }
  })

  test('whatever is entered leaves a valid scene', () => {
    for (const { n, part } of fields)
      for (const value of [...ENTERED[part.field.type]!, ...choicesOf(part)]) {
        const read = Scene.safeParse(after(scene, n, part, value))
        expect(read.error?.issues[0]?.message, `${part.key}: ${value}`).toBeUndefined()
      }
  })

  test('a number within its bounds is what the field shows next', () => {
    for (const { n, part } of fields) {
      if (part.field.type !== 'number') continue
      const value = Math.round((part.field.min + part.field.max) / 2)
      const next = elementEntries(after(scene, n, part, value).elements[n]!).find(({ key }) => key === part.key)
      expect(next?.value, part.key).toBe(value)
    }
  })
})

test('fields follow the look: a star has points, a rectangle corners; a fill of two colours shows both', () => {
  const labels = (look: Look): string[] =>
    elementEntries(newElement('a', 'A', look, SIZE)).map(({ field }) => field.label)
  expect(labels(figure('star', 9, 9))).toEqual(expect.arrayContaining(['Points', 'Inner', 'Fill', 'Solid']))
  expect(labels(figure('rectangle', 9, 9))).toContain('Corners')
  expect(labels(figure('rectangle', 9, 9))).not.toContain('Points')
  expect(labels(figure('ellipse', 9, 9, { fill: GRADIENT }))).toEqual(expect.arrayContaining(['Fill', 'Other']))
  expect(labels(figure('ellipse', 9, 9, { fill: null }))).not.toContain('Fill')
})

test('a gradient keeps its angle and its other colour, and a picture its shape', () => {
  const set = (look: Look, label: string, value: Entered): Look => {
    const element = newElement('a', 'A', structuredClone(look), SIZE)
    elementEntries(element)
      .find(part => part.field.label === label)!
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
  const [text] = elementEntries(newElement('a', 'A', lettered('a', 9), SIZE)).filter(
    ({ field }) => field.label === 'Size'
  )
  const other = newElement('b', 'B', figure('star', 9, 9), SIZE)
  text!.set(other, 100)
  expect(other).toEqual(newElement('b', 'B', figure('star', 9, 9), SIZE))
})

describe.each(elementKinds.map(kind => [kind.name, kind] as const))('a new %s', (_, kind) => {
  const PNG = readFileSync(path_.resolve(import.meta.dirname, '../vectors/apng8.png')).toString('base64')
  const look = ((): Look => {
    const { begins } = kind
    if (begins.from === 'size') return begins.fresh(SIZE)
    const own = { width: 640, height: 90 }
    return begins.from === 'picture'
      ? begins.fresh(SIZE, { ...own, data: PNG })
      : begins.fresh(SIZE, { ...own, id: 'other', name: 'Other' })
  })()

  test('is a valid element that comes as it can, and says what it is called', () => {
    expect(Scene.safeParse(sceneOf(look)).error?.issues).toBeUndefined()
    expect([...EVERY_MOVE, ...kind.moves]).toContain(kind.comes)
    expect(kindOf(look).called?.(look) ?? kindOf(look).name).toMatch(/^[A-Z][a-z]+$/)
    expect(kindOf(look)).toBe(kind)
  })

  test('lies within the picture, and is drawn, but for what holds others, shows another source or is looked through', async () => {
    const empty = kind.holds || kind.unseen || kind.begins.from === 'source'
    if (empty) return expect(kind.paint).toBeUndefined()
    const renderer = await SceneRenderer.of(sceneOf(look), host)
    const [left, top, right, bottom] = renderer.boxes(0).one!
    expect(Math.min(left, top)).toBeGreaterThanOrEqual(0)
    expect([right <= SIZE.width, bottom <= SIZE.height]).toEqual([true, true])
    expect(renderer.frame(0).samples.some(code => code > 0)).toBe(true)
  })
})

describe('rings', () => {
  const areaOf = async (look: Look, more: Partial<Element> = {}): Promise<number> => {
    const { samples } = (await SceneRenderer.of(sceneOf(look, more), host)).frame(0)
    return Array.from(samples).reduce((sum, code, i) => (i % 4 === 3 ? sum + code / 65535 : sum), 0)
  }
  const whole = Math.PI * (50 ** 2 - 30 ** 2)

  test.each([
    [0, 1],
    [0.25, 0.75],
    [0.9, 0.1],
    [1, 0]
  ])('a gap of %d leaves %d of the area of the band', async (gap, left) => {
    expect(await areaOf(ringLook({ gap }))).toBeCloseTo(left * whole, 0)
  })

  test('a band as thick as half its width is a disc, and none at all is nothing', async () => {
    expect(await areaOf(ringLook({ gap: 0, thickness: 80 }))).toBeCloseTo(Math.PI * 50 ** 2, 0)
    expect(await areaOf(ringLook({ thickness: 0 }))).toBe(0)
  })

  test('it is drawn round as it is traced, from the top clockwise', async () => {
    const trace = (value: number): Partial<Element> => ({
      tracks: [{ of: 'trace', keys: [{ at: 0, value, ease: 'linear' }] }]
    })
    expect(await areaOf(ringLook({ gap: 0 }), trace(0.5))).toBeCloseTo(whole / 2, 0)
    const { width, samples } = (await SceneRenderer.of(sceneOf(ringLook({ gap: 0 }), trace(0.25)), host)).frame(0)
    const alphaAt = (x: number, y: number): number => samples[4 * ((90 + y) * width + 160 + x) + 3]!
    expect([alphaAt(28, -28), alphaAt(28, 28), alphaAt(-28, 28), alphaAt(-28, -28)]).toEqual([65535, 0, 0, 0])
  })
})

test('what cannot be traced is uncovered, and what has no letters fades', async () => {
  const box = figure('rectangle', 100, 60)
  const move = (kind: Element['entrance']['kind']): Partial<Element> => ({
    entrance: { kind, seconds: 1, ease: 'linear', side: 'left' }
  })
  const at = async (look: Look, kind: Element['entrance']['kind'], x: number): Promise<number> => {
    const { samples } = (await SceneRenderer.of(sceneOf(look, move(kind)), host)).frame(12)
    return samples[4 * (90 * SIZE.width + 160 + x) + 3]! / 65535
  }
  expect(await at(box, 'letters', -20)).toBeCloseTo(12 / 25, 3)
  const words = lettered('████', 60, { align: 'centre' })
  const sides = [await at(words, 'wipe', -30), await at(words, 'trace', -30)]
  expect(sides[0]).toBe(sides[1])
})
