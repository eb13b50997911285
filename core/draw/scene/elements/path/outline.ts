/** The line of a path, and what may stand at its ends. */
import { ellipseLine, follow, type Line } from '../../../raster/line'
import type { Point, Tip } from './look'

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

/** Half as thick as it is wide: a bar across the end of a line. */
const BAR = 0.1

/** What stands at an end of a line that runs to the right, `size` across, running clockwise; null for nothing. */
export function tipLine(tip: Tip, size: number): Line | null {
  if (tip === 'dot') return ellipseLine(size / 2, size / 2)
  if (tip === 'arrow')
    // its point lies ahead of the line's end
    return Float64Array.from([0.6 * size, 0, -0.4 * size, 0.5 * size, -0.2 * size, 0, -0.4 * size, -0.5 * size])
  if (tip === 'bar') {
    const [near, far] = [BAR * size, size / 2]
    return Float64Array.from([near, -far, near, far, -near, far, -near, -far])
  }
  return null
}
