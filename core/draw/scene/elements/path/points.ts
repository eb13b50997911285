/** Changing the points of a path by hand: put in where its line runs, taken out, moved, made round and pointed. */
import type { PathLook, Point } from './look'

type Spot = readonly [x: number, y: number]

/** Steps that each piece is looked at in for the place nearest to another; refined between the best two. */
const STEPS = 32
const REFINED = 24

const between = (a: Spot, b: Spot, t: number): [number, number] => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]
const to = ({ x, y }: Point): Spot => [x, y]
const round = (value: number): number => Math.round(value * 100) / 100
function way([x, y]: Spot, [u, v]: Spot): [number, number] {
  return [round(u - x), round(v - y)]
}

/** The four places that bend the piece from a point to the next. */
function piece(from: Point, next: Point): [Spot, Spot, Spot, Spot] {
  const [after, before]: [Spot, Spot] = [from.after ?? [0, 0], next.before ?? [0, 0]]
  return [to(from), [from.x + after[0], from.y + after[1]], [next.x + before[0], next.y + before[1]], to(next)]
}

/** A curve cut in two at a share of it, by halving its sides (de Casteljau). */
function cut([a, b, c, d]: [Spot, Spot, Spot, Spot], t: number) {
  const [ab, bc, cd] = [between(a, b, t), between(b, c, t), between(c, d, t)]
  const [abc, bcd] = [between(ab, bc, t), between(bc, cd, t)]
  return { ab, abc, at: between(abc, bcd, t), bcd, cd }
}

/** The pieces of a path, by the points they run from; the last runs on to the first where it is closed. */
const pieces = ({ points, closed }: PathLook): [Point, Point][] =>
  points.flatMap((point, n): [Point, Point][] => {
    const next = points[n + 1] ?? (closed ? points[0] : undefined)
    return next ? [[point, next]] : []
  })

export interface OnPath {
  /** The point that the piece runs from, and how far along it, 0 to 1. */
  after: number
  share: number
  x: number
  y: number
  /** How far the place asked for lies from it. */
  off: number
}

/** The place of a path that lies nearest to another, in its coordinates. */
export function nearestOn(look: PathLook, [x, y]: Spot): OnPath {
  let best: OnPath = { after: 0, share: 0, x: look.points[0]!.x, y: look.points[0]!.y, off: Infinity }
  for (const [after, [from, next]] of pieces(look).entries()) {
    const bends = piece(from, next)
    const straight = !from.after && !next.before
    const tried = (share: number): OnPath => {
      const at = straight ? between(bends[0], bends[3], share) : cut(bends, share).at
      return { after, share, x: at[0], y: at[1], off: Math.hypot(at[0] - x, at[1] - y) }
    }
    let here = tried(0)
    for (let n = 1; n <= STEPS; n++) {
      const next = tried(n / STEPS)
      if (next.off < here.off) here = next
    }
    let reach = 1 / STEPS
    for (let n = 0; n < REFINED; n++) {
      reach /= 2
      for (const share of [here.share - reach, here.share + reach]) {
        const next = tried(Math.min(1, Math.max(0, share)))
        if (next.off < here.off) here = next
      }
    }
    if (here.off < best.off) best = here
  }
  return best
}

/** Puts a point in where the line runs, so that it stays the line it was; gives its place in the list. */
export function putPoint(look: PathLook, { after, share }: Pick<OnPath, 'after' | 'share'>): number {
  const from = look.points[after]!
  const next = look.points[after + 1] ?? look.points[0]!
  const bends = piece(from, next)
  const straight = !from.after && !next.before
  const { ab, abc, at, bcd, cd } = cut(bends, share)
  const [x, y] = straight ? between(bends[0], bends[3], share) : at
  const point: Point = { x: round(x), y: round(y), before: null, after: null }
  if (!straight) {
    from.after = way(bends[0], ab)
    next.before = way(bends[3], cd)
    Object.assign(point, { before: way(at, abc), after: way(at, bcd) })
  }
  look.points.splice(after + 1, 0, point)
  return after + 1
}

/** Takes a point out; a path keeps two, a closed one three. Says whether it did. */
export function takePoint(look: PathLook, n: number): boolean {
  if (look.points.length <= (look.closed ? 3 : 2)) return false
  look.points.splice(n, 1)
  return true
}

/** Moves a point, its handles with it, by a way in the path's coordinates. */
export function movePoint(look: PathLook, n: number, [x, y]: Spot): void {
  const point = look.points[n]!
  point.x = round(point.x + x)
  point.y = round(point.y + y)
}

/**
 * Bends the line at a point by one of its handles, given from the point; unless `apart`, the other handle turns so that
 * the line runs on straight through it, at the length it has.
 */
export function bendPoint(look: PathLook, n: number, which: 'before' | 'after', [x, y]: Spot, apart = false): void {
  const point = look.points[n]!
  point[which] = x === 0 && y === 0 ? null : [round(x), round(y)]
  const far = which === 'before' ? 'after' : 'before'
  const length = Math.hypot(x, y)
  if (apart || length === 0) return
  const other = point[far] ? Math.hypot(...point[far]) : length
  point[far] = [round((-x / length) * other), round((-y / length) * other)]
}

/** The part of the way to its neighbours that a new handle reaches. */
const REACH = 1 / 3

/** Makes a round point pointed, and a pointed one round: its handles lie along the line between its neighbours. */
export function turnPoint(look: PathLook, n: number): void {
  const { points, closed } = look
  const point = points[n]!
  if (point.before || point.after) {
    Object.assign(point, { before: null, after: null })
    return
  }
  const [one, other] = [
    points[n - 1] ?? (closed ? points.at(-1) : undefined),
    points[n + 1] ?? (closed ? points[0] : undefined)
  ]
  const [from, next] = [one ?? point, other ?? point]
  const [x, y] = [next.x - from.x, next.y - from.y]
  const length = Math.hypot(x, y)
  if (length === 0) return
  const handle = (to: Point | undefined, sign: number): [number, number] | null => {
    if (!to) return null
    const reach = (sign * Math.hypot(to.x - point.x, to.y - point.y) * REACH) / length
    return [round(x * reach), round(y * reach)]
  }
  point.before = handle(one, -1)
  point.after = handle(other, 1)
}
