/** Lines along things in scenes: their corners, ends, dashes and tips, at rest, over time and stretched. */
import { describe, expect, test } from 'vitest'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { elementEntries } from '../../core/draw/scene/elements/form'
import type { PathLook } from '../../core/draw/scene/elements/path/look'
import { SceneRenderer } from '../../core/draw/scene/render'
import type { Element, Scene } from '../../core/draw/scene/scene'
import { testHost } from './support'

const SIZE = { width: 200, height: 100, rate: [10, 1] as [number, number], seconds: 1 }

const path = (more: Partial<PathLook> = {}): PathLook => ({
  kind: 'path',
  points: [
    { x: -50, y: 0, before: null, after: null },
    { x: 50, y: 0, before: null, after: null }
  ],
  closed: false,
  fill: null,
  stroke: { colour: '#ffffff', width: 10, cap: 'flat' },
  rider: 'none',
  riderSize: 20,
  ...more
})
const sceneOf = (look: PathLook, more: Partial<Element> = {}): Scene => ({
  ...emptyScene('lines', SIZE),
  elements: [{ ...newElement('line', 'Line', look, SIZE), ...more }]
})

/** Alpha at a frame, 0 to 1, by place. */
async function alphaOf(scene: Scene, index = 0): Promise<(x: number, y: number) => number> {
  const renderer = await SceneRenderer.of(scene, await testHost())
  const { samples, width } = renderer.frame(index)
  return (x, y) => samples[4 * (y * width + x) + 3]! / 65535
}
async function areaOfScene(scene: Scene, index = 0): Promise<number> {
  const alpha = await alphaOf(scene, index)
  let sum = 0
  for (let y = 0; y < SIZE.height; y++) for (let x = 0; x < SIZE.width; x++) sum += alpha(x, y)
  return sum
}

describe('lines in scenes', () => {
  test('end flat, square or round', async () => {
    const area = (cap: 'flat' | 'square' | 'round'): Promise<number> =>
      areaOfScene(sceneOf(path({ stroke: { colour: '#ffffff', width: 10, cap } })))
    expect(await area('flat')).toBeCloseTo(1000, 1)
    expect(await area('square')).toBeCloseTo(1100, 1)
    expect(await area('round')).toBeCloseTo(1000 + Math.PI * 25, 0)
  })

  test('turn pointed, bevelled or round, and pointed only as far as their limit lets them', async () => {
    const points = [
      { x: -40, y: 30, before: null, after: null },
      { x: 0, y: 30, before: null, after: null },
      { x: 0, y: -30, before: null, after: null }
    ]
    const area = (join: 'pointed' | 'bevelled', pointLimit?: number): Promise<number> =>
      areaOfScene(sceneOf(path({ points, stroke: { colour: '#ffffff', width: 10, cap: 'flat', join, pointLimit } })))
    // two strips share a square on the inner side; a bevel adds half a square outside, a point all of it
    const strips = 10 * 40 + 10 * 60 - 25
    expect(await area('bevelled')).toBeCloseTo(strips + 12.5, 1)
    expect(await area('pointed')).toBeCloseTo(strips + 25, 1)
    expect(await area('pointed', 1.2)).toBeCloseTo(await area('bevelled'), 3)
  })

  test('are dashed from their beginning; the dashes run on towards the end as values over time say', async () => {
    const dashed = { colour: '#ffffff', width: 10, cap: 'flat', dashes: [20, 10] } as const
    const ends = [
      { at: 0, value: 0, ease: 'linear' as const },
      { at: 1, value: 30, ease: 'linear' as const }
    ]
    const look = path({ stroke: { ...dashed, dashes: [20, 10] } })
    const scene = sceneOf(look, { tracks: [{ of: 'dashes', keys: ends }] })
    const row = async (index: number): Promise<number[]> => {
      const alpha = await alphaOf(scene, index)
      return Array.from({ length: 100 }, (_, n) => alpha(50 + n, 50))
    }
    const first = await row(0)
    expect(first.map((value, n) => (n % 30 < 20 ? value === 1 : value === 0))).not.toContain(false)
    const later = await row(5)
    expect(later.map((value, n) => ((n - 15 + 30) % 30 < 20 ? value === 1 : value === 0))).not.toContain(false)
  })

  test('of more dashes than can be drawn have none, and that is told', async () => {
    const points = [0, 1, 2, 3].map(n => ({ x: n % 2 ? 30_000 : -30_000, y: n, before: null, after: null }))
    const fine = path({ points, stroke: { colour: '#ffffff', width: 1, dashes: [0.5, 0.5] } })
    const renderer = await SceneRenderer.of(sceneOf(fine), await testHost())
    expect(renderer.told.map(({ id }) => id)).toEqual(['dashes-solid'])
    expect(renderer.frame(0).samples.some(code => code > 0)).toBe(true)
  })

  test('are stretched along with what they are drawn on', async () => {
    const alpha = await alphaOf(sceneOf(path(), { tall: 3, wide: 0.5 }))
    const column = Array.from({ length: 100 }, (_, y) => alpha(100, y)).reduce((sum, value) => sum + value, 0)
    const row = Array.from({ length: 200 }, (_, x) => alpha(x, 50)).reduce((sum, value) => sum + value, 0)
    expect([column, row].map(Math.round)).toEqual([30, 50])
  })

  test('carry tips at both ends, turned away from the line', async () => {
    const alpha = await alphaOf(sceneOf(path({ rider: 'bar', tail: 'arrow', riderSize: 40 })))
    // the bar stands across the end, the arrow's point lies before the beginning
    expect(alpha(150, 35)).toBe(1)
    expect(alpha(156, 35)).toBe(0)
    expect(alpha(40, 49)).toBe(1)
    expect(alpha(60, 36)).toBeGreaterThan(0)
    expect(alpha(30, 40)).toBe(0)
  })

  test('points count as part of them: what slides in from the left comes in whole', async () => {
    const points = [
      { x: 30, y: 20, before: null, after: null },
      { x: -30, y: 0, before: null, after: null },
      { x: 30, y: -20, before: null, after: null }
    ]
    const stroke = { colour: '#ffffff', width: 10, join: 'pointed' } as const
    const renderer = await SceneRenderer.of(sceneOf(path({ points, stroke })), await testHost())
    const [left] = renderer.boxes(0).line!
    // the point of the corner reaches r / sin of half its angle before it
    expect(left).toBeCloseTo(70 - 5 / Math.sin(Math.atan2(20, 60)), 3)
  })

  test('a form changes nothing that was not entered, and writes what was', () => {
    const scene = sceneOf(path({ stroke: { colour: '#ffffff', width: 10 } }))
    const [element] = scene.elements
    const entered = (label: string, value: unknown): void => {
      elementEntries(element!)
        .find(({ field }) => field.label === label)!
        .set(element!, value)
    }
    entered('Its corners', 'round')
    expect(element!.look).toEqual(path({ stroke: { colour: '#ffffff', width: 10 } }))
    entered('Its corners', 'pointed')
    entered('Points reach, × half', 2)
    entered('Dashed', true)
    entered('Open', 5)
    entered('Where it begins', 'arrow')
    expect(element!.look).toMatchObject({
      stroke: { join: 'pointed', pointLimit: 2, dashes: [30, 5] },
      tail: 'arrow'
    })
    entered('Dashed', false)
    expect(element!.look).not.toHaveProperty('stroke.dashes')
  })
})
