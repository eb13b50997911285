/**
 * Conversion between straight and premultiplied, at any depth, on any matte colour.
 * Integer paths are exact to the rounding; asking for the mode a frame already has returns the frame itself.
 */
import { hexAtDepth, type Triple } from '../base/colour'
import type { Kernels } from './kernels/kernels'
import { STRAIGHT, sameAlphaMode, type AlphaMode, type Frame, type Samples } from './frame'

function premultiplyFloat(input: Float32Array, matte: Triple): Float32Array {
  const output = new Float32Array(input.length)
  for (let i = 0; i < input.length; i += 4) {
    const a = input[i + 3]!
    for (let c = 0; c < 3; c++) output[i + c] = input[i + c]! * a + matte[c]! * (1 - a)
    output[i + 3] = a
  }
  return output
}

function unpremultiplyFloat(input: Float32Array, matte: Triple): Float32Array {
  const output = new Float32Array(input.length)
  for (let i = 0; i < input.length; i += 4) {
    const a = input[i + 3]!
    output[i + 3] = a
    if (a > 0) for (let c = 0; c < 3; c++) output[i + c] = (input[i + c]! - matte[c]! * (1 - a)) / a
  }
  return output
}

function premultiplySamples(samples: Samples, matte: Triple, kernels: Kernels): Samples {
  if (samples instanceof Uint8Array) return kernels.premultiply8(samples, matte)
  if (samples instanceof Uint16Array) return kernels.premultiply16(samples, matte)
  return premultiplyFloat(samples, matte)
}

function unpremultiplySamples(samples: Samples, matte: Triple, kernels: Kernels): Samples {
  if (samples instanceof Uint8Array) return kernels.unpremultiply8(samples, matte)
  if (samples instanceof Uint16Array) return kernels.unpremultiply16(samples, matte)
  return unpremultiplyFloat(samples, matte)
}

/**
 * The frame in another alpha mode. To 'none', the samples stay as they are stored (colour is never flattened silently:
 * alpha is set to full and the stored colour kept). From 'none', alpha is full, so every mode holds the same codes.
 */
export function withAlphaMode(frame: Frame, mode: AlphaMode, kernels: Kernels): Frame {
  if (sameAlphaMode(frame.alpha, mode)) return frame
  if (frame.alpha.mode === 'none') return { ...frame, alpha: mode }
  if (mode.mode === 'none') return { ...frame, alpha: mode, samples: solid(frame) }
  const straight =
    frame.alpha.mode === 'premultiplied'
      ? {
          ...frame,
          alpha: STRAIGHT,
          samples: unpremultiplySamples(frame.samples, hexAtDepth(frame.alpha.matte, frame.depth), kernels)
        }
      : frame
  if (mode.mode === 'straight') return straight
  return {
    ...straight,
    alpha: mode,
    samples: premultiplySamples(straight.samples, hexAtDepth(mode.matte, frame.depth), kernels)
  }
}

function solid(frame: Frame): Samples {
  const samples = frame.samples.slice()
  const full = frame.depth === 8 ? 255 : frame.depth === 16 ? 65535 : 1
  for (let i = 3; i < samples.length; i += 4) samples[i] = full
  return samples
}

/** The same samples under another reading: what a program does that takes the alpha for something it is not. */
export function readAs(frame: Frame, mode: AlphaMode): Frame {
  return mode.mode === 'none' ? { ...frame, alpha: mode, samples: solid(frame) } : { ...frame, alpha: mode }
}
