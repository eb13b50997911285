/** Connected areas of a mask, by runs of rows: pixels that touch at sides or corners belong together. */

export interface Islands {
  /** Runs in order of rows, four numbers each: row, first and last column, and a label. */
  runs: Int32Array
  /** The label that stands for all labels of one island. */
  root(label: number): number
}

/** Runs and islands of the pixels whose byte in `mask` is not zero. Time is linear in pixels, memory in runs. */
export function islandsOf(mask: Uint8Array, width: number, height: number): Islands {
  let runs = new Int32Array(4096)
  let count = 0
  const parent: number[] = []
  const root = (label: number): number => {
    while (parent[label] !== label) label = parent[label] = parent[parent[label]!]!
    return label
  }
  // where the runs of the row above begin and end in the list
  let [above, aboveEnd] = [0, 0]
  for (let y = 0; y < height; y++) {
    const row = y * width
    const begin = count
    let candidate = above
    for (let x = 0; x < width; x++) {
      if (mask[row + x] === 0) continue
      const from = x
      while (x < width && mask[row + x] !== 0) x++
      const label = parent.length
      parent.push(label)
      while (candidate < aboveEnd && runs[4 * candidate + 2]! < from - 1) candidate++
      for (let n = candidate; n < aboveEnd && runs[4 * n + 1]! <= x; n++) parent[root(runs[4 * n + 3]!)] = root(label)
      if (4 * count === runs.length) {
        const more = new Int32Array(2 * runs.length)
        more.set(runs)
        runs = more
      }
      runs.set([y, from, x - 1, label], 4 * count++)
    }
    above = begin
    aboveEnd = count
  }
  return { runs: runs.subarray(0, 4 * count), root }
}
