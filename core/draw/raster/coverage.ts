/**
 * Areas and lines as coverage of pixels, in floating point. An area's coverage is exact: the signed area that its
 * outline leaves in each pixel, summed along rows. Coverage of 8 bits, as most painters have it, would show as steps in
 * a file of 16.
 */
import type { Line } from './line'

/** A rectangle of whole pixels; empty where right is not beyond left. */
export interface Bounds {
  left: number
  top: number
  right: number
  bottom: number
}

/** Coverage of the pixels within bounds, 0 to 1. */
export interface Coverage extends Bounds {
  values: Float32Array
  /** Whether some of it was covered more than once, so that what covers a pixel in part may be counted twice. */
  over?: boolean
}

/** Bounds that hold no pixel. */
export const emptyBounds = (): Bounds => ({ left: 0, top: 0, right: 0, bottom: 0 })

/** Whether bounds hold no pixel. */
export const isEmpty = ({ left, top, right, bottom }: Bounds): boolean => right <= left || bottom <= top

/** The part of bounds that lies in `clip`; may be empty. */
export function within(bounds: Bounds, clip: Bounds): Bounds {
  return {
    left: Math.max(clip.left, bounds.left),
    top: Math.max(clip.top, bounds.top),
    right: Math.min(clip.right, bounds.right),
    bottom: Math.min(clip.bottom, bounds.bottom)
  }
}

/** The least bounds that hold both. */
export function joined(a: Bounds, b: Bounds): Bounds {
  if (isEmpty(a)) return b
  if (isEmpty(b)) return a
  return {
    left: Math.min(a.left, b.left),
    top: Math.min(a.top, b.top),
    right: Math.max(a.right, b.right),
    bottom: Math.max(a.bottom, b.bottom)
  }
}

/** Bounds with so many pixels more on each side. */
export const grown = ({ left, top, right, bottom }: Bounds, by: number): Bounds => ({
  left: left - by,
  top: top - by,
  right: right + by,
  bottom: bottom + by
})

/** Pixels that lines touch, with `room` around them. */
export function boundsOf(lines: readonly Line[], room = 0): Bounds {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const line of lines)
    for (let i = 0; i < line.length; i += 2) {
      left = Math.min(left, line[i]!)
      right = Math.max(right, line[i]!)
      top = Math.min(top, line[i + 1]!)
      bottom = Math.max(bottom, line[i + 1]!)
    }
  if (left > right) return emptyBounds()
  return {
    left: Math.floor(left - room),
    top: Math.floor(top - room),
    right: Math.ceil(right + room),
    bottom: Math.ceil(bottom + room)
  }
}

/** Adds what the edge from point `i` of a line to point `j` leaves to the right of itself; x is held to the row. */
function addEdge(sums: Float32Array, bounds: Bounds, line: Line, i: number, j: number): void {
  const [width, height] = [bounds.right - bounds.left, bounds.bottom - bounds.top]
  const [x0, y0] = [line[i]! - bounds.left, line[i + 1]! - bounds.top]
  const [x1, y1] = [line[j]! - bounds.left, line[j + 1]! - bounds.top]
  if (y0 === y1) return
  const down = y0 < y1
  const [tx, ty, bx, by] = down ? [x0, y0, x1, y1] : [x1, y1, x0, y0]
  const way = down ? 1 : -1
  if (by <= 0 || ty >= height) return
  const slope = (bx - tx) / (by - ty)
  const first = Math.max(0, Math.floor(ty))
  const last = Math.min(height, Math.ceil(by))
  for (let y = first; y < last; y++) {
    const from = Math.max(ty, y)
    const to = Math.min(by, y + 1)
    const part = to - from
    if (part <= 0) continue
    const a = Math.min(width, Math.max(0, tx + (from - ty) * slope))
    const b = Math.min(width, Math.max(0, tx + (to - ty) * slope))
    const [left, right] = a < b ? [a, b] : [b, a]
    const row = y * (width + 2)
    const share = way * part
    const x = Math.floor(left)
    if (right <= x + 1) {
      // within one pixel: what lies to the right of the edge's middle
      const middle = (left + right) / 2 - x
      sums[row + x]! += share * (1 - middle)
      sums[row + x + 1]! += share * middle
      continue
    }
    // over several: triangles at both ends, slices between
    const run = 1 / (right - left)
    const begin = 1 - (left - x)
    let before = 0.5 * run * begin * begin
    sums[row + x]! += share * before
    const end = Math.ceil(right)
    let covered = before
    for (let n = x + 1; n < end - 1; n++) {
      const reach = run * (n + 0.5 - left)
      sums[row + n]! += share * (reach - covered)
      covered = reach
    }
    const rest = right - (end - 1)
    before = 1 - 0.5 * run * rest * rest
    sums[row + end - 1]! += share * (before - covered)
    sums[row + end]! += share * (1 - before)
  }
}

/**
 * The area within closed lines, as far as it lies within `clip`. Areas that run the other way cut holes; where
 * `evenOdd` is asked for, every second one does, whichever way it runs.
 */
export function areaOf(lines: readonly Line[], clip: Bounds, evenOdd = false): Coverage | null {
  const bounds = within(boundsOf(lines), clip)
  if (isEmpty(bounds)) return null
  const [w, h] = [bounds.right - bounds.left, bounds.bottom - bounds.top]
  const sums = new Float32Array((w + 2) * h)
  for (const line of lines) {
    for (let i = 0; i < line.length; i += 2) {
      const j = i + 2 < line.length ? i + 2 : 0
      addEdge(sums, bounds, line, i, j)
    }
  }
  const values = new Float32Array(w * h)
  let most = 0
  for (let y = 0; y < h; y++) {
    let sum = 0
    for (let x = 0; x < w; x++) {
      sum += sums[y * (w + 2) + x]!
      const turns = Math.abs(sum)
      if (turns > most) most = turns
      const cover = evenOdd ? 1 - Math.abs((turns % 2) - 1) : turns
      // what the summing leaves at the end of a row is nothing
      values[y * w + x] = cover >= 0.999999 ? 1 : cover < 1e-6 ? 0 : cover
    }
  }
  return { ...bounds, values, over: most > 1.001 }
}
