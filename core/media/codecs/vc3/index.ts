/** VC-3 (SMPTE ST 2019-1): pictures without alpha, of luma and chroma or of red, green and blue; read. */
import { unreadable } from '../../../base/errors'
import { wideCodes } from '../../../frame/depth'
import { OPAQUE, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { Packets, PictureTrack } from '../../containers/container'
import { sizeApart, standalone, type VideoCodec } from '../codec'
import { rgbOf, sayWeights, untoldMatrix, weightsOf, wholePlanes } from '../ycc'
import { tablesFor } from './codes'
import { readHeader, type Vc3Header } from './header'
import { KINDS } from './kinds'

/** RGBA from green, blue and red, whose lines have `stride` codes. */
function interleaved(planes: readonly Uint16Array[], { width, height, bits }: Vc3Header, stride: number): Uint16Array {
  const [green, blue, red] = planes as [Uint16Array, Uint16Array, Uint16Array]
  const wide = wideCodes(bits)
  const samples = new Uint16Array(4 * width * height)
  for (let y = 0, i = 0; y < height; y++)
    for (let at = y * stride; at < y * stride + width; at++, i += 4) {
      samples[i] = wide[red[at]!]!
      samples[i + 1] = wide[green[at]!]!
      samples[i + 2] = wide[blue[at]!]!
      samples[i + 3] = 65535
    }
  return samples
}

/** The frame of planes of luma and chroma. */
function coloured(
  planes: readonly Uint16Array[],
  header: Vc3Header,
  { track, host }: { track: PictureTrack; host: Host }
): Frame {
  const { width, height, bits, whole } = header
  const stride = 16 * Math.ceil(width / 16)
  const shape = { width, height, stride, half: !whole }
  const twelve = wholePlanes(planes as [Uint16Array, Uint16Array, Uint16Array], shape)
  for (let i = 0; i < twelve.length; i++) twelve[i]! <<= 12 - bits
  return rgbOf({ planes: twelve, stride, width, height, alpha: null }, weightsOf(track), host.kernels)
}

function decoded(packet: Uint8Array, place: string, { file, track }: Packets, host: Host): Frame {
  const header = readHeader(packet, { file, place })
  const { width, height, bits, whole, rgb, kind, lines } = header
  if (width !== track.width || height !== track.height) throw sizeApart(file, { width, height }, { ...track, place })
  const across = Math.ceil(width / 16)
  const found = host.kernels.vc3Planes(packet, {
    across,
    lines,
    bits,
    whole,
    more: bits === 8 ? 4 : 6,
    ...tablesFor(kind)
  })
  if ('fault' in found)
    throw unreadable(
      file,
      place,
      found.fault === 'ends-early'
        ? `line ${found.line + 1} of its macroblocks ends early`
        : `line ${found.line + 1} of its macroblocks has a block of more than 64 coefficients`
    )
  if (!rgb) return coloured(found.planes, header, { track, host })
  const samples = interleaved(found.planes, header, 16 * across)
  return { width, height, depth: 16, samples, alpha: OPAQUE, transfer: 'srgb' }
}

/** The label of a kind's coding in MXF (SMPTE ST 2019-4). */
const labelOf = (id: number): string => `060e2b340401010a0401020271${(id - 1234).toString(16).padStart(2, '0')}0000`

/** Pictures without alpha: plates, fills and keys. */
export const vc3: VideoCodec = {
  names: { quicktime: ['AVdn', 'AVdh'], mxf: [...KINDS.keys()].map(labelOf) },
  about(track, first, file) {
    const { width, height, bits, rgb, whole, kind } = readHeader(first, { file, place: 'frame 1' })
    if (width !== track.width || height !== track.height) throw sizeApart(file, { width, height }, track)
    const weights = weightsOf(track)
    const sampling = rgb ? 'RGB' : `Y'CbCr ${whole ? '4:4:4' : '4:2:2'}`
    return {
      kind: `VC-3, kind ${kind.id}, ${sampling}, ${bits} bits`,
      bitDepth: 16,
      carriesAlpha: false,
      ...(rgb ? {} : { colour: sayWeights(weights), findings: untoldMatrix(weights, height) })
    }
  },
  decoder: (packets, host) =>
    Promise.resolve(standalone(packets, (data, place) => Promise.resolve(decoded(data, place, packets, host)))),
  proofReader: { name: "Pour's own VC-3 reader, held against a media library in the tests", independent: false }
}
