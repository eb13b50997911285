/** Change of bit depth: code * (2^n - 1) / (2^m - 1), rounded to nearest. 8 to 16 to 8 loses nothing. */
import type { Kernels } from './kernels/kernels'
import { type Depth, type Frame, type Samples } from './frame'

/**
 * The frame at another depth; the frame itself when it has that depth already. Float is clamped to 0..1 on its way to
 * codes.
 */
export function withDepth(frame: Frame, depth: Depth, kernels: Kernels): Frame {
  if (frame.depth === depth) return frame
  return { ...frame, depth, samples: convert(frame.samples, depth, kernels) }
}

function convert(input: Samples, to: Depth, kernels: Kernels): Samples {
  if (input instanceof Uint8Array && to === 16) return kernels.widen(input)
  if (input instanceof Uint16Array && to === 8) return kernels.narrow(input)
  if (to === 32) return kernels.toFloats(input as Uint8Array | Uint16Array)
  return to === 8 ? kernels.toCodes8(input as Float32Array) : kernels.toCodes16(input as Float32Array)
}

/** Every code of so many bits as one of 16, rounded to nearest. */
export const wideCodes = (bits: number): Uint16Array =>
  Uint16Array.from({ length: 2 ** bits }, (_, code) => Math.round((code * 65535) / (2 ** bits - 1)))
