/** The frame a receiver should get: the source's frame in the deliverable's transfer, alpha mode and depth. Writer and proof agree on it. */
import type { Form } from '../formats/format'
import { roundToHalf } from '../formats/exr-sequence/half'
import { withAlphaMode } from '../frame/alpha'
import { withDepth } from '../frame/depth'
import { fullCode, type Frame } from '../frame/frame'
import { withTransfer } from '../frame/transfer'
import type { Kernels } from '../kernels/kernels'

/**
 * Alpha is converted at the deeper of the two depths, so that rounding happens once more at most. A source without alpha
 * becomes solid in modes that have one. A frame that has the form already is handed out as it is.
 */
export function deliverFrame(frame: Frame, form: Form, kernels: Kernels): Frame {
  const lit = withTransfer(frame, form.transfer, kernels)
  const deeper = form.depth > lit.depth ? withDepth(lit, form.depth, kernels) : lit
  const whole = withDepth(withAlphaMode(deeper, form.alpha, kernels), form.depth, kernels)
  if (form.cut) return cutAlpha(whole, form.cut, kernels)
  if (form.half && form.depth === 32) return { ...whole, samples: roundToHalf(whole.samples as Float32Array) }
  return form.depth === 16 && form.alphaBits === 8 && form.alpha.mode !== 'none' ? eightBitAlpha(whole) : whole
}

/** Alpha made on or off. With a matte, soft edges that stay are laid on it, as they would look on a page of that colour. */
function cutAlpha(frame: Frame, { threshold, matte }: NonNullable<Form['cut']>, kernels: Kernels): Frame {
  const laid = matte ? withAlphaMode(frame, { mode: 'premultiplied', matte }, kernels) : frame
  const samples = laid.samples.slice()
  const full = fullCode(frame.depth)
  for (let i = 0; i < samples.length; i += 4) {
    if (samples[i + 3]! >= threshold * full) samples[i + 3] = full
    else samples.fill(0, i, i + 4)
  }
  return { ...frame, samples }
}

/** Alpha rounded to the 8-bit codes that a file of deeper colour may hold it in, scaled back up. */
function eightBitAlpha(frame: Frame): Frame {
  const samples = frame.samples.slice()
  for (let i = 3; i < samples.length; i += 4) samples[i] = Math.floor((samples[i]! + 128) / 257) * 257
  return { ...frame, samples }
}
