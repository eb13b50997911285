/**
 * Wavelet films ("CFHD"): green, red, blue and alpha of 12 bits, each three times halved; Y'CbCr of 10 bits is read.
 * All channels are coded with loss, alpha as colour is.
 */
import { impossible, unreadable } from '../../../base/errors'
import type { Fields, OptionValues } from '../../../base/settings/field'
import { withDepth } from '../../../frame/depth'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { WaveletFault } from '../../../frame/kernels/coded'
import type { Packets, PictureTrack } from '../../containers/container'
import { FILL_EDGES } from '../fill-edges'
import { sizeApart, standalone, type VideoCodec } from '../codec'
import { inOne, rgbOf, sayWeights, untoldMatrix, weightsOf } from '../ycc'
import { readSample, type WaveletSample } from './sample'
import { writeSample } from './write'

/**
 * Quantisers of the nine bands, coarsest first, of each step of fineness. Alpha is coded more finely than colour; at
 * hard edges it differs all the same, since the sizes of large coefficients lie far apart.
 */
const STEPS = {
  finest: { colour: [8, 8, 6, 8, 8, 6, 12, 12, 16], alpha: [2, 2, 2, 2, 2, 2, 4, 4, 4] },
  fine: { colour: [16, 16, 8, 16, 16, 8, 24, 24, 36], alpha: [4, 4, 4, 4, 4, 4, 8, 8, 12] },
  light: { colour: [24, 24, 16, 24, 24, 16, 48, 48, 72], alpha: [8, 8, 4, 8, 8, 4, 12, 12, 18] }
} as const

const OPTIONS: Fields = {
  step: {
    label: 'Coding',
    help:
      'How finely channels are coded, alpha more finely than colour. No step keeps every code: at hard edges alpha ' +
      'differs by some codes.',
    type: 'choice',
    row: true,
    choices: [
      { value: 'finest', label: 'finest' },
      { value: 'fine', label: 'fine' },
      { value: 'light', label: 'light' }
    ],
    default: 'finest'
  },
  fill: FILL_EDGES
}

const stepOf = ({ step }: OptionValues): (typeof STEPS)[keyof typeof STEPS] =>
  STEPS[String(step ?? 'finest') as keyof typeof STEPS] ?? STEPS.finest

/** Three times halved, a line is whole, and three coefficients long. */
function refusesClip({ width }: { width: number }): string | null {
  if (width < 24) return `A wavelet picture is at least 24 pixels wide; this one is ${width}.`
  const near = [8 * Math.floor(width / 8), 8 * Math.ceil(width / 8)]
  return width % 8
    ? `The width of a wavelet picture is a multiple of 8; ${width} is not. Make it ${near.join(' or ')} first.`
    : null
}

/** The frame of a sample of luma, Cr and Cb, of half the columns. */
function coloured(planes: readonly Uint16Array[], sample: WaveletSample, track: PictureTrack, host: Host): Frame {
  const { width, shownHeight: height, bits } = sample
  const [luma, red, blue] = planes as [Uint16Array, Uint16Array, Uint16Array]
  const picture = { planes: inOne([luma, blue, red]), stride: width, width, height, alpha: null, bits, half: true }
  return rgbOf(picture, weightsOf(track), host.kernels)
}

const isFault = (found: object): found is WaveletFault => 'band' in found

function decoded(packet: Uint8Array, place: string, { file, track }: Packets, host: Host): Frame {
  const sample = readSample(packet, { file, place })
  const { width, shownHeight: height, colours, bits, planes } = sample
  if (width !== track.width || height !== track.height) throw sizeApart(file, { width, height }, { ...track, place })
  const found =
    colours === 'ycc'
      ? host.kernels.waveletPlanes(packet, planes, bits)
      : host.kernels.waveletRgba(packet, planes, { width, height })
  if (isFault(found))
    throw unreadable(file, place, `the codes of band ${found.band + 1} of channel ${found.channel + 1} are damaged`)
  if (Array.isArray(found)) return coloured(found, sample, track, host)
  const alpha = colours === 'rgba' ? STRAIGHT : OPAQUE
  return { width, height, depth: 16, samples: found, alpha, transfer: 'srgb' }
}

const KINDS = { rgba: 'RGB and alpha', rgb: 'RGB', ycc: "Y'CbCr 4:2:2" } as const

export const wavelet: VideoCodec = {
  names: { quicktime: ['CFHD'], avi: ['CFHD'], matroska: ['V_CFHD'] },
  about(track, first, file) {
    const sample = readSample(first, { file, place: 'frame 1' })
    const { width, shownHeight, colours, bits } = sample
    if (width !== track.width || shownHeight !== track.height)
      throw sizeApart(file, { width, height: shownHeight }, track)
    const weights = weightsOf(track)
    return {
      kind: `wavelet film, ${KINDS[colours]}, ${bits} bits`,
      bitDepth: 16,
      carriesAlpha: colours === 'rgba',
      ...(colours === 'ycc' ? { colour: sayWeights(weights), findings: untoldMatrix(weights, shownHeight) } : {})
    }
  },
  decoder: (packets, host) =>
    Promise.resolve(standalone(packets, (data, place) => Promise.resolve(decoded(data, place, packets, host)))),
  proofReader: {
    name: "Pour's own wavelet reader, code for code that of a media library in the tests",
    independent: false
  },
  coder: {
    lossless: false,
    exactAlpha: false,
    depths: [{ depth: 16, colourBits: 12, alphaBits: 12 }],
    limits: { width: 16384, height: 16384 },
    options: OPTIONS,
    refusesClip,
    entry: ({ alpha }) => ({ code: 'CFHD', name: 'CFHD', depth: alpha.mode === 'none' ? 24 : 32 }),
    encode({ kernels }, frame, { options }) {
      const { width, height, alpha } = frame
      const refused = refusesClip(frame)
      if (refused) return Promise.reject(impossible(refused))
      const { colour, alpha: finer } = stepOf(options)
      const wide = withDepth(frame, 16, kernels).samples as Uint16Array
      const coded = kernels.waveletEncode(
        wide,
        { width, height },
        {
          colour,
          alpha: alpha.mode === 'none' ? null : finer,
          fill: alpha.mode === 'straight' && options.fill !== false
        }
      )
      return Promise.resolve(writeSample(coded, { width, height }))
    }
  }
}
