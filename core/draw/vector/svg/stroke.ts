/** The area that a stroke covers: a strip for each piece of a line, and what joins and ends them (SVG 1.1, 11.4). */
import type { Line } from '../../scene/outline'
import type { Run } from './shapes'

export interface StrokeStyle {
  width: number
  cap: string
  join: string
  miterLimit: number
  dashes: readonly number[]
  dashOffset: number
}

/** Most dashes of one stroke. */
const MOST_DASHES = 20_000

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

/** Bends less sharp than this are curves that were followed: both sides go on without a corner. */
const SMOOTH = 0.97

/** Points of an arc about a place from one direction to another, the ends left out; `way` is 1 or -1. */
function arcTo(out: number[], [x, y]: Spot, r: number, [from, to]: Spot, way: 1 | -1): void {
  let turn = (to - from) * way
  while (turn < 0) turn += 2 * Math.PI
  const steps = Math.ceil(turn / Math.acos(Math.max(0, 1 - 0.01 / Math.max(r, 0.02))))
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

/** What both sides of a stroke do at a corner from direction `d` to direction `e`. */
function corner({ left, right }: Sides, p: Spot, [d, e]: readonly [Spot, Spot], style: StrokeStyle): void {
  const r = style.width / 2
  const dot = d[0] * e[0] + d[1] * e[1]
  const [n, m]: [Spot, Spot] = [
    [-d[1] * r, d[0] * r],
    [-e[1] * r, e[0] * r]
  ]
  const reach: Spot = [(n[0] + m[0]) / (1 + dot), (n[1] + m[1]) / (1 + dot)]
  if (dot > SMOOTH) {
    left.push(p[0] + reach[0], p[1] + reach[1])
    right.push(p[0] - reach[0], p[1] - reach[1])
    return
  }
  const turnsLeft = d[0] * e[1] - d[1] * e[0] > 0
  const [inner, outer, side] = turnsLeft ? [left, right, -1] : [right, left, 1]
  inner.push(p[0] - side * n[0], p[1] - side * n[1], p[0], p[1], p[0] - side * m[0], p[1] - side * m[1])
  outer.push(p[0] + side * n[0], p[1] + side * n[1])
  if (style.join === 'round') {
    const angle = (v: Spot): number => Math.atan2(side * v[1], side * v[0])
    arcTo(outer, p, r, [angle(n), angle(m)], turnsLeft ? 1 : -1)
  } else if (style.join !== 'bevel' && Math.sqrt(2 / Math.max(1e-9, 1 + dot)) <= style.miterLimit)
    outer.push(p[0] + side * reach[0], p[1] + side * reach[1])
  outer.push(p[0] + side * m[0], p[1] + side * m[1])
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
    const way = (n: number): Spot => {
      const [from, to] = [points[n % count]!, points[(n + 1) % count]!]
      const far = Math.hypot(to[0] - from[0], to[1] - from[1])
      return [(to[0] - from[0]) / far, (to[1] - from[1]) / far]
    }
    const left: number[] = []
    const right: number[] = []
    if (run.closed && count > 2) {
      for (let n = 0; n < count; n++) corner({ left, right }, points[n]!, [way(n + count - 1), way(n)], style)
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
    const far = style.cap === 'square' ? r : 0
    const [start, end] = [points[0]!, points.at(-1)!]
    left.push(start[0] - first[0] * far - first[1] * r, start[1] - first[1] * far + first[0] * r)
    right.push(start[0] - first[0] * far + first[1] * r, start[1] - first[1] * far - first[0] * r)
    for (let n = 1; n < count - 1; n++) corner({ left, right }, points[n]!, [way(n - 1), way(n)], style)
    left.push(end[0] + last[0] * far - last[1] * r, end[1] + last[1] * far + last[0] * r)
    right.push(end[0] + last[0] * far + last[1] * r, end[1] + last[1] * far - last[0] * r)
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
