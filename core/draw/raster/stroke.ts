/** The area that a stroke covers: a strip for each piece of a line, and what joins and ends them (SVG 1.1, 11.4). */
import { areaOf } from './area'
import { type Bounds, type Coverage } from './coverage'
import { MOST_STEPS, type Line, type Run } from './line'

export interface StrokeStyle {
  width: number
  cap: string
  join: string
  miterLimit: number
  dashes: readonly number[]
  dashOffset: number
}

/** Most dashes of one stroke. */
export const MOST_DASHES = 20_000

/** The dashes of a run, as runs of their own. */
function dashed({ line, closed }: Run, dashes: readonly number[], offset: number): Run[] {
  const pattern = dashes.length % 2 ? [...dashes, ...dashes] : dashes
  const whole = pattern.reduce((sum, each) => sum + each, 0)
  if (!(whole > 0)) return [{ line, closed }]
  const points = closed ? [...line, line[0]!, line[1]!] : [...line]
  const runs: Run[] = []
  let place = ((offset % whole) + whole) % whole
  let n = 0
  while (place >= pattern[n]!) place -= pattern[n++]!
  let left = pattern[n]! - place
  let open: number[] = n % 2 === 0 ? [points[0]!, points[1]!] : []
  for (let i = 2; i < points.length; i += 2) {
    let [x, y] = [points[i - 2]!, points[i - 1]!]
    const [tx, ty] = [points[i]!, points[i + 1]!]
    let rest = Math.hypot(tx - x, ty - y)
    while (rest > left) {
      const t = left / rest
      x += (tx - x) * t
      y += (ty - y) * t
      rest -= left
      if (n % 2 === 0) {
        open.push(x, y)
        runs.push({ line: Float64Array.from(open), closed: false })
        if (runs.length > MOST_DASHES) throw new Error('its dashes are more than can be drawn')
        open = []
      } else open = [x, y]
      n = (n + 1) % pattern.length
      left = pattern[n]!
      if (left <= 0 && rest <= 0) break
    }
    left -= rest
    if (n % 2 === 0) open.push(tx, ty)
  }
  if (open.length >= 4) runs.push({ line: Float64Array.from(open), closed: false })
  return runs
}

type Spot = readonly [number, number]

/** Cosine of bends that may be of a curve that was followed: both sides go on without a corner. */
const SMOOTH = 0.97

/** Pixels that such a bend may reach beyond the round of it. */
const NEAR = 0.01

/** Points of an arc about a place from one direction to another, the ends left out; `way` is 1 or -1. */
function arcTo(out: number[], [x, y]: Spot, r: number, [from, to]: Spot, way: 1 | -1): void {
  let turn = (to - from) * way
  while (turn < 0) turn += 2 * Math.PI
  const steps = Math.min(MOST_STEPS, Math.ceil(turn / Math.acos(Math.max(0, 1 - 0.01 / Math.max(r, 0.02)))))
  for (let n = 1; n < steps; n++) {
    const at = from + (way * turn * n) / steps
    out.push(x + r * Math.cos(at), y + r * Math.sin(at))
  }
}

/** A run's points without those that lie on the one before. */
function apart({ line, closed }: Run): Spot[] {
  const points: Spot[] = []
  const near = (a: Spot, b: Spot): boolean => Math.hypot(a[0] - b[0], a[1] - b[1]) <= 1e-6
  for (let i = 0; i < line.length; i += 2) {
    const point: Spot = [line[i]!, line[i + 1]!]
    if (points.length === 0 || !near(point, points.at(-1)!)) points.push(point)
  }
  if (closed && points.length > 1 && near(points[0]!, points.at(-1)!)) points.pop()
  return points
}

/** Both sides of a stroke, as far as they have come. */
interface Sides {
  left: number[]
  right: number[]
}

/** Where a line turns: the place, both directions, and the length of the shorter piece beside it. */
interface Bend {
  at: Spot
  from: Spot
  to: Spot
  room: number
}

/** The points of a side, before and beyond a bend, that lie across from the bend itself. */
type Across = readonly [before: Spot, beyond: Spot]

/**
 * The inner side of a bend: the point where its two edges cross, or, where the pieces beside it are too short for
 * that, through the bend itself. It may not run back over itself: what it runs over would count as not covered.
 */
function passInside(out: number[], { at, room }: Bend, [before, beyond]: Across, tangent: number): void {
  const crosses = tangent * 2 * Math.hypot(before[0] - at[0], before[1] - at[1]) <= room
  if (crosses) out.push(...meeting(at, [before, beyond]))
  else out.push(...before, ...at, ...beyond)
}

/** Where the two edges of a side meet, beyond a bend or within it. */
function meeting([x, y]: Spot, [before, beyond]: Across): Spot {
  const [n, m]: [Spot, Spot] = [
    [before[0] - x, before[1] - y],
    [beyond[0] - x, beyond[1] - y]
  ]
  const whole = 1 + (n[0] * m[0] + n[1] * m[1]) / (n[0] * n[0] + n[1] * n[1])
  return [x + (n[0] + m[0]) / whole, y + (n[1] + m[1]) / whole]
}

