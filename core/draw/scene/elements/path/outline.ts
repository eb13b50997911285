/** The line of a path, and the arrow head that may ride on it. */
import { follow, type Line } from '../../../raster/line'
import type { Point } from './look'

/** The points of a path, curves followed. */
export function pathLine(points: readonly Point[], closed: boolean): Line {
  const [first] = points
  const out: number[] = [first!.x, first!.y]
  const ends = closed ? [...points, first!] : points
  for (let n = 1; n < ends.length; n++) {
    const [from, to] = [ends[n - 1]!, ends[n]!]
    const [p0, p3] = [[from.x, from.y] as const, [to.x, to.y] as const]
    if (!from.after && !to.before) out.push(to.x, to.y)
    else {
      const p1 = from.after ? ([from.x + from.after[0], from.y + from.after[1]] as const) : p0
      const p2 = to.before ? ([to.x + to.before[0], to.y + to.before[1]] as const) : p3
      follow(out, p0, p1, p2, p3)
    }
  }
  return Float64Array.from(out)
}

/** The arrow head that rides: its tip ahead of the line's end, running clockwise. */
export function arrowLine(size: number): Line {
  return Float64Array.from([0.6 * size, 0, -0.4 * size, 0.5 * size, -0.2 * size, 0, -0.4 * size, -0.5 * size])
}
