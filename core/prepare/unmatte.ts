/** Taking a known background out of a picture that was laid on it. */
import type { Triple } from '../colour'
import { clamp01 } from './picture'

/**
 * The least alpha with which a colour between black and white, over `background`, gives the colour at `i`, and that colour. Laid over
 * the same background again it is what it was, exactly.
 */
export function leastAlpha(rgba: Float32Array, i: number, background: Triple): void {
  const [r, g, b] = [rgba[i]!, rgba[i + 1]!, rgba[i + 2]!]
  const a = clamp01(Math.max(need(r, background[0]), need(g, background[1]), need(b, background[2])))
  rgba[i] = ownColour(r, a, background[0])
  rgba[i + 1] = ownColour(g, a, background[1])
  rgba[i + 2] = ownColour(b, a, background[2])
  rgba[i + 3] = a
}

/** The least alpha with which one channel can be what it is over `back`. */
function need(value: number, back: number): number {
  return value > back ? (value - back) / (1 - back) : value < back ? (back - value) / back : 0
}

/** The foreground's own colour, where alpha `a` is known: `F = (C - (1 - a) B) / a`, clamped. */
export function ownColour(value: number, a: number, back: number): number {
  return a > 0 ? clamp01((value - (1 - a) * back) / a) : 0
}
