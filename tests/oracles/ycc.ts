/** Y'CbCr to RGB, plainly. */
import type { YccPlanes } from '../../core/frame/kernels/kernels'

/** See `Kernels.yccToRgba`. */
export function yccToRgba(
  { planes, stride, planeSize, width, height, bits = 12, half = false }: YccPlanes,
  alpha: Uint16Array | null,
  { kr, kb }: { kr: number; kb: number }
): Uint16Array {
  const out = new Uint16Array(width * height * 4)
  const kg = 1 - kr - kb
  const code = (value: number): number => Math.max(0, Math.min(65535, Math.floor(value * 65535 + 0.5)))
  const deep = (value: number): number => value * 2 ** (12 - bits)
  const columns = half ? Math.ceil(stride / 2) : stride
  const last = Math.ceil(width / 2) - 1
  const chroma = (n: 0 | 1, x: number, y: number): number => {
    const row = planeSize + (n * columns * planeSize) / stride + y * columns
    if (!half) return planes[row + x]!
    const [here, next] = [x >> 1, Math.min((x >> 1) + 1, last)]
    return x & 1 ? (planes[row + here]! + planes[row + next]! + 1) >> 1 : planes[row + here]!
  }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = y * stride + x
      const luma = (deep(planes[at]!) - 256) / 3504
      const u = (deep(chroma(0, x, y)) - 2048) / 3584
      const v = (deep(chroma(1, x, y)) - 2048) / 3584
      const [r, b] = [luma + 2 * (1 - kr) * v, luma + 2 * (1 - kb) * u]
      const g = (luma - kr * r - kb * b) / kg
      out.set([code(r), code(g), code(b), alpha ? alpha[y * width + x]! : 65535], 4 * (y * width + x))
    }
  }
  return out
}
