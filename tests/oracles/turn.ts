/** The plain twin of the kernel that turns a picture. */
import { cubicShares } from '../../core/frame/kernels/terms'
import type { FrameSize, SamplingPath } from '../../core/frame/kernels/kernels'
import { clamp01 } from '../../core/frame/kernels/pixel'

export function turn(
  straight: Float32Array,
  { width: w, height: h }: FrameSize,
  { width, height }: FrameSize,
  { u, v, du, dv }: SamplingPath
): Float32Array {
  const seen = straight.map((value, i) => (i % 4 === 3 ? value : value * straight[i - (i % 4) + 3]!))
  const rgba = new Float32Array(4 * width * height)
  for (let y = 0, o = 0; y < height; y++) {
    for (let x = 0; x < width; x++, o += 4) {
      const [px, py] = [u - dv * y + du * x, v + du * y + dv * x]
      const [left, top] = [Math.floor(px), Math.floor(py)]
      const [wx, wy] = [cubicShares(px - left), cubicShares(py - top)]
      const sum = [0, 0, 0, 0]
      for (let m = 0; m < 4; m++) {
        for (let n = 0; n < 4; n++) {
          const [column, row] = [left - 1 + n, top - 1 + m]
          if (row < 0 || row >= h || column < 0 || column >= w) continue
          for (let c = 0; c < 4; c++) sum[c]! += seen[4 * (row * w + column) + c]! * wy[m]! * wx[n]!
        }
      }
      const a = sum[3]!
      if (a <= 1e-8) continue
      for (let c = 0; c < 3; c++) rgba[o + c] = clamp01(sum[c]! / a)
      rgba[o + 3] = clamp01(a)
    }
  }
  return rgba
}
