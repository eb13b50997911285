/**
 * What hands do to elements in the picture: size them by a grip, turn them, snap what moves to what lies beside it, and
 * line several up. Everything is in pixels of the picture, and every change is of the scene that is given.
 */
import { SAFE_AREAS } from '../../base/safe-areas'
import { combined, inverse, placing, type Affine } from '../raster/line'
import { kindOf } from './elements/kinds'
import { boxAt, NOTHING, united } from './extent'
import type { Extent } from './ink'
import { holdersOf, shift } from './groups'
import type { Element, Scene } from './scene'
import type { Keyed } from './values'

export type Spot = readonly [x: number, y: number]

/** Where an element stands at a frame: its own box, the way from its coordinates into the picture, its box there. */
export interface Stand {
  own: Extent
  at: Affine
  box: Extent
  /** Where what it lies in is in the picture, as it is seen then. */
  within: Affine
}
export type Stands = Readonly<Record<string, Stand>>

/** A grip of a box: -1 at its left or top, 1 at its right or bottom, 0 in between. */
export interface Grip {
  across: -1 | 0 | 1
  down: -1 | 0 | 1
}

/** The grips of a box, from its top left on. */
export const GRIPS: readonly Grip[] = ([-1, 0, 1] as const).flatMap(down =>
  ([-1, 0, 1] as const).flatMap(across => (across === 0 && down === 0 ? [] : [{ across, down }]))
)

/** The least an element is made at once: a hundredth of what it was. */
const LEAST = 0.01
/** How many times as large, wide or tall as drawn an element may be. */
const MOST_TIMES = 100

const spotOf = ({ a, b, c, d, e, f }: Affine, [x, y]: Spot): Spot => [a * x + c * y + e, b * x + d * y + f]
const middle = (from: number, to: number): number => (from + to) / 2

/** Where a grip lies in the element's own coordinates. */
function gripIn([left, top, right, bottom]: Extent, { across, down }: Grip): Spot {
  return [[left, middle(left, right), right][across + 1]!, [top, middle(top, bottom), bottom][down + 1]!]
}

/** Where a grip of an element lies in the picture. */
export const gripAt = ({ own, at }: Stand, grip: Grip): Spot => spotOf(at, gripIn(own, grip))

/** Whether a place of the picture lies in an element's own box; one of no width or height is taken as `reach` wide. */
export function holdsSpot({ own, at }: Stand, [x, y]: Spot, reach: number): boolean {
  const [u, v] = spotOf(inverse(at), [x, y])
  const [across, down] = [
    reach / Math.max(1e-9, Math.hypot(at.a, at.b)),
    reach / Math.max(1e-9, Math.hypot(at.c, at.d))
  ]
  const [left, top, right, bottom] = own
  const [w, h] = [Math.max(0, across - (right - left)) / 2, Math.max(0, down - (bottom - top)) / 2]
  return u >= left - w && u <= right + w && v >= top - h && v <= bottom + h
}

/**
 * The element in front at a place: out of groups that are not `entered`, the group itself. Null where there is none
 * that may be moved.
 */
export function elementAt(
  scene: Scene,
  stands: Stands,
  at: Spot,
  how: { reach: number; entered?: string | null }
): string | null {
  const byId = new Map(scene.elements.map(element => [element.id, element]))
  const entered = how.entered ? [how.entered, ...holdersOf(scene, how.entered)] : []
  for (const { id, look, locked } of scene.elements) {
    const stand = stands[id]
    if (!stand || locked || kindOf(look).holds || !holdsSpot(stand, at, how.reach)) continue
    const holders = holdersOf(scene, id)
    const last = holders.findIndex(holder => entered.includes(holder))
    const found = [id, ...holders.slice(0, last < 0 ? holders.length : last)].at(-1)!
    if (!byId.get(found)?.locked) return found
  }
  return null
}

/** Multiplies a value of an element, its keys with it, as far as it may go; gives by how much that was. */
function times(element: Element, of: Keyed & ('scale' | 'wide' | 'tall'), by: number): number {
  if (by === 1) return 1
  const held = (value: number): number => Math.min(MOST_TIMES, Math.round(value * by * 1e6) / 1e6)
  const before = element[of] ?? 1
  element[of] = held(before)
  for (const track of element.tracks) if (track.of === of) for (const key of track.keys) key.value = held(key.value)
  return before > 0 ? element[of] / before : by
}

