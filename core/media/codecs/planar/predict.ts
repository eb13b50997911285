/**
 * Undoing predictions of 8-bit planes: each sample was stored as its distance from what its neighbours lead one to
 * expect.
 */

/**
 * Each sample from the one before. `start` is expected of the first; with `rows`, the first of a row from the one above
 * it.
 */
export function undoLeft(plane: Uint8Array, width: number, start: number, rows: boolean): void {
  let left = start
  for (let i = 0; i < plane.length; i++) {
    if (rows && i > 0 && i % width === 0) left = plane[i - width]!
    left = (left + plane[i]!) & 255
    plane[i] = left
  }
}

/** Left, and above less above-left; the first row from the left, the first of a row from above. */
export function undoGradient(plane: Uint8Array, width: number, start: number): void {
  undoLeft(plane.subarray(0, width), width, start, false)
  for (let i = width; i < plane.length; i++)
    plane[i] =
      i % width === 0
        ? plane[i]! + plane[i - width]!
        : plane[i]! + plane[i - 1]! + plane[i - width]! - plane[i - width - 1]!
}

const median = (a: number, b: number, c: number): number =>
  a > b ? (b > c ? b : a > c ? c : a) : a > c ? a : b > c ? c : b

/**
 * The median of left, above, and their sum less above-left. With `continuous`, left and above-left of a row's first
 * sample are the last of the rows before, but for the second row, whose first is expected to be the one above; else
 * both are the one above.
 */
export function undoMedian(plane: Uint8Array, width: number, start: number, continuous: boolean): void {
  undoLeft(plane.subarray(0, width), width, start, false)
  if (plane.length <= width) return
  let left: number
  let corner: number
  let from = width
  if (continuous) {
    corner = plane[0]!
    left = (plane[width]! + corner) & 255
    plane[width] = left
    from = width + 1
  } else left = corner = plane[0]!
  for (let i = from; i < plane.length; i++) {
    if (!continuous && i % width === 0 && i > width) left = corner = plane[i - width]!
    const above = plane[i - width]!
    left = (plane[i]! + median(left, above, (left + above - corner) & 255)) & 255
    corner = above
    plane[i] = left
  }
}

/** Green, and blue and red as distances from it, and alpha, as RGBA; `bias` is what stands for no distance. */
export function fromDistances(planes: readonly Uint8Array[], bias: number): Uint8Array {
  const [green, blue, red, alpha] = planes as [Uint8Array, Uint8Array, Uint8Array, Uint8Array | undefined]
  const rgba = new Uint8Array(4 * green.length)
  for (let i = 0, to = 0; i < green.length; i++, to += 4) {
    const g = green[i]!
    rgba[to] = red[i]! + g - bias
    rgba[to + 1] = g
    rgba[to + 2] = blue[i]! + g - bias
    rgba[to + 3] = alpha ? alpha[i]! : 255
  }
  return rgba
}
