/** Change of bit depth: code * (2^n - 1) / (2^m - 1), rounded to nearest. 8 to 16 to 8 loses nothing. */
import { allocateSamples, fullCode, type Depth, type Frame, type Samples } from './frame'

/** The frame at another depth; the frame itself when it has that depth already. Float is clamped to 0..1 on its way to codes. */
export function withDepth(frame: Frame, depth: Depth): Frame {
  if (frame.depth === depth) return frame
  return { ...frame, depth, samples: convert(frame.samples, frame.depth, depth, frame.width, frame.height) }
}

function convert(input: Samples, from: Depth, to: Depth, width: number, height: number): Samples {
  const output = allocateSamples(width, height, to)
  const length = output.length
  if (from === 8 && to === 16) for (let i = 0; i < length; i++) output[i] = input[i]! * 257
  else if (from === 16 && to === 8) for (let i = 0; i < length; i++) output[i] = Math.floor((input[i]! + 128) / 257)
  else if (to === 32) {
    const full = fullCode(from)
    for (let i = 0; i < length; i++) output[i] = input[i]! / full
  } else {
    const full = fullCode(to)
    for (let i = 0; i < length; i++) {
      const value = input[i]!
      output[i] = value >= 1 ? full : value > 0 ? Math.floor(value * full + 0.5) : 0
    }
  }
  return output
}