/**
 * Sizes an element by one of its grips, moved by a way of the picture; what lies opposite stays where it is. A corner
 * keeps its shape unless it is `free`; a side makes it wider or taller, a figure of its own size by that size. Gives
 * where it stands then.
 */
export function size(scene: Scene, id: string, stand: Stand, { grip, by, free = false }: Sizing): Stand {
  const { own, at, within } = stand
  const element = scene.elements.find(other => other.id === id)
  if (!element) return stand
  const from = gripIn(own, grip)
  const still = gripIn(own, { across: -grip.across as Grip['across'], down: -grip.down as Grip['down'] })
  const [u, v] = spotOf(inverse({ ...at, e: 0, f: 0 }), by)
  const { resize } = kindOf(element.look)
  const corner = grip.across !== 0 && grip.down !== 0
  // how the opposite side would move, in the element's coordinates
  let [du, dv] = [0, 0]
  let [fx, fy] = [1, 1]
  let grown = own
  if (corner && !free) {
    const [near, far] = [spotOf(at, still), spotOf(at, from)]
    const [x, y] = [far[0] - near[0], far[1] - near[1]]
    fx = fy = partOf(by[0] * x + by[1] * y, x * x + y * y)
    fx = fy = times(element, 'scale', fx)
    ;[du, dv] = [(1 - fx) * still[0], (1 - fy) * still[1]]
  } else if (resize) {
    const [wider, taller] = resize(element.look, grip.across * u, grip.down * v)
    ;[du, dv] = [(grip.across * wider) / 2, (grip.down * taller) / 2]
    grown = [own[0] - wider / 2, own[1] - taller / 2, own[2] + wider / 2, own[3] + taller / 2]
  } else {
    if (grip.across) fx = partOf(u, from[0] - still[0])
    if (grip.down) fy = partOf(v, from[1] - still[1])
    fx = times(element, 'wide', fx)
    fy = times(element, 'tall', fy)
    ;[du, dv] = [(1 - fx) * still[0], (1 - fy) * still[1]]
  }
  const [x, y] = [at.a * du + at.c * dv, at.b * du + at.d * dv]
  shift(scene, id, [x, y], within)
  return standAt(within, grown, { a: at.a * fx, b: at.b * fx, c: at.c * fy, d: at.d * fy, e: at.e + x, f: at.f + y })
}

const standAt = (within: Affine, own: Extent, at: Affine): Stand => ({ own, at, box: boxAt(own, at), within })

/** Moves an element by a way of the picture, and gives where it stands then. */
export function moveBy(scene: Scene, id: string, { own, at, box, within }: Stand, [x, y]: Spot): Stand {
  shift(scene, id, [x, y], within)
  return {
    within,
    own,
    at: { ...at, e: at.e + x, f: at.f + y },
    box: [box[0] + x, box[1] + y, box[2] + x, box[3] + y]
  }
}

/** How many times as long a way makes a whole of which it moves the end. */
const partOf = (way: number, whole: number): number => (whole === 0 ? 1 : Math.max(LEAST, 1 + way / whole))

export interface Sizing {
  grip: Grip
  by: Spot
  free?: boolean
}

/** The middle of an element's own box, in the picture. */
export const middleOf = (stand: Stand): Spot => gripAt(stand, { across: 0, down: 0 })

/** Turns an element about the middle of its box, by degrees clockwise, and gives where it stands then. */
export function turn(scene: Scene, id: string, stand: Stand, degrees: number): Stand {
  const element = scene.elements.find(other => other.id === id)
  if (!element) return stand
  const turned = (value: number): number => Math.round((value + degrees) * 1000) / 1000
  element.rotation = turned(element.rotation)
  for (const track of element.tracks)
    if (track.of === 'rotation') for (const key of track.keys) key.value = turned(key.value)
  const [x, y] = middleOf(stand)
  const { own, at, within } = stand
  const about = combined(placing(x, y, 1, degrees), placing(-x, -y, 1, 0))
  const next = combined(about, at)
  shift(scene, id, [next.e - at.e, next.f - at.f], within)
  return standAt(within, own, next)
}

/** Lines of the picture that what moves comes to lie on. */
export interface SnapLines {
  x: readonly number[]
  y: readonly number[]
}

