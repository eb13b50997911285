/**
 * For every pixel, the nearest one of a mask, exactly: nearest rows of columns first, then the lower envelope of rows.
 */

export interface Nearest {
  /** Place of the nearest marked pixel, or -1 where there is none at all. Of several as near, one of them. */
  from: Int32Array
  /** The square of its distance in pixels; `NONE` where there is none. */
  squares: Int32Array
}

export const NONE = 0x7fffffff

/** For each pixel the nearest marked row of its column, -1 where it has none. */
function nearestRows(marked: Uint8Array, width: number, height: number): Int16Array {
  const rows = new Int16Array(marked.length)
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) rows[p] = marked[p] ? y : y > 0 ? rows[p - width]! : -1
  for (let y = height - 2; y >= 0; y--)
    for (let x = 0, p = y * width; x < width; x++, p++) {
      const above = rows[p]!
      const below = rows[p + width]!
      if (below >= 0 && (above < 0 || below - y < y - above)) rows[p] = below
    }
  return rows
}

/**
 * `marked` has a byte a pixel; sides are at most 16384. Time is linear in pixels. What lies further off than `reach` is
 * none, or further off than that.
 */
export function nearestOf(marked: Uint8Array, width: number, height: number, reach = Infinity): Nearest {
  const rows = nearestRows(marked, width, height)
  const from = new Int32Array(marked.length).fill(-1)
  const squares = new Int32Array(marked.length).fill(NONE)
  // columns whose parabola is lowest somewhere in the row, what each adds at its own place, and where it begins to be
  const columns = new Int32Array(width)
  const heights = new Float64Array(width)
  const begins = new Float64Array(width)
  for (let y = 0; y < height; y++) {
    const line = y * width
    let last = -1
    for (let x = 0; x < width; x++) {
      const row = rows[line + x]!
      if (row < 0 || row - y > reach || y - row > reach) continue
      // within a run of marked pixels each is its own nearest, and only the ends reach out
      if (row === y && x > 0 && x < width - 1 && marked[line + x - 1] && marked[line + x + 1]) {
        from[line + x] = line + x
        squares[line + x] = 0
        continue
      }
      const height = (row - y) * (row - y)
      let begin = -Infinity
      for (; last >= 0; last--) {
        const column = columns[last]!
        begin = (height + x * x - heights[last]! - column * column) / (2 * (x - column))
        if (begin > begins[last]!) break
        begin = -Infinity
      }
      last++
      columns[last] = x
      heights[last] = height
      begins[last] = begin
    }
    if (last < 0) continue
    for (let x = 0, at = 0; x < width; x++) {
      if (squares[line + x] === 0) continue
      while (at < last && begins[at + 1]! < x) at++
      const column = columns[at]!
      squares[line + x] = heights[at]! + (x - column) * (x - column)
      from[line + x] = rows[line + column]! * width + column
    }
  }
  return { from, squares }
}
