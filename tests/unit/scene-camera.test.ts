/** Cameras and depths, held against scenes that are drawn where the camera would see them. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { combined, placing, scaleOf } from '../../core/draw/raster/line'
import { figure } from '../../core/draw/scene/elements/shape'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { gripAt, moveBy, size } from '../../core/draw/scene/hands'
import { relaid } from '../../core/draw/scene/relaid'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { testHost } from './support'

const host = await testHost()
const SIZE = { width: 160, height: 90, rate: [10, 1] as [number, number], seconds: 2 }
const CAMERA = { kind: 'camera' } as Element['look']
const element = (id: string, look: Element['look'], more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, look, SIZE),
  ...more
})
const bar = (more: Partial<Element> = {}, id = 'bar'): Element =>
  element(id, figure('rectangle', 50, 20, { fill: '#ffffff' }), more)
const sceneOf = (...elements: Element[]): Scene => Scene.parse({ ...emptyScene('camera', SIZE), elements })
const render = (scene: Scene): Promise<SceneRenderer> => SceneRenderer.of(scene, host)
const framesOf = async (scene: Scene, ...indices: number[]): Promise<Uint16Array[]> => {
  const renderer = await render(scene)
  return indices.map(index => renderer.frame(index).samples as Uint16Array)
}
const apart = (one: ArrayLike<number>, other: ArrayLike<number>): number => {
  let most = 0
  for (let i = 0; i < one.length; i++) most = Math.max(most, Math.abs(one[i]! - other[i]!))
  return most
}
const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true })

test('a camera in the middle that looks straight changes no code, and is not seen', async () => {
  const things = [
    bar({ x: 40, rotation: 10 }),
    bar({ x: 100, shadow: { x: 3, y: 4, soft: 6, colour: '#000000', opacity: 0.5 } }, 'b')
  ]
  const [plain] = await framesOf(sceneOf(...things), 5)
  const [seen] = await framesOf(sceneOf(element('camera', CAMERA), ...things), 5)
  expect(apart(plain!, seen!)).toBe(0)
  expect(plain!.some(code => code > 0)).toBe(true)
  const stands = (await render(sceneOf(element('camera', CAMERA), ...things))).stands(5)
  expect(Object.keys(stands).sort()).toEqual(['b', 'bar'])
})

test('what lies at a depth is drawn where, as large and as turned as it is seen from the camera', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.record({ x: number(40, 120), y: number(20, 70), scale: number(0.5, 2), rotation: number(-40, 40) }),
      number(-0.5, 3),
      number(0, 0.4),
      fc.record({ x: number(20, 140), y: number(10, 80), scale: number(0.4, 2), rotation: number(-180, 180) }),
      async (camera, depth, gone, own) => {
        const factor = camera.scale / (1 + depth - gone)
        const lens = combined(placing(80, 45, factor, -camera.rotation), placing(-camera.x, -camera.y, 1, 0))
        const at = combined(lens, placing(own.x, own.y, own.scale, own.rotation))
        const due = bar({ x: at.e, y: at.f, scale: scaleOf(at), rotation: own.rotation - camera.rotation })
        const seen = sceneOf(element('camera', CAMERA, { ...camera, depth: gone }), bar({ ...own, depth }))
        const [one] = await framesOf(seen, 3)
        const [other] = await framesOf(sceneOf(due), 3)
        expect(apart(one!, other!)).toBeLessThanOrEqual(2)
      }
    ),
    { numRuns: 60 }
  )
})

test('a camera that goes in makes what is near grow faster, passes it, and is gone with its own end', async () => {
  const keys = [
    { at: 0, value: 0, ease: 'linear' as const },
    { at: 1, value: 1, ease: 'linear' as const }
  ]
  const camera = element('camera', CAMERA, { tracks: [{ of: 'depth', keys }] })
  const renderer = await render(sceneOf(camera, bar({ depth: 0.2 }, 'near'), bar({ depth: 3 }, 'far')))
  const across = (index: number, id: string): number => {
    const box = renderer.boxes(index)[id]!
    return box[2] - box[0]
  }
  expect(across(0, 'near')).toBeCloseTo(50 / 1.2, 6)
  expect(across(5, 'near')).toBeCloseTo(50 / 0.7, 6)
  expect(across(5, 'far')).toBeCloseTo(50 / 3.5, 6)
  // further in than it lies: it is behind, and nothing of it is drawn
  const past = await render(sceneOf(element('camera', CAMERA, { depth: 1.3 }), bar({ depth: 0.2 })))
  expect(past.boxes(3).bar).toBeUndefined()
  expect(past.frame(3).samples.every(code => code === 0)).toBe(true)

  const short = element('camera', CAMERA, { scale: 2, hold: 0.5 })
  const [during, after] = await framesOf(sceneOf(short, bar()), 2, 8)
  const [large, plain] = await Promise.all([framesOf(sceneOf(bar({ scale: 2 })), 2), framesOf(sceneOf(bar()), 8)])
  expect(apart(during!, large[0]!)).toBeLessThanOrEqual(1)
  expect(apart(after!, plain[0]!)).toBe(0)
})

test('only the first camera is looked through; others, and those in groups, are told', async () => {
  const zoomed = element('one', CAMERA, { scale: 2 })
  const other = element('two', CAMERA, { scale: 5 })
  const scene = sceneOf(zoomed, other, element('g', { kind: 'group' } as Element['look']), bar(), {
    ...element('three', CAMERA),
    inside: 'g'
  })
  const renderer = await render(scene)
  expect(renderer.told.map(({ id, sentence }) => `${id} ${sentence}`)).toEqual([
    'camera-idle The scene is looked at through another camera than “two”, which does nothing.',
    'camera-idle The camera “three” lies in a group, and does nothing.'
  ])
  expect(renderer.boxes(3).bar).toEqual([30, 25, 130, 65])
  // what means nothing for a camera, and depths that no camera sees, are told as well
  const odd = sceneOf({ ...zoomed, shadow: { x: 0, y: 0, soft: 4, colour: '#000000', opacity: 1 }, blend: 'add' })
  expect((await render(odd)).told.map(({ sentence }) => sentence)).toEqual([
    'A camera has no shadow, no blend: those of “one” do nothing.'
  ])
  expect((await render(sceneOf(bar({ depth: 2 })))).told.map(({ sentence }) => sentence)).toEqual([
    '“bar” has a depth, and the scene no camera: it does nothing.'
  ])
  const deep = sceneOf(zoomed, element('g', { kind: 'group' } as Element['look']), bar({ depth: 2, inside: 'g' }))
  expect((await render(deep)).told.map(({ sentence }) => sentence)).toEqual([
    '“bar” lies in a group, as deep as that; its own depth does nothing.'
  ])
  // hidden, it is no camera
  const hidden = await render(sceneOf({ ...zoomed, hidden: true }, bar()))
  expect(hidden.boxes(3).bar).toEqual([55, 35, 105, 55])
})

test('another size sees the same, groups go as one, and what slides in comes from beyond what is seen', async () => {
  const camera = element('camera', CAMERA, { x: 60, y: 40, scale: 0.5, rotation: 20 })
  const scene = sceneOf(camera, element('g', { kind: 'group' } as Element['look'], { x: 50, y: 30, depth: 0.5 }), {
    ...bar({ x: 4, y: 3 }),
    inside: 'g'
  })
  const [small, large] = [(await render(scene)).boxes(3).bar!, (await render(relaid(scene, 320, 180))).boxes(3).bar!]
  for (const [n, edge] of large.entries()) expect(edge).toBeCloseTo(2 * small[n]!, 6)

  const slides = bar({ entrance: { kind: 'slide', seconds: 1, ease: 'linear', side: 'left' } })
  const wide = sceneOf(element('camera', CAMERA, { scale: 0.5 }), slides)
  const [first, half] = await framesOf(wide, 0, 5)
  expect(first!.every(code => code === 0)).toBe(true)
  expect(half!.some(code => code > 0)).toBe(true)
})

test('hands move and size what is seen through a camera as far as they go', async () => {
  const scene = sceneOf(
    element('camera', CAMERA, { x: 70, y: 50, scale: 1.6, rotation: 25 }),
    bar({ depth: 0.7, rotation: 10 })
  )
  const standing = async () => (await render(scene)).stands(3).bar!
  const before = await standing()
  moveBy(scene, 'bar', before, [12, -5])
  const moved = await standing()
  expect(moved.at.e - before.at.e).toBeCloseTo(12, 1)
  expect(moved.at.f - before.at.f).toBeCloseTo(-5, 1)
  const grip = { across: 1, down: 1 } as const
  const [x, y] = gripAt(moved, grip)
  const [u, v] = gripAt(moved, { across: -1, down: -1 })
  size(scene, 'bar', moved, { grip, by: [(x - u) / 2, (y - v) / 2] })
  const sized = await standing()
  for (const [n, edge] of gripAt(sized, grip).entries())
    expect(edge).toBeCloseTo([x + (x - u) / 2, y + (y - v) / 2][n]!, 1)
  for (const [n, edge] of gripAt(sized, { across: -1, down: -1 }).entries()) expect(edge).toBeCloseTo([u, v][n]!, 1)
})

test('a camera rides a path, turned along it if that is wanted', async () => {
  const at = (x: number, y: number) => ({ x, y, before: null, after: null })
  const line: Element['look'] = {
    ...{ kind: 'path', points: [at(0, 0), at(0, 40)], closed: false, fill: null, stroke: null },
    ...{ rider: 'none', riderSize: 40 }
  }
  const keys = [
    { at: 0, value: 0, ease: 'linear' as const },
    { at: 1, value: 1, ease: 'linear' as const }
  ]
  const boxAt5 = async (turned: boolean): Promise<number[]> => {
    const camera = element('camera', CAMERA, { rides: { path: 'way', turned }, tracks: [{ of: 'along', keys }] })
    const renderer = await render(sceneOf(camera, element('way', line, { x: 60, y: 45 }), bar()))
    expect(renderer.told).toEqual([])
    return renderer.boxes(5).bar!
  }
  // half way the camera stands at 60, 65: what stands at 80, 45 is seen 20 to the right of the middle and 20 above
  for (const [n, edge] of (await boxAt5(false)).entries()) expect(edge).toBeCloseTo([75, 15, 125, 35][n]!, 6)
  // turned along its way, downwards, it sees that 20 to the left of the middle and 20 above, turned by a quarter
  for (const [n, edge] of (await boxAt5(true)).entries()) expect(edge).toBeCloseTo([50, 0, 70, 50][n]!, 6)
})
