/** Where elements stand: stretched, about a point that stays, and by keys that hold. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { placed } from '../../core/draw/raster/line'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { moveInto } from '../../core/draw/scene/groups'
import { figure } from '../../core/draw/scene/elements/shape'
import { relaid } from '../../core/draw/scene/relaid'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { atRest, standing } from '../../core/draw/scene/standing'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { testHost } from './support'

const host = await testHost()
const SIZE = { width: 200, height: 120, rate: [10, 1] as [number, number], seconds: 2 }
const bar = (more: Partial<Element> = {}): Element => ({
  ...newElement('bar', 'Bar', figure('rectangle', 40, 20, { fill: '#ffffff' }), SIZE),
  ...more
})
const sceneOf = (...elements: Element[]): Scene => Scene.parse({ ...emptyScene('standing', SIZE), elements })
const render = (scene: Scene): Promise<SceneRenderer> => SceneRenderer.of(scene, host)
const at = (element: Element, x: number, y: number, values: Partial<Element> = {}): number[] => [
  ...placed(Float64Array.from([x, y]), standing({ ...element, ...values }, element))
]

test('what is wider and taller covers what a figure of that size covers, code for code', async () => {
  const [stretched, drawn] = await Promise.all([
    render(sceneOf(bar({ wide: 2.5, tall: 0.5, rotation: 30 }))),
    render(sceneOf({ ...bar({ rotation: 30 }), look: figure('rectangle', 100, 10, { fill: '#ffffff' }) }))
  ])
  const [one, other] = [stretched.frame(3).samples, drawn.frame(3).samples]
  expect(Math.max(...one.map((code, i) => Math.abs(code - other[i]!)))).toBeLessThanOrEqual(1)
  expect(stretched.boxes(3).bar!.map(edge => Number(edge.toFixed(6)))).toEqual(
    drawn.boxes(3).bar!.map(edge => Number(edge.toFixed(6)))
  )
  expect((await render(sceneOf(bar({ wide: 0 })))).frame(0).samples.every(code => code === 0)).toBe(true)
})

const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true })

test('at rest nothing changes by what it turns about, and in movement that stays where it is', () => {
  const values = fc.record({
    ...{ x: number(-200, 200), y: number(-200, 200), scale: number(0.1, 4), rotation: number(-360, 360) },
    ...{ wide: number(0.1, 3), tall: number(0.1, 3) }
  })
  const about = fc.record({ x: number(-100, 100), y: number(-100, 100) })
  fc.assert(
    fc.property(values, about, number(-90, 90), number(0.2, 3), (own, point, turned, grown) => {
      const element = bar({ ...own, about: point })
      const plain = at(bar(own), 7, -3)
      for (const [n, value] of at(element, 7, -3).entries()) expect(value).toBeCloseTo(plain[n]!, 6)
      const rest = placed(Float64Array.from([point.x, point.y]), atRest(element))
      const moved = at(element, point.x, point.y, { rotation: own.rotation + turned, scale: own.scale * grown })
      for (const [n, value] of moved.entries()) expect(value).toBeCloseTo(rest[n]!, 6)
      const shifted = at(element, point.x, point.y, { x: own.x + 5, scale: own.scale * grown })
      expect(shifted[0]).toBeCloseTo(rest[0]! + 5, 6)
    })
  )
})

test('a bar that grows wider about its left end keeps that end, in another size too', async () => {
  const keys = [
    { at: 0, value: 0.2, ease: 'linear' as const },
    { at: 1.9, value: 2, ease: 'linear' as const }
  ]
  const scene = sceneOf(bar({ about: { x: -20, y: 0 }, tracks: [{ of: 'wide', keys }] }))
  for (const [each, left] of [
    [scene, 80],
    [relaid(scene, 100, 60), 40]
  ] as const) {
    const renderer = await render(each)
    for (const frame of [0, 7, 19]) expect(renderer.boxes(frame).bar![0]).toBeCloseTo(left, 6)
    expect(renderer.boxes(19).bar![2]! - left).toBeCloseTo((renderer.boxes(0).bar![2]! - left) * 10, 5)
  }
})

test('a key that holds stays until the next, of numbers and of colours', async () => {
  const ease = 'linear' as const
  const element = bar({
    tracks: [
      {
        of: 'x',
        keys: [
          { at: 0, value: 50, ease, holds: true },
          { at: 1, value: 150, ease }
        ]
      }
    ],
    colours: [
      { at: 0, colour: '#ff0000', ease, holds: true },
      { at: 1, colour: '#0000ff', ease }
    ]
  })
  const renderer = await render(sceneOf(element))
  expect([0, 9, 10, 15].map(frame => renderer.boxes(frame).bar![0])).toEqual([30, 30, 130, 130])
  const pixel = (frame: number, x: number): number[] => {
    const { samples } = renderer.frame(frame)
    const i = 4 * (60 * SIZE.width + x)
    return [...samples.slice(i, i + 3)].map(code => code / 257)
  }
  expect(pixel(9, 50)).toEqual([255, 0, 0])
  expect(pixel(10, 150)).toEqual([0, 0, 255])
})

test('what slides in comes from outside however it is stretched; in and out of a group it stays where it lies', async () => {
  const entrance = { kind: 'slide', seconds: 1, ease: 'linear', side: 'left' } as const
  const renderer = await render(sceneOf(bar({ entrance, wide: 3, about: { x: 10, y: 0 } })))
  expect(renderer.boxes(0).bar![2]).toBeCloseTo(0, 6)
  expect(renderer.frame(0).samples.every(code => code === 0)).toBe(true)
  expect(renderer.boxes(15).bar![0]).toBeCloseTo(40, 6)
  const group = { ...newElement('g', 'G', { kind: 'group' } as Element['look'], SIZE), scale: 2, rotation: 20, x: 30 }
  const scene = sceneOf(group, bar({ wide: 2, about: { x: 5, y: 5 } }))
  const before = (await render(scene)).boxes(3).bar!
  moveInto(scene, 'bar', 'g')
  expect(scene.elements[1]!.inside).toBe('g')
  const after = (await render(scene)).boxes(3).bar!
  for (const [n, edge] of after.entries()) expect(edge).toBeCloseTo(before[n]!, 6)
})

test('a bar follows lettering that is stretched', async () => {
  const words = { ...newElement('w', 'W', lettered('Ivy', 40), SIZE), x: 40, wide: 1.5 }
  const behind = { ...bar(), look: figure('rectangle', 9, 9, { follows: { lettering: 'w', beyond: 6 } }), wide: 2 }
  const boxes = (await render(sceneOf(words, behind))).boxes(3)
  expect(boxes.bar![0]).toBeCloseTo(boxes.w![0] - 12, 6)
  expect(boxes.bar![2]).toBeCloseTo(boxes.w![2] + 12, 6)
})
