/** The frame a receiver should get: the source's frame in the deliverable's alpha mode and depth. Writer and proof agree on it. */
import { withAlphaMode } from '../frame/alpha'
import { withDepth } from '../frame/depth'
import type { AlphaMode, Depth, Frame } from '../frame/frame'
import type { Kernels } from '../kernels/kernels'

/**
 * Alpha is converted at the deeper of the two depths, so that rounding happens once more at most. A source without alpha
 * becomes solid in modes that have one.
 */
export function deliverFrame(frame: Frame, form: { depth: Depth; alpha: AlphaMode; alphaBits: number }, kernels: Kernels): Frame {
  const deeper = form.depth > frame.depth ? withDepth(frame, form.depth, kernels) : frame
  const whole = withDepth(withAlphaMode(deeper, form.alpha, kernels), form.depth, kernels)
  return form.depth === 16 && form.alphaBits === 8 && form.alpha.mode !== 'none' ? eightBitAlpha(whole) : whole
}

/** Alpha rounded to the 8-bit codes that a file of deeper colour may hold it in, scaled back up. */
function eightBitAlpha(frame: Frame): Frame {
  const samples = frame.samples.slice()
  for (let i = 3; i < samples.length; i += 4) samples[i] = Math.floor((samples[i]! + 128) / 257) * 257
  return { ...frame, samples }
}