/** What both sides of a stroke do at a bend. */
function corner({ left, right }: Sides, bend: Bend, { width, join, miterLimit }: StrokeStyle): void {
  const { at, from, to } = bend
  const r = width / 2
  const dot = Math.min(1, Math.max(-1, from[0] * to[0] + from[1] * to[1]))
  const tangent = Math.sqrt((1 - dot) / Math.max(1e-12, 1 + dot))
  const turnsLeft = from[0] * to[1] - from[1] * to[0] > 0
  const [inner, outer, side] = turnsLeft ? [left, right, -1] : [right, left, 1]
  const across = (v: Spot, way: number): Spot => [at[0] - way * v[1] * r, at[1] + way * v[0] * r]
  const outside: Across = [across(from, side), across(to, side)]
  passInside(inner, bend, [across(from, -side), across(to, -side)], tangent)
  const mitred = join !== 'round' && join !== 'bevel'
  const slight = dot > SMOOTH && (mitred || r * (Math.hypot(1, tangent) - 1) <= NEAR)
  if (slight || (mitred && Math.hypot(1, tangent) <= miterLimit)) {
    outer.push(...meeting(at, outside))
    return
  }
  outer.push(...outside[0])
  if (join === 'round') {
    const angle = ([x, y]: Spot): number => Math.atan2(y - at[1], x - at[0])
    arcTo(outer, at, r, [angle(outside[0]), angle(outside[1])], turnsLeft ? 1 : -1)
  }
  outer.push(...outside[1])
}

/** Closed areas that together are the stroke; where it lies over itself they turn the same way. */
export function strokeAreas(runs: readonly Run[], style: StrokeStyle): Line[] {
  const areas: Line[] = []
  const r = style.width / 2
  if (!(r > 0)) return areas
  const parts = style.dashes.length ? runs.flatMap(run => dashed(run, style.dashes, style.dashOffset)) : runs
  for (const run of parts) {
    const points = apart(run)
    const count = points.length
    const far = (n: number): number => {
      const [from, to] = [points[n % count]!, points[(n + 1) % count]!]
      return Math.hypot(to[0] - from[0], to[1] - from[1])
    }
    const way = (n: number): Spot => {
      const [from, to, length] = [points[n % count]!, points[(n + 1) % count]!, far(n)]
      return [(to[0] - from[0]) / length, (to[1] - from[1]) / length]
    }
    /** The bend at a point, whose piece before it is the one of that number. */
    const bend = (n: number, before: number): Bend => ({
      at: points[n]!,
      from: way(before),
      to: way(n),
      room: Math.min(far(before), far(n))
    })
    const left: number[] = []
    const right: number[] = []
    if (run.closed && count > 2) {
      for (let n = 0; n < count; n++) corner({ left, right }, bend(n, n + count - 1), style)
      areas.push(Float64Array.from(left), Float64Array.from(backwards(right)))
      continue
    }
    // a dot has no direction; its ends lie to the right
    const [first, last]: [Spot, Spot] =
      count === 1
        ? [
            [1, 0],
            [1, 0]
          ]
        : [way(0), way(count - 2)]
    if (count === 1 && style.cap === 'butt') continue
    const over = style.cap === 'square' ? r : 0
    const [start, end] = [points[0]!, points.at(-1)!]
    left.push(start[0] - first[0] * over - first[1] * r, start[1] - first[1] * over + first[0] * r)
    right.push(start[0] - first[0] * over + first[1] * r, start[1] - first[1] * over - first[0] * r)
    for (let n = 1; n < count - 1; n++) corner({ left, right }, bend(n, n - 1), style)
    left.push(end[0] + last[0] * over - last[1] * r, end[1] + last[1] * over + last[0] * r)
    right.push(end[0] + last[0] * over + last[1] * r, end[1] + last[1] * over - last[0] * r)
    const round = style.cap === 'round'
    const around: number[] = [...left]
    if (round) arcTo(around, end, r, [Math.atan2(last[0], -last[1]), Math.atan2(-last[0], last[1])], -1)
    around.push(...backwards(right))
    if (round) arcTo(around, start, r, [Math.atan2(-first[0], first[1]), Math.atan2(first[0], -first[1])], -1)
    areas.push(Float64Array.from(around))
  }
  return areas
}

function backwards(points: readonly number[]): number[] {
  const out: number[] = []
  for (let i = points.length - 2; i >= 0; i -= 2) out.push(points[i]!, points[i + 1]!)
  return out
}

/** A line drawn along with a style, as far as it lies within `clip`; where it lies over itself it covers once. */
export const strokeOf = (runs: readonly Run[], style: StrokeStyle, clip: Bounds): Coverage | null =>
  areaOf(strokeAreas(runs, style), clip)
