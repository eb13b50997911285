/**
 * For every pixel, the nearest one of a mask: two sweeps that hand places on from neighbour to neighbour, near enough
 * to exact.
 */

export interface Nearest {
  /** Place of the nearest marked pixel, or -1 where there is none at all. */
  from: Int32Array
  /** The square of its distance in pixels; `NONE` where there is none. */
  squares: Int32Array
}

export const NONE = 0x7fffffff

/** `marked` has a byte a pixel; sides are at most 16384. Time is linear in pixels. */
export function nearestOf(marked: Uint8Array, width: number, height: number): Nearest {
  const from = new Int32Array(marked.length).fill(-1)
  const squares = new Int32Array(marked.length).fill(NONE)
  // columns of the places handed on, so that no division is needed to find them
  const columns = new Int16Array(marked.length)
  const rows = new Int16Array(marked.length)
  for (let y = 0, p = 0; y < height; y++) {
    for (let x = 0; x < width; x++, p++) {
      if (!marked[p]) continue
      from[p] = p
      squares[p] = 0
      columns[p] = x
      rows[p] = y
    }
  }
  const take = (p: number, x: number, y: number, q: number): void => {
    if (squares[q] === NONE) return
    const dx = x - columns[q]!
    const dy = y - rows[q]!
    const square = dx * dx + dy * dy
    if (square >= squares[p]!) return
    squares[p] = square
    columns[p] = columns[q]!
    rows[p] = rows[q]!
    from[p] = from[q]!
  }
  for (let y = 0; y < height; y++) {
    const row = y * width
    for (let x = 0, p = row; x < width; x++, p++) {
      if (squares[p] === 0) continue
      if (y > 0) {
        take(p, x, y, p - width)
        if (x > 0) take(p, x, y, p - width - 1)
        if (x < width - 1) take(p, x, y, p - width + 1)
      }
      if (x > 0) take(p, x, y, p - 1)
    }
    for (let x = width - 2; x >= 0; x--) if (squares[row + x] !== 0) take(row + x, x, y, row + x + 1)
  }
  for (let y = height - 1; y >= 0; y--) {
    const row = y * width
    for (let x = width - 1, p = row + x; x >= 0; x--, p--) {
      if (squares[p] === 0) continue
      if (y < height - 1) {
        take(p, x, y, p + width)
        if (x > 0) take(p, x, y, p + width - 1)
        if (x < width - 1) take(p, x, y, p + width + 1)
      }
      if (x < width - 1) take(p, x, y, p + 1)
    }
    for (let x = 1; x < width; x++) if (squares[row + x] !== 0) take(row + x, x, y, row + x - 1)
  }
  return { from, squares }
}