/** Edges and middle of the picture, edges of its safe areas, and those of every element but the ones that move. */
export function linesFor(scene: Scene, stands: Stands, moving: readonly string[]): SnapLines {
  const held = new Set(moving.flatMap(id => holdersOf(scene, id)))
  const goes = (id: string): boolean => [id, ...holdersOf(scene, id)].some(each => moving.includes(each))
  const boxes = Object.entries(stands).flatMap(([id, { box }]) => (held.has(id) || goes(id) ? [] : [box]))
  const along = (side: number, near: 0 | 1): number[] => [
    ...[0, side / 2, side],
    ...SAFE_AREAS.flatMap(share => [(side * (1 - share)) / 2, (side * (1 + share)) / 2]),
    ...boxes.flatMap(box => [box[near], middle(box[near], box[near + 2]!), box[near + 2]!])
  ]
  return { x: along(scene.width, 0), y: along(scene.height, 1) }
}

/** How far something is to be moved so that it lies on a line, and on which; 0 and null where none is near. */
export interface Snap {
  by: [x: number, y: number]
  x: number | null
  y: number | null
}

/** The nearest line to any of the places, within reach. */
function nearest(
  places: readonly number[],
  lines: readonly number[],
  reach: number
): { by: number; line: number | null } {
  let found: { by: number; line: number | null } = { by: 0, line: null }
  let least = reach
  for (const place of places)
    for (const line of lines)
      if (Math.abs(line - place) < least) {
        least = Math.abs(line - place)
        found = { by: line - place, line }
      }
  return found
}

/** Edges and middle of a box on the nearest lines. */
export function snapBox([left, top, right, bottom]: Extent, { x, y }: SnapLines, reach: number): Snap {
  const across = nearest([left, middle(left, right), right], x, reach)
  const down = nearest([top, middle(top, bottom), bottom], y, reach)
  return { by: [across.by, down.by], x: across.line, y: down.line }
}

/** A place on the nearest lines. */
export const snapSpot = ([x, y]: Spot, lines: SnapLines, reach: number): Snap => snapBox([x, y, x, y], lines, reach)

/** Ids without those that move along with a group that is among them. */
export function outermost(scene: Scene, ids: readonly string[]): string[] {
  const there = new Set(scene.elements.map(({ id }) => id))
  return ids.filter(id => there.has(id) && !holdersOf(scene, id).some(holder => ids.includes(holder)))
}

export const EDGES = ['left', 'across', 'right', 'top', 'down', 'bottom'] as const
export type Edge = (typeof EDGES)[number]

/**
 * Lines elements up by an edge, or by their middles across or down: several with the box that they have together, one
 * with the picture.
 */
export function lineUp(scene: Scene, stands: Stands, ids: readonly string[], edge: Edge): void {
  const moved = outermost(scene, ids).filter(id => stands[id])
  if (moved.length === 0) return
  const boxes = moved.map(id => stands[id]!.box)
  const around: Extent = moved.length === 1 ? [0, 0, scene.width, scene.height] : boxes.reduce(united, NOTHING)
  const near = edge === 'top' || edge === 'down' || edge === 'bottom' ? 1 : 0
  const share = { left: 0, top: 0, across: 0.5, down: 0.5, right: 1, bottom: 1 }[edge]
  const place = (box: Extent): number => box[near] + (box[near + 2]! - box[near]) * share
  for (const [n, id] of moved.entries()) {
    const by = place(around) - place(boxes[n]!)
    shift(scene, id, near ? [0, by] : [by, 0], stands[id]!.within)
  }
}

/** Gives three elements or more gaps of one width between them; the first and the last stay. */
export function spread(scene: Scene, stands: Stands, ids: readonly string[], way: 'across' | 'down'): void {
  const near = way === 'across' ? 0 : 1
  const moved = outermost(scene, ids)
    .flatMap(id => (stands[id] ? [{ id, from: stands[id].box[near], to: stands[id].box[near + 2]! }] : []))
    .sort((a, b) => a.from + a.to - b.from - b.to)
  if (moved.length < 3) return
  const [first, last] = [moved[0]!, moved.at(-1)!]
  const filled = moved.reduce((sum, { from, to }) => sum + to - from, 0)
  const gap = (last.to - first.from - filled) / (moved.length - 1)
  let at = first.from
  for (const { id, from, to } of moved) {
    if (id !== first.id && id !== last.id)
      shift(scene, id, way === 'across' ? [at - from, 0] : [0, at - from], stands[id]!.within)
    at += to - from + gap
  }
}
