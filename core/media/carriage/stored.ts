/**
 * The frame a receiver should get: the source's frame in the deliverable's transfer, alpha mode and depth. Writer and
 * proof agree on it.
 */
import type { Content, Form } from '../formats/form'
import { stack } from '../../frame/stacked'
import { roundToHalf } from '../pictures/exr/half'
import { readAs, withAlphaMode } from '../../frame/alpha'
import { wideCodes, withDepth } from '../../frame/depth'
import { fullCode, OPAQUE, type Frame } from '../../frame/frame'
import { toLightBy } from '../../frame/light-curve'
import { coded, withTransfer } from '../../frame/transfer'
import type { Kernels } from '../../frame/kernels/kernels'

/**
 * Alpha is converted at the deeper of the two depths, so that rounding happens once more at most. A source without
 * alpha becomes solid in modes that have one. A frame that has the form already is handed out as it is.
 */
export function storedFrame(frame: Frame, form: Form, kernels: Kernels): Frame {
  const whole =
    form.content.kind === 'whole' ? converted(frame, form, kernels) : solid(frame, form, form.content, kernels)
  if (form.half && form.depth === 32) return { ...whole, samples: roundToHalf(whole.samples as Float32Array) }
  return form.depth === 16 && form.bits && form.bits < 16 ? inBits(whole, form.bits) : whole
}

/** The frame in a form's transfer: light by the curve that its codes have, or by sRGB's. */
export function inTransferOf({ transfer, curve }: Form, frame: Frame, kernels: Kernels): Frame {
  return curve && frame.transfer === 'srgb' ? toLightBy(frame, curve, kernels) : withTransfer(frame, transfer, kernels)
}

function converted(frame: Frame, form: Form, kernels: Kernels): Frame {
  const lit = inTransferOf(form, frame, kernels)
  const deeper = form.depth > lit.depth ? withDepth(lit, form.depth, kernels) : lit
  const whole = withDepth(withAlphaMode(deeper, form.alpha, kernels), form.depth, kernels)
  if (form.cut) return cutAlpha(whole, form.cut, kernels)
  return form.depth === 16 && form.alphaBits === 8 && form.alpha.mode !== 'none' ? eightBitAlpha(whole) : whole
}

/** Pictures that hold one part only: every pixel solid, no alpha channel. */
function solid(frame: Frame, form: Form, content: Exclude<Content, { kind: 'whole' }>, kernels: Kernels): Frame {
  // a key is a measure, not light: its codes are the same in every transfer
  if (content.kind === 'alpha')
    return { ...withDepth(alphaAsGrey(frame), form.depth, kernels), transfer: form.transfer }
  if (content.kind === 'stacked')
    return stack(converted(frame, { ...form, alpha: content.mode }, kernels), content.half)
  if (content.kind === 'fill') return readAs(converted(frame, { ...form, alpha: content.mode }, kernels), OPAQUE)
  const deeper = coded(form.depth > frame.depth ? withDepth(frame, form.depth, kernels) : frame, kernels)
  return converted(
    readAs(withAlphaMode(deeper, { mode: 'premultiplied', matte: content.backing }, kernels), OPAQUE),
    form,
    kernels
  )
}

/** Alpha in all three colours. A frame without alpha is solid everywhere, so white. */
function alphaAsGrey(frame: Frame): Frame {
  const samples = frame.samples.slice()
  const full = fullCode(frame.depth)
  const none = frame.alpha.mode === 'none'
  for (let i = 0; i < samples.length; i += 4) {
    samples.fill(none ? full : samples[i + 3]!, i, i + 3)
    samples[i + 3] = full
  }
  return { ...frame, alpha: OPAQUE, samples }
}

/**
 * Alpha made on or off. With a matte, soft edges that stay are laid on it, as they would look on a page of that colour.
 */
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

/** Codes of 16 bits rounded to those of fewer bits, scaled back up. */
function inBits(frame: Frame, bits: number): Frame {
  const most = 2 ** bits - 1
  const scaled = wideCodes(bits)
  const samples = new Uint16Array(frame.samples.length)
  for (let i = 0; i < samples.length; i++) samples[i] = scaled[Math.floor((frame.samples[i]! * most) / 65535 + 0.5)]!
  return { ...frame, samples }
}
