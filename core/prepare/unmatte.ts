/** Taking a known background out of a picture that was laid on it. */
import type { Triple } from '../colour'
import type { PixelChange } from './carried'
import { clamp01, ramp } from './picture'

/**
 * Gives each pixel the least alpha with which a colour between black and white, over `background`, gives the one it has, and that
 * colour: laid over the same background again it is what it was, exactly. `solid` below 1 makes alpha from there on full.
 */
export function withoutBackground([r, g, b]: Triple, solid: number): PixelChange {
  // how much of the way to white, or to black, a channel has gone from the background
  const up: Triple = [1 / (1 - r), 1 / (1 - g), 1 / (1 - b)]
  const down: Triple = [1 / r, 1 / g, 1 / b]
  return rgba => {
    for (let i = 0; i < rgba.length; i += 4) {
      const [x, y, z] = [rgba[i]! - r, rgba[i + 1]! - g, rgba[i + 2]! - b]
      const u = x > 0 ? x * up[0] : x < 0 ? -x * down[0] : 0
      const v = y > 0 ? y * up[1] : y < 0 ? -y * down[1] : 0
      const w = z > 0 ? z * up[2] : z < 0 ? -z * down[2] : 0
      const most = u > v ? (u > w ? u : w) : v > w ? v : w
      const a = solid < 1 ? ramp(most, 0, solid) : clamp01(most)
      if (a < 1) takeOut(rgba, i, a, r, g, b)
      rgba[i + 3] = a
    }
  }
}

/** Leaves the foreground's own colour of the pixel at `i`, where its alpha `a` over the background is known: `F = (C - (1 - a) B) / a`, clamped. */
export function takeOut(rgba: Float32Array, i: number, a: number, r: number, g: number, b: number): void {
  if (a <= 0) {
    rgba[i] = rgba[i + 1] = rgba[i + 2] = 0
    return
  }
  const rest = 1 - a
  rgba[i] = clamp01((rgba[i]! - rest * r) / a)
  rgba[i + 1] = clamp01((rgba[i + 1]! - rest * g) / a)
  rgba[i + 2] = clamp01((rgba[i + 2]! - rest * b) / a)
}
