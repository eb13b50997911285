/** Groups: what they hold fades, moves and casts as one; going in and out of them changes nothing that is seen. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import type { Frame } from '../../core/frame/frame'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { groupsFor, moveInto, remove, reorder, shift } from '../../core/draw/scene/groups'
import { relaid } from '../../core/draw/scene/relaid'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { starters } from '../../core/draw/scene/starters'
import { drawn, inOrderOf } from '../../core/draw/scene/order'
import { testHost } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 160, height: 90, rate: [25, 1], seconds: 2 }
const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('test', SIZE), elements })
const group = (id: string, more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, { kind: 'group' }, SIZE),
  ...more
})
const block = (id: string, more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, figure('rectangle', 40, 20, { fill: '#c04020' }), SIZE),
  ...more
})
const rendered = async (scene: Scene, index = 0): Promise<Frame> => (await SceneRenderer.of(scene, host)).frame(index)
const pixel = ({ samples, width }: Frame, x: number, y: number): number[] => [
  ...samples.slice(4 * (y * width + x), 4 * (y * width + x) + 4)
]
/** The most that two pictures differ by as they are seen, in codes: colour counts as far as its alpha does. */
function apart(a: Frame, b: Frame): number {
  let most = 0
  for (let i = 0; i < a.samples.length; i++) {
    const [at, bt] = (i & 3) === 3 ? [65535, 65535] : [a.samples[i | 3]!, b.samples[i | 3]!]
    most = Math.max(most, Math.abs(a.samples[i]! * at - b.samples[i]! * bt) / 65535)
  }
  return most
}

test('a group fades as one: where its parts overlap nothing shows through', async () => {
  const parts = [block('a', { inside: 'g', x: -10, y: 0 }), block('b', { inside: 'g', x: 10, y: 0 })]
  const frame = await rendered(sceneOf(group('g', { opacity: 0.5 }), ...parts))
  const half = [0xc0 * 257, 0x40 * 257, 0x20 * 257, Math.round(0.5 * 65535)]
  for (const x of [55, 80, 105]) expect(pixel(frame, x, 45)).toEqual(half)
})

test('what is in a group moves, turns and grows with it, and casts one shadow', async () => {
  const part = block('a', { inside: 'g', x: 20, y: 0 })
  const turned = await rendered(sceneOf(group('g', { rotation: 90, scale: 2 }), part))
  const direct = await rendered(sceneOf(block('a', { x: 80, y: 85, rotation: 90, scale: 2 })))
  expect(apart(turned, direct)).toBeLessThanOrEqual(1)

  const shadow = { x: 0, y: 10, soft: 0, colour: '#000000', opacity: 0.4 } as const
  const cast = await rendered(
    sceneOf(group('g', { shadow }), block('a', { inside: 'g', x: -10, y: 0 }), block('b', { inside: 'g', x: 10, y: 0 }))
  )
  // below both of them, where two shadows would lie over each other
  expect(pixel(cast, 80, 60)).toEqual([0, 0, 0, Math.round(0.4 * 65535)])
})

test('going into a group and out of it again leaves the picture as it was', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        x: fc.integer({ min: -40, max: 200 }),
        y: fc.integer({ min: -20, max: 110 }),
        rotation: fc.integer({ min: -180, max: 180 }),
        scale: fc.constantFrom(0.5, 1, 1.7)
      }),
      fc.integer({ min: 10, max: 150 }),
      async (place, x) => {
        const scene = sceneOf(group('outer', place), group('g', { x: 12, y: -7, rotation: 30, inside: 'outer' }))
        scene.elements.unshift(block('a', { x, rotation: 20 }))
        const before = await rendered(scene)
        moveInto(scene, 'a', 'g')
        expect(scene.elements[0]).toMatchObject({ inside: 'g' })
        expect(Scene.safeParse(scene).success).toBe(true)
        expect(apart(await rendered(scene), before)).toBeLessThanOrEqual(40)
        shift(scene, 'a', [9, -4])
        const straight = sceneOf(block('a', { x: x + 9, y: 41, rotation: 20 }))
        expect(apart(await rendered(scene), await rendered(straight))).toBeLessThanOrEqual(2000)
        remove(scene, 'outer')
        remove(scene, 'g')
        expect(scene.elements.map(({ id, inside }) => [id, inside])).toEqual([['a', undefined]])
        expect(apart(await rendered(scene), await rendered(straight))).toBeLessThanOrEqual(2000)
      }
    ),
    { numRuns: 25 }
  )
})

