/** Connected areas of a mask, by runs of rows: pixels that touch at sides or corners belong together. */
import { joinRuns } from './kernels/join-runs'

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
