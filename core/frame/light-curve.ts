/** Light of codes that are not sRGB's: PQ, HLG and a plain gamma, whose files say so. */
import type { ColourTags } from './colour-tags'
import type { Kernels } from './kernels/kernels'
import { withAlphaMode } from './alpha'
import { withDepth } from './depth'
import { STRAIGHT, type Frame } from './frame'
import { hlgGain, hlgScene, pqLight } from './hdr'

/** Curves by which codes become light; 1.0 is the reference white of ITU-R BT.2408, 203 cd/m2, of PQ and HLG. */
export type LightCurve = 'pq' | 'hlg' | 'gamma-2.2' | 'none'

/** The curve that tags say: none for codes that hold light already; null for sRGB's and BT.709's. */
export function curveOf(tags: ColourTags | null | undefined): LightCurve | null {
  return tags?.[1] === 16
    ? 'pq'
    : tags?.[1] === 18
      ? 'hlg'
      : tags?.[1] === 4
        ? 'gamma-2.2'
        : tags?.[1] === 8
          ? 'none'
          : null
}

/** What each channel comes to by itself. */
const CURVES: Readonly<Record<LightCurve, (v: number) => number>> = {
  pq: pqLight,
  hlg: hlgScene,
  'gamma-2.2': v => Math.max(0, v) ** 2.2,
  none: v => v
}

/** Luminance of BT.2020, by which HLG's light grows. */
const LUMA_2020 = [0.2627, 0.678, 0.0593] as const

/**
 * A frame of codes as linear light, float and without bounds above, by the curve that its file says. Premultiplied
 * colour is divided first and multiplied again after, so that the curve meets colour as it is.
 */
export function toLightBy(frame: Frame, curve: LightCurve, kernels: Kernels): Frame {
  const wide = withDepth(frame, 32, kernels)
  const straight = wide.alpha.mode === 'premultiplied' ? withAlphaMode(wide, STRAIGHT, kernels) : wide
  const samples = (straight.samples as Float32Array).slice()
  const each = CURVES[curve]
  for (let i = 0; i < samples.length; i += 4) {
    for (let c = 0; c < 3; c++) samples[i + c] = each(samples[i + c]!)
    if (curve !== 'hlg') continue
    const gain = hlgGain(LUMA_2020[0] * samples[i]! + LUMA_2020[1] * samples[i + 1]! + LUMA_2020[2] * samples[i + 2]!)
    for (let c = 0; c < 3; c++) samples[i + c]! *= gain
  }
  const lit: Frame = { ...straight, samples, transfer: 'linear' }
  return wide.alpha.mode === 'premultiplied' ? withAlphaMode(lit, wide.alpha, kernels) : lit
}
