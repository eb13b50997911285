/**
 * Between sRGB-coded values and linear light (IEC 61966-2-1). The curve belongs to straight colour; alpha takes none.
 */
import type { Kernels } from './kernels/kernels'
import { withAlphaMode } from './alpha'
import { withDepth } from './depth'
import { STRAIGHT, type Frame, type Transfer } from './frame'

/** Linear light, 0 to 1, of an sRGB-coded value of 0 to 1 (IEC 61966-2-1). */
export function toLinearLight(v: number): number {
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
}

/** Values above 1 go on along the curve, those below 0 along its straight part. */
export function toCoded(v: number): number {
  return v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055
}

/**
 * The frame in another transfer, as float; the frame itself when it has it already. Premultiplied colour is divided
 * first and multiplied again after, so that the curve meets colour as it is.
 */
export function withTransfer(frame: Frame, transfer: Transfer, kernels: Kernels): Frame {
  if (frame.transfer === transfer) return frame
  const wide = withDepth(frame, 32, kernels)
  const straight = wide.alpha.mode === 'premultiplied' ? withAlphaMode(wide, STRAIGHT, kernels) : wide
  const curve = transfer === 'linear' ? toLinearLight : toCoded
  const samples = (straight.samples as Float32Array).slice()
  for (let i = 0; i < samples.length; i += 4) for (let c = 0; c < 3; c++) samples[i + c] = curve(samples[i + c]!)
  const turned: Frame = { ...straight, samples, transfer }
  return wide.alpha.mode === 'premultiplied' ? withAlphaMode(turned, wide.alpha, kernels) : turned
}

/** The frame as screens and integer formats hold it: sRGB-coded. Light without alpha cannot be divided, and is lost. */
export function coded(frame: Frame, kernels: Kernels): Frame {
  return withTransfer(frame, 'srgb', kernels)
}
