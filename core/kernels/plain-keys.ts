/** The plain twins of the kernels that take colour apart into foreground and background. */
import type { Triple } from '../colour'
import type { ChromaHow } from './kernels'

const clamp01 = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v)

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

/** Leaves the foreground's own colour of the pixel at `i`, where its alpha `a` over the background is known: `F = (C - (1 - a) B) / a`, clamped. */
export function takeOutAt(rgba: Float32Array, i: number, a: number, r: number, g: number, b: number): void {
  if (a <= 0) {
    rgba[i] = rgba[i + 1] = rgba[i + 2] = 0
    return
  }
  const rest = 1 - a
  rgba[i] = clamp01((rgba[i]! - rest * r) / a)
  rgba[i + 1] = clamp01((rgba[i + 1]! - rest * g) / a)
  rgba[i + 2] = clamp01((rgba[i + 2]! - rest * b) / a)
}

export function takeOut(rgba: Float32Array, [r, g, b]: Triple): void {
  for (let i = 0; i < rgba.length; i += 4) takeOutAt(rgba, i, rgba[i + 3]!, r, g, b)
}

/** What makes alpha of the way a channel has gone from the background: of the way up to white, and of the way down to black. */
export function waysFrom(background: Triple, solid: number): { up: Triple; down: Triple } {
  // a background at the very end leaves no way; what goes it all the same is solid
  const FAR = 1e30
  const by = (c: number): number => (c > 0 ? 1 / (c * solid) : FAR)
  return { up: background.map(c => by(1 - c)) as unknown as Triple, down: background.map(c => -by(c)) as unknown as Triple }
}

export function takeBackground(rgba: Float32Array, background: Triple, solid: number): void {
  const { up, down } = waysFrom(background, solid)
  const [r, g, b] = background
  for (let i = 0; i < rgba.length; i += 4) {
    const [x, y, z] = [rgba[i]! - r, rgba[i + 1]! - g, rgba[i + 2]! - b]
    const a = Math.min(1, Math.max(x * up[0], x * down[0], y * up[1], y * down[1], z * up[2], z * down[2]))
    if (a < 1) takeOutAt(rgba, i, a, r, g, b)
    rgba[i + 3] = a > 0 ? a : 0
  }
}

/** How much of the screen `r, g, b` is in the colour at `i`: 1 for the screen itself, 0 for none. */
export function shareOf(rgba: Float32Array, i: number, r: number, g: number, b: number, across: number): number {
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
 * Takes the screen's light off the colour at `i`: the screen's channel is held to the larger of the other two, and the brightness it
 * loses is given to all three alike.
 */
export function withoutSpill(rgba: Float32Array, i: number, channel: number, amount: number): void {
  const [one, other] = [rgba[i + (channel === 0 ? 1 : 0)]!, rgba[i + (channel === 2 ? 1 : 2)]!]
  const excess = (rgba[i + channel]! - (one > other ? one : other)) * amount
  if (excess <= 0) return
  rgba[i + channel]! -= excess
  const lost = excess * (channel === 1 ? 0.7152 : channel === 0 ? 0.2126 : 0.0722)
  rgba[i] = clamp01(rgba[i]! + lost)
  rgba[i + 1] = clamp01(rgba[i + 1]! + lost)
  rgba[i + 2] = clamp01(rgba[i + 2]! + lost)
}

export function chromaKey(rgba: Float32Array, plate: Float32Array, { low, high, across, spill, channel }: ChromaHow): void {
  for (let i = 0; i < rgba.length; i += 4) {
    const [r, g, b] = [plate[i]!, plate[i + 1]!, plate[i + 2]!]
    const left = 1 - shareOf(rgba, i, r, g, b, across)
    const a = high <= low ? (left >= high ? 1 : 0) : clamp01((left - low) / (high - low))
    takeOutAt(rgba, i, a, r, g, b)
    if (spill > 0) withoutSpill(rgba, i, channel, spill)
    rgba[i + 3]! *= a
  }
}

/** A repeatable value from -0.5 to 0.5 for a sample: the same picture dithers the same way each time. */
function noise(n: number): number {
  let h = Math.imul(n ^ (n >>> 16), 0x45d9f3b)
  h = Math.imul(h ^ (h >>> 13), 0x119de1f3)
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32 - 0.5
}

export function dither8(rgba: Float32Array, first: number): void {
  for (let i = 0; i < rgba.length; i++) {
    const codes = clamp01(rgba[i]!) * 255
    const whole = Math.round(codes)
    // what is a code already, clear and solid with it, takes no noise
    rgba[i] = Math.abs(codes - whole) < 1e-4 ? whole / 255 : clamp01(Math.round(codes + noise(first + i)) / 255)
  }
}
