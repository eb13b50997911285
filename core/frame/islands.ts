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
  for (let y = 0; y < height; y++) {
    const row = y * width
    for (let x = 0; x < width; x++) {
      if (mask[row + x] === 0) continue
      const from = x
      while (x < width && mask[row + x] !== 0) x++
      if (4 * count === runs.length) {
        const more = new Int32Array(2 * runs.length)
        more.set(runs)
        runs = more
      }
      runs.set([y, from, x - 1, count], 4 * count++)
    }
  }
  runs = runs.subarray(0, 4 * count)
  return { runs, root: joinRuns(runs) }
}

/** Joins runs (row, first and last column, and a number of the caller's) that touch. Gives each run's island, by the run's place in order. */
export function joinRuns(runs: Int32Array): (run: number) => number {
  const count = runs.length / 4
  const parent = Int32Array.from({ length: count }, (_, n) => n)
  const root = (label: number): number => {
    while (parent[label] !== label) label = parent[label] = parent[parent[label]!]!
    return label
  }
  // where the runs of the row above begin and end in the list
  let [above, aboveEnd, begin] = [0, 0, 0]
  for (let n = 0, row = -1; n < count; n++) {
    const [y, from, to] = [runs[4 * n]!, runs[4 * n + 1]!, runs[4 * n + 2]!]
    if (y !== row) {
      ;[above, aboveEnd] = y === row + 1 ? [begin, n] : [n, n]
      begin = n
      row = y
    }
    while (above < aboveEnd && runs[4 * above + 2]! < from - 1) above++
    for (let m = above; m < aboveEnd && runs[4 * m + 1]! <= to + 1; m++) parent[root(m)] = root(n)
  }
  return root
}
