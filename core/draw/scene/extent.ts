/** Boxes in an element's own coordinates: taken together, and placed. */
import { placed, type Affine } from '../raster/line'
import type { Extent } from './ink'

/** The box of nothing: taken together with another it is that one. */
export const NOTHING: Extent = [Infinity, Infinity, -Infinity, -Infinity]

/** The least box that holds both. */
export const united = (one: Extent, other: Extent): Extent => [
  Math.min(one[0], other[0]),
  Math.min(one[1], other[1]),
  Math.max(one[2], other[2]),
  Math.max(one[3], other[3])
]

/** The upright box around a box that is placed. */
export function boxAt([l, t, r, b]: Extent, at: Affine): [number, number, number, number] {
  const corners = placed(Float64Array.from([l, t, r, t, r, b, l, b]), at)
  const [xs, ys] = [[0, 2, 4, 6].map(i => corners[i]!), [1, 3, 5, 7].map(i => corners[i]!)]
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
}
