/** Change of bit depth: code * (2^n - 1) / (2^m - 1), rounded to nearest. 8 to 16 to 8 loses nothing. */
import type { Kernels } from '../kernels/kernels'
import { fullCode, type Depth, type Frame, type Samples } from './frame'

/** The frame at another depth; the frame itself when it has that depth already. Float is clamped to 0..1 on its way to codes. */
export function withDepth(frame: Frame, depth: Depth, kernels: Kernels): Frame {
  if (frame.depth === depth) return frame
  return { ...frame, depth, samples: convert(frame.samples, frame.depth, depth, kernels) }
}

function convert(input: Samples, from: Depth, to: Depth, kernels: Kernels): Samples {
  if (input instanceof Uint8Array && to === 16) return kernels.widen(input)
  if (input instanceof Uint16Array && to === 8) return kernels.narrow(input)
  const { length } = input
  if (to === 32) {
    const output = new Float32Array(length)
    const full = fullCode(from)
    for (let i = 0; i < length; i++) output[i] = input[i]! / full
    return output
  }
  const output = to === 8 ? new Uint8Array(length) : new Uint16Array(length)
  const full = fullCode(to)
  for (let i = 0; i < length; i++) {
    const value = input[i]!
    output[i] = value >= 1 ? full : value > 0 ? Math.floor(value * full + 0.5) : 0
  }
  return output
}
