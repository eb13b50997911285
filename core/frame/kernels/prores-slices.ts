/**
 * How a ProRes picture is cut into slices (SMPTE RDD 36, 6.3): rows of macroblocks, each in pieces of 8 and then of
 * falling powers of two.
 */

export interface Slice {
  /** Top left pixel. */
  x: number
  y: number
  /** Macroblocks of 16x16 pixels. */
  mbs: number
}

export const LOG2_SLICE = 3

/** Slices of at most `1 << log2` macroblocks. */
export function slicesOf(width: number, height: number, log2 = LOG2_SLICE): Slice[] {
  const slices: Slice[] = []
  const columns = Math.ceil(width / 16)
  for (let y = 0; y < height; y += 16) {
    let at = 0
    for (let size = 1 << log2; size > 0; size >>= 1) {
      while (columns - at >= size) {
        slices.push({ x: at * 16, y, mbs: size })
        at += size
      }
    }
  }
  return slices
}
