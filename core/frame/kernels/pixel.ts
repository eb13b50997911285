/**
 * What is done to one pixel of straight floats: by the plain twins, and by steps for which no kernel is worth its
 * while.
 */

import type { Triple } from '../../base/colour'
import type { SpillHow } from './kernels'

/** A value held to 0 to 1. */
export const clamp01 = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v)

/** 0 at `low`, 1 at `high`, even between; a step where the two meet. */
export function ramp(v: number, low: number, high: number): number {
  return high <= low ? (v >= high ? 1 : 0) : clamp01((v - low) / (high - low))
}

/** Brightness of coded colour by BT.709's weights. */
export const luma = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b

/** What makes Cb and Cr of BT.709 of the distance of blue and red from luma. */
const CB = 1 / 1.8556
const CR = 1 / 1.5748

/** Cb and Cr, each from -0.5 to 0.5. */
export function chromaOf(r: number, g: number, b: number): [number, number] {
  const y = luma(r, g, b)
  return [(b - y) * CB, (r - y) * CR]
}

/**
 * Leaves the foreground's own colour of the pixel at `i`, where its alpha `a` over the background, which lies at `at`
 * of `back`, is known: `F = (C -
 * (1 - a) B) / a`, clamped.
 */
export function takeOutAt(rgba: Float32Array, i: number, a: number, back: ArrayLike<number>, at = 0): void {
  if (a <= 0) {
    rgba[i] = rgba[i + 1] = rgba[i + 2] = 0
    return
  }
  const rest = 1 - a
  rgba[i] = clamp01((rgba[i]! - rest * back[at]!) / a)
  rgba[i + 1] = clamp01((rgba[i + 1]! - rest * back[at + 1]!) / a)
  rgba[i + 2] = clamp01((rgba[i + 2]! - rest * back[at + 2]!) / a)
}

/** How much of the screen's colour is in that at `i`: 1 for the screen itself, 0 for none. */
export function shareOf(rgba: Float32Array, i: number, [r, g, b]: Triple, across: number): number {
  const ky = luma(r, g, b)
  const ku = (b - ky) * CB
  const kv = (r - ky) * CR
  const strength = ku * ku + kv * kv
  if (strength < 1e-8) return 0
  const y = luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
  const u = (rgba[i + 2]! - y) * CB
  const v = (rgba[i]! - y) * CR
  return clamp01((u * ku + v * kv - Math.abs(u * kv - v * ku) * across) / strength)
}

/**
 * Takes the screen's light off the colour at `i`: the screen's channel is held to the other two, and the brightness it
 * loses is given to all three alike.
 */
export function withoutSpill(rgba: Float32Array, i: number, { channel, spill, lean }: SpillHow): void {
  if (spill <= 0) return
  const [one, other] = [rgba[i + (channel === 0 ? 1 : 0)]!, rgba[i + (channel === 2 ? 1 : 2)]!]
  const bound = lean === 1 ? Math.max(one, other) : Math.max(one, other) * lean + Math.min(one, other) * (1 - lean)
  const excess = (rgba[i + channel]! - bound) * spill
  if (!(excess > 0)) return
  rgba[i + channel]! -= excess
  const lost = excess * (channel === 1 ? 0.7152 : channel === 0 ? 0.2126 : 0.0722)
  rgba[i] = clamp01(rgba[i]! + lost)
  rgba[i + 1] = clamp01(rgba[i + 1]! + lost)
  rgba[i + 2] = clamp01(rgba[i + 2]! + lost)
}
