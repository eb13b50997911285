/** Taking a known background out of a picture that was laid on it. */
import type { Triple } from '../colour'
import { clamp01 } from './picture'

/**
 * The least alpha with which a colour between black and white, over `background`, gives the colour at `i`, and that colour. Laid over
 * the same background again it is what it was, exactly.
 */
export function leastAlpha(rgba: Float32Array, i: number, background: Triple): void {
  let a = 0
  for (let c = 0; c < 3; c++) {
    const [value, back] = [rgba[i + c]!, background[c]!]
    const need = value > back ? (value - back) / (1 - back) : value < back ? (back - value) / back : 0
    if (need > a) a = need
  }
  a = clamp01(a)
  for (let c = 0; c < 3; c++) rgba[i + c] = a > 0 ? clamp01((rgba[i + c]! - (1 - a) * background[c]!) / a) : 0
  rgba[i + 3] = a
}

/** The foreground's own colour, where alpha `a` is known: `F = (C - (1 - a) B) / a`, clamped. */
export function ownColour(value: number, a: number, back: number): number {
  return a > 0 ? clamp01((value - (1 - a) * back) / a) : 0
}
