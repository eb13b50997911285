/** The plain twins of the kernels that take colour apart into foreground and background. */
import { waysFrom } from '../../core/frame/kernels/terms'
import type { Triple } from '../../core/base/colour'
import type { ChromaHow, FrameSize, ScreenPlate } from '../../core/frame/kernels/kernels'
import { codes16, floats16, floats8 } from './floats'
import { wholePlate } from './plate'
import { clamp01, ramp, shareOf, takeOutAt, withoutSpill } from '../../core/frame/kernels/pixel'

export function takeOut(rgba: Float32Array, matte: Triple): void {
  for (let i = 0; i < rgba.length; i += 4) takeOutAt(rgba, i, rgba[i + 3]!, matte)
}

export function takeBackground(rgba: Float32Array, background: Triple, solid: number): void {
  const { up, down } = waysFrom(background, solid)
  const [r, g, b] = background
  for (let i = 0; i < rgba.length; i += 4) {
    const [x, y, z] = [rgba[i]! - r, rgba[i + 1]! - g, rgba[i + 2]! - b]
    const a = Math.min(1, Math.max(x * up[0], x * down[0], y * up[1], y * down[1], z * up[2], z * down[2]))
    if (a < 1) takeOutAt(rgba, i, a, background)
    rgba[i + 3] = a > 0 ? a : 0
  }
}

export function chromaKey(rgba: Float32Array, plate: Float32Array, how: ChromaHow): void {
  const { low, high, across } = how
  for (let i = 0; i < rgba.length; i += 4) {
    const left = 1 - shareOf(rgba, i, [plate[i]!, plate[i + 1]!, plate[i + 2]!], across)
    const a = ramp(left, low, high)
    takeOutAt(rgba, i, a, plate, i)
    withoutSpill(rgba, i, how)
    rgba[i + 3]! *= a
  }
}

/** Codes of either depth as floats of 0 to 1. */
export const floatsOf = (codes: Uint8Array | Uint16Array): Float32Array =>
  codes instanceof Uint8Array ? floats8(codes) : floats16(codes)

/** See `Kernels.keyHue`. */
export function keyHue(
  codes: Uint8Array | Uint16Array,
  plate: ScreenPlate,
  { width, height }: FrameSize,
  how: ChromaHow
): Uint16Array {
  const rgba = floatsOf(codes)
  chromaKey(rgba, wholePlate(plate, width, height), how)
  return codes16(rgba)
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
