/** What hands do in the picture: sizing, turning, snapping and lining up, held against what is drawn afterwards. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { lettered } from '../../core/draw/scene/elements/lettering'
import {
  bendPoint,
  movePoint,
  nearestOn,
  putPoint,
  takePoint,
  turnPoint
} from '../../core/draw/scene/elements/path/points'
import { pathLine } from '../../core/draw/scene/elements/path/outline'
import type { PathLook } from '../../core/draw/scene/elements/path/look'
import {
  elementAt,
  gripAt,
  GRIPS,
  lineUp,
  linesFor,
  middleOf,
  moveBy,
  outermost,
  size,
  snapBox,
  spread,
  turn,
  type Grip
} from '../../core/draw/scene/hands'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { lengthOf, spotOn } from '../../core/draw/raster/line'
import { testHost } from './support'

const host = await testHost()
const SIZE = { width: 400, height: 240, rate: [10, 1] as [number, number], seconds: 2 }
const GROUP = { kind: 'group' } as Element['look']
const element = (id: string, look: Element['look'], more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, look, SIZE),
  ...more
})
const bar = (id: string, more: Partial<Element> = {}): Element =>
  element(id, figure('rectangle', 60, 30, { fill: '#ffffff' }), more)
const sceneOf = (...elements: Element[]): Scene => Scene.parse({ ...emptyScene('hands', SIZE), elements })
const standsOf = async (scene: Scene, index = 0) => (await SceneRenderer.of(scene, host)).stands(index)
const opposite = ({ across, down }: Grip): Grip => ({ across: -across as Grip['across'], down: -down as Grip['down'] })

const near = (found: readonly number[], wanted: readonly number[], within = 0.05): void => {
  for (const [n, value] of found.entries()) expect(Math.abs(value - wanted[n]!)).toBeLessThan(within)
}

const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true })
const placing = fc.record({
  ...{ x: number(100, 300), y: number(60, 180), scale: number(0.3, 3), rotation: number(-200, 200) },
  ...{ wide: number(0.4, 2), tall: number(0.4, 2) }
})

test('a grip goes where the hand moves it, and what lies opposite stays, whatever group it is in', async () => {
  const grips = fc.constantFrom(...GRIPS)
  await fc.assert(
    fc.asyncProperty(
      placing,
      fc.record({ x: number(-50, 50), y: number(-50, 50), scale: number(0.5, 2), rotation: number(-180, 180) }),
      grips,
      fc.tuple(number(-15, 60), number(-15, 60)),
      async (own, group, grip, by) => {
        for (const look of [figure('rectangle', 60, 30, { fill: '#ffffff' }), lettered('Fern', 40)]) {
          const scene = sceneOf(element('g', GROUP, group), element('one', look, { ...own, inside: 'g' }))
          const before = (await standsOf(scene)).one!
          const said = size(scene, 'one', before, { grip, by, free: true })
          const after = (await standsOf(scene)).one!
          near(gripAt(after, opposite(grip)), gripAt(before, opposite(grip)))
          // what is said to be so is so: the picture is drawn from it while the hand still moves
          near(gripAt(said, grip), gripAt(after, grip))
          near(said.box, after.box, 0.3)
        }
      }
    ),
    { numRuns: 60 }
  )
})

test('a corner that is pulled keeps the shape and lies beneath the hand; an own size stays in whole', async () => {
  const scene = sceneOf(bar('one', { x: 100, y: 100 }))
  const before = (await standsOf(scene)).one!
  expect(before.box).toEqual([70, 85, 130, 115])
  size(scene, 'one', before, { grip: { across: 1, down: 1 }, by: [60, 30] })
  expect((await standsOf(scene)).one!.box).toEqual([70, 85, 190, 145])
  expect(scene.elements[0]).toMatchObject({ scale: 2, x: 130, y: 115 })

  // a side makes a shape itself wider: its corners and its outline keep their size
  const side = (await standsOf(scene)).one!
  size(scene, 'one', side, { grip: { across: -1, down: 0 }, by: [20, 7] })
  expect((await standsOf(scene)).one!.box).toEqual([90, 85, 190, 145])
  expect(scene.elements[0]!.look).toMatchObject({ width: 50, height: 30 })
  expect(scene.elements[0]!.wide).toBeUndefined()

  // it never turns inside out
  const now = (await standsOf(scene)).one!
  size(scene, 'one', now, { grip: { across: 1, down: 1 }, by: [-900, -900] })
  const [left, top, right, bottom] = (await standsOf(scene)).one!.box
  near([left, top], [90, 85])
  expect(right).toBeGreaterThan(left)
  expect(bottom).toBeGreaterThan(top)
})

test('keys are sized, turned and moved along with the element', async () => {
  const scene = sceneOf(
    bar('one', {
      tracks: [
        {
          of: 'scale',
          keys: [
            { at: 0, value: 1, ease: 'linear' },
            { at: 1, value: 3, ease: 'linear' }
          ]
        },
        {
          of: 'rotation',
          keys: [
            { at: 0, value: 0, ease: 'linear' },
            { at: 1, value: 90, ease: 'linear' }
          ]
        },
        {
          of: 'x',
          keys: [
            { at: 0, value: 100, ease: 'linear' },
            { at: 1, value: 200, ease: 'linear' }
          ]
        }
      ]
    })
  )
  const before = (await standsOf(scene, 5)).one!
  size(scene, 'one', before, { grip: { across: 1, down: 1 }, by: [3, 4] })
  const sized = (await standsOf(scene, 5)).one!
  near(gripAt(sized, { across: -1, down: -1 }), gripAt(before, { across: -1, down: -1 }))
  turn(scene, 'one', sized, 30)
  const turned = (await standsOf(scene, 5)).one!
  near(middleOf(turned), middleOf(sized))
  expect(scene.elements[0]!.tracks[1]!.keys.map(({ value }) => value)).toEqual([30, 120])
})

test('what is turned stays about its middle, in groups that are turned as well', async () => {
  await fc.assert(
    fc.asyncProperty(placing, number(-180, 180), number(-360, 360), async (own, group, degrees) => {
      const scene = sceneOf(
        element('g', GROUP, { x: 20, y: 10, rotation: group }),
        element('one', lettered('Fern House', 30), { ...own, inside: 'g' })
      )
      const before = (await standsOf(scene)).one!
      const said = turn(scene, 'one', before, degrees)
      const after = (await standsOf(scene)).one!
      near(middleOf(after), middleOf(before))
      near(gripAt(said, { across: 1, down: 1 }), gripAt(after, { across: 1, down: 1 }))
    }),
    { numRuns: 40 }
  )
})

test('the one in front is found where it lies, turned or not; out of groups that are not entered, the group', async () => {
  const scene = sceneOf(
    bar('front', { x: 100, y: 100, rotation: 45 }),
    element('g', GROUP, { x: 200, y: 100 }),
    bar('in', { inside: 'g', x: 0, y: 0 }),
    bar('held', { x: 300, y: 100, locked: true }),
    bar('back', { x: 110, y: 110 })
  )
  const stands = await standsOf(scene)
  const at = (x: number, y: number, entered: string | null = null): string | null =>
    elementAt(scene, stands, [x, y], { reach: 4, entered })
  expect(at(100, 100)).toBe('front')
  // within its upright box, and not within it
  expect(at(72, 122)).toBe(null)
  expect(at(138, 122)).toBe('back')
  expect(at(205, 100)).toBe('g')
  expect(at(205, 100, 'g')).toBe('in')
  expect(at(205, 100, 'in')).toBe('in')
  expect(at(300, 100)).toBe(null)
})

test('what moves snaps to the picture, its safe areas and what lies beside it, and to nothing that moves along', async () => {
  const scene = sceneOf(
    bar('one', { x: 100, y: 100 }),
    element('g', GROUP, { x: 250, y: 60 }),
    bar('in', { inside: 'g', x: 0, y: 0 }),
    bar('other', { inside: 'g', x: 0, y: 80 })
  )
  const stands = await standsOf(scene)
  const lines = linesFor(scene, stands, ['one'])
  expect(lines.x).toEqual(
    expect.arrayContaining([0, 200, 400, 14, 386, 20, 380, 220, 250, 280].map(v => expect.closeTo(v, 6)))
  )
  expect(lines.x).not.toContain(70)
  expect(snapBox([216, 10, 276, 40], lines, 5)).toMatchObject({ by: [4, expect.closeTo(-1.6, 6)], x: 220 })
  expect(snapBox([216, 103, 276, 133], lines, 1)).toMatchObject({ by: [0, 0], x: null, y: null })
  // neither the group it is moved in nor its fellows' group
  const within = linesFor(scene, stands, ['in'])
  expect(within.y).toContain(stands.other!.box[1])
  expect(within.y).not.toContain(stands.in!.box[1])
  expect(linesFor(scene, stands, ['g']).x).not.toContain(220)
})

test('several are lined up with each other, one with the picture; gaps become even', async () => {
  const scene = sceneOf(
    bar('a', { x: 60, y: 50 }),
    bar('b', { x: 140, y: 90, scale: 0.5 }),
    element('g', GROUP, { x: 300, y: 40, rotation: 90 }),
    bar('c', { inside: 'g', x: 10, y: 0 })
  )
  lineUp(scene, await standsOf(scene), ['a', 'b', 'g', 'c'], 'bottom')
  let stands = await standsOf(scene)
  near(
    [stands.a!.box[3], stands.b!.box[3], stands.g!.box[3]],
    [97.5, 97.5, 97.5].map(() => stands.a!.box[3])
  )
  spread(scene, stands, ['a', 'b', 'c'], 'across')
  stands = await standsOf(scene)
  near([stands.b!.box[0] - stands.a!.box[2]], [stands.c!.box[0] - stands.b!.box[2]])
  near([stands.a!.box[0]], [30])
  lineUp(scene, stands, ['c'], 'across')
  lineUp(scene, await standsOf(scene), ['c'], 'down')
  near(middleOf((await standsOf(scene)).c!), [200, 120])
  expect(outermost(scene, ['g', 'c', 'a', 'gone'])).toEqual(['g', 'a'])
  const moved = sceneOf(bar('a', { x: 60, y: 50 }))
  const before = (await standsOf(moved)).a!
  expect(moveBy(moved, 'a', before, [3, -2])).toEqual((await standsOf(moved)).a)
})

const point = fc.record({
  ...{ x: number(-100, 100), y: number(-100, 100) },
  before: fc.option(fc.tuple(number(-60, 60), number(-60, 60))),
  after: fc.option(fc.tuple(number(-60, 60), number(-60, 60)))
})
const pathOf = (points: PathLook['points'], closed: boolean): PathLook => ({
  ...{ kind: 'path', points, closed, fill: null, stroke: { colour: '#ffffff', width: 4 } },
  ...{ rider: 'none', riderSize: 40 }
})

test('a point put into a path leaves its line as it was, and lies on it', () => {
  fc.assert(
    fc.property(
      fc.array(point, { minLength: 2, maxLength: 5 }),
      fc.boolean(),
      number(-120, 120),
      (points, closed, x) => {
        const look = pathOf(points, closed)
        const ends = (of: PathLook): Float64Array =>
          closed
            ? Float64Array.from([...pathLine(of.points, true), of.points[0]!.x, of.points[0]!.y])
            : pathLine(of.points, false)
        const before = ends(look)
        const on = nearestOn(look, [x, 30])
        // no place of the drawn line is nearer, but for how closely curves are followed
        const [along, length] = [spotOn(before), lengthOf(before)]
        for (let n = 0; n <= 40; n++) {
          const spot = along((n / 40) * length)
          expect(Math.hypot(spot.x - x, spot.y - 30)).toBeGreaterThan(on.off - 0.6)
        }
        const n = putPoint(look, on)
        expect([look.points[n]!.x, look.points[n]!.y]).toEqual([expect.closeTo(on.x, 1), expect.closeTo(on.y, 1)])
        const after = ends(look)
        const far = (line: Float64Array, other: Float64Array): number => {
          let most = 0
          for (let i = 0; i < line.length; i += 2) {
            let least = Infinity
            for (let j = 0; j + 3 < other.length; j += 2) {
              const [ax, ay, bx, by] = [other[j]!, other[j + 1]!, other[j + 2]!, other[j + 3]!]
              const sq = (bx - ax) ** 2 + (by - ay) ** 2
              const t = sq
                ? Math.max(0, Math.min(1, ((line[i]! - ax) * (bx - ax) + (line[i + 1]! - ay) * (by - ay)) / sq))
                : 0
              least = Math.min(least, Math.hypot(line[i]! - ax - t * (bx - ax), line[i + 1]! - ay - t * (by - ay)))
            }
            most = Math.max(most, least)
          }
          return most
        }
        expect(far(after, before)).toBeLessThan(0.1)
        expect(far(before, after)).toBeLessThan(0.1)
      }
    ),
    { numRuns: 100, endOnFailure: true }
  )
})

test('points of a path are moved, bent, made round and taken out, and two of them stay', () => {
  const at = (x: number, y: number): PathLook['points'][number] => ({ x, y, before: null, after: null })
  const look = pathOf([at(0, 0), at(30, 0), at(30, 60)], false)
  movePoint(look, 1, [3, -1])
  expect(look.points[1]).toMatchObject({ x: 33, y: -1 })
  bendPoint(look, 1, 'after', [0, 10])
  expect(look.points[1]).toMatchObject({ after: [0, 10], before: [-0, -10] })
  bendPoint(look, 1, 'before', [-20, 0])
  expect(look.points[1]).toMatchObject({ before: [-20, 0], after: [10, -0] })
  bendPoint(look, 1, 'after', [5, 5], true)
  expect(look.points[1]).toMatchObject({ before: [-20, 0], after: [5, 5] })
  turnPoint(look, 1)
  expect(look.points[1]).toMatchObject({ before: null, after: null })
  turnPoint(look, 1)
  const { before, after } = look.points[1]!
  expect(before![0] * after![1] - before![1] * after![0]).toBeCloseTo(0, 1)
  expect(before![0] * after![0] + before![1] * after![1]).toBeLessThan(0)
  turnPoint(look, 0)
  expect(look.points[0]!.before).toBe(null)
  expect(takePoint(look, 1)).toBe(true)
  expect(takePoint(look, 0)).toBe(false)
  expect(look.points).toHaveLength(2)
})
