/** Taking a known background out of a picture that was laid on it. */
import type { Triple } from '../colour'
import { clamp01 } from './picture'

/**
 * The least alpha with which a colour between black and white, over `background`, gives the colour at `i`, and that colour. Laid over
 * the same background again it is what it was, exactly.
 */
export function leastAlpha(rgba: Float32Array, i: number, background: Triple): void {
  const a = alphaNeeded(rgba, i, background)
  takeOut(rgba, i, a, background[0], background[1], background[2])
  rgba[i + 3] = a
}

/** That least alpha alone. */
export function alphaNeeded(rgba: Float32Array, i: number, background: Triple): number {
  return clamp01(Math.max(need(rgba[i]!, background[0]), need(rgba[i + 1]!, background[1]), need(rgba[i + 2]!, background[2])))
}

/** The least alpha with which one channel can be what it is over `back`. */
function need(value: number, back: number): number {
  return value > back ? (value - back) / (1 - back) : value < back ? (back - value) / back : 0
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
