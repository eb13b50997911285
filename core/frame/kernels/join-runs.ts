/**
 * Joins runs (row, first and last column, and a number of the caller's) that touch. Gives each run's island, by the
 * run's place in order.
 */
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