test('the order is that of neighbours within one group; alone brings what it needs, hidden takes all with it', () => {
  const scene = sceneOf(group('g'), block('a', { inside: 'g' }), block('x'), block('b', { inside: 'g' }))
  const order = (): string[] => inOrderOf(scene.elements).map(({ element, depth }) => `${depth}${element.id}`)
  expect(order()).toEqual(['0g', '1a', '1b', '0x'])
  reorder(scene, 'b', -1)
  expect(order()).toEqual(['0g', '1b', '1a', '0x'])
  reorder(scene, 'g', 1)
  expect(order()).toEqual(['0x', '0g', '1b', '1a'])
  reorder(scene, 'a', 1)
  expect(order()).toEqual(['0x', '0g', '1b', '1a'])
  const ids = (): string[] =>
    drawn(scene)
      .map(({ id }) => id)
      .sort()
  scene.elements.find(({ id }) => id === 'a')!.alone = true
  expect(ids()).toEqual(['a', 'g'])
  scene.elements.find(({ id }) => id === 'a')!.alone = false
  scene.elements.find(({ id }) => id === 'g')!.alone = true
  expect(ids()).toEqual(['a', 'b', 'g'])
})

test('a group that is hidden shows nothing of what is in it; an empty one is nothing', async () => {
  const hidden = await rendered(sceneOf(group('g', { hidden: true }), block('a', { inside: 'g', x: 0, y: 0 })))
  expect(hidden.samples.every(code => code === 0)).toBe(true)
  const empty = await rendered(
    sceneOf(group('g', { entrance: { kind: 'slide', seconds: 1, ease: 'soft', side: 'left' } }))
  )
  expect(empty.samples.every(code => code === 0)).toBe(true)
})

test('circles and groups that are none are refused, and nothing can be put into itself', () => {
  const wrong = (scene: Scene): string => Scene.safeParse(scene).error?.issues[0]?.message ?? 'taken'
  expect(wrong(sceneOf(group('a', { inside: 'b' }), group('b', { inside: 'a' })))).toBe('a group lies within itself')
  expect(wrong(sceneOf(block('a', { inside: 'b' }), block('b')))).toBe('no group is called "b"')
  const deep = Array.from({ length: 12 }, (_, n) => group(`g${n}`, n ? { inside: `g${n - 1}` } : {}))
  expect(wrong(sceneOf(...deep))).toBe('groups lie more than 8 deep')
  const scene = sceneOf(group('a'), group('b', { inside: 'a' }))
  expect(groupsFor(scene, 'a')).toEqual([])
  moveInto(scene, 'a', 'b')
  expect(scene.elements[0]!.inside).toBe(undefined)
})

test('another size takes groups along as they are', async () => {
  const scene = sceneOf(group('g', { x: 40, y: 30 }), block('a', { inside: 'g', x: 10, y: 5 }))
  const twice = await rendered(relaid(scene, 320, 180))
  const direct = await rendered({ ...sceneOf(block('a', { x: 100, y: 70, scale: 2 })), width: 320, height: 180 })
  expect(apart(twice, direct)).toBeLessThanOrEqual(1)
})

test('the moth hovers without a seam, and each of its actions is a span', async () => {
  const moth = starters.find(({ id }) => id === 'moth')!.make({}, { ...SIZE, rate: [24, 1], seconds: 6 })
  expect(Scene.safeParse(moth).success).toBe(true)
  expect(moth.spans.map(({ name, from, to }) => [name, from, to])).toEqual([
    ['hover', 1, 48],
    ['settle', 49, 96],
    ['take off', 97, 144]
  ])
  const renderer = await SceneRenderer.of(moth, host)
  // the 49th frame is the first again
  expect(apart(renderer.frame(0), renderer.frame(48))).toBeLessThanOrEqual(2)
  expect(apart(renderer.frame(0), renderer.frame(12))).toBeGreaterThan(30_000)
  for (const seconds of [0.05, 0.5, 60]) {
    const other = starters.find(({ id }) => id === 'moth')!.make({}, { ...SIZE, seconds })
    expect(Scene.safeParse(other).success).toBe(true)
  }
})
