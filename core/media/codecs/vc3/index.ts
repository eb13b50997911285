/** VC-3 (SMPTE ST 2019-1): pictures without alpha, of luma and chroma or of red, green and blue; read and written. */
import { impossible, unreadable } from '../../../base/errors'
import type { Fields } from '../../../base/settings/field'
import { matrixFor } from '../../../frame/colour-tags'
import { withDepth } from '../../../frame/depth'
import { OPAQUE, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { Packets } from '../../containers/container'
import { sizeApart, standalone, type VideoCodec } from '../codec'
import { sayWeights, untoldMatrix, WEIGHTS, weightsOf } from '../ycc'
import { atomsOf } from './atoms'
import { codesFor, tablesFor } from './codes'
import { readHeader } from './header'
import { KINDS } from './kinds'
import { roomFor, writeFrame } from './write'
import { bitsFor, CODINGS, USUAL_CODING, writtenOf } from './written'

/** Bits that go before a size that has them. */
const moreOf = (bits: number): number => (bits === 8 ? 4 : 6)

function decoded(packet: Uint8Array, place: string, { file, track }: Packets, host: Host): Frame {
  const header = readHeader(packet, { file, place })
  const { width, height, bits, whole, rgb, kind, lines } = header
  if (width !== track.width || height !== track.height) throw sizeApart(file, { width, height }, { ...track, place })
  const across = Math.ceil(width / 16)
  const luma = rgb ? null : weightsOf(track)
  const picture = { across, lines, bits, whole, luma, more: moreOf(bits), ...tablesFor(kind) }
  const found = host.kernels.vc3Rgba(packet, picture, { width, height })
  if ('fault' in found)
    throw unreadable(
      file,
      place,
      found.fault === 'ends-early'
        ? `line ${found.line + 1} of its macroblocks ends early`
        : `line ${found.line + 1} of its macroblocks has a block of more than 64 coefficients`
    )
  return { width, height, depth: 16, samples: found, alpha: OPAQUE, transfer: 'srgb' }
}

/** The label of a kind's coding in MXF (SMPTE ST 2019-4). */
const labelOf = (id: number): string => `060e2b340401010a0401020271${(id - 1234).toString(16).padStart(2, '0')}0000`

/** The label of its wrapping by frames in MXF (SMPTE ST 2019-4). */
const WRAPPED = '060e2b340401010a0d01030102110100'

const OPTIONS: Fields = {
  coding: {
    label: 'Coding',
    help:
      'RGB keeps colour edges whole; 4:2:2 is what most receivers ask for. All frames of a film are as large, whatever ' +
      'they show.',
    type: 'choice',
    choices: CODINGS,
    default: USUAL_CODING
  },
  hd: {
    label: 'HD kinds',
    help:
      'Codes pictures of 1920×1080 and 1280×720 in 4:2:2 by the kinds made for those sizes, which every receiver of ' +
      'VC-3 knows. The kinds of any size can be finer, at about the same size of file.',
    type: 'switch',
    default: true
  }
}

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
  proofReader: { name: "Pour's own VC-3 reader, held against a media library in the tests", independent: false },
  coder: {
    lossless: false,
    exactAlpha: false,
    wholeFrames: true,
    depths: [{ depth: 16, colourBits: 10, alphaBits: 10 }],
    codeBits: bitsFor,
    limits: { width: 8192, height: 8192 },
    options: OPTIONS,
    entry(deliverable, container) {
      const written = writtenOf(deliverable, deliverable.options)
      const { id, bits } = written.kind
      return {
        code: container === 'mxf' ? labelOf(id) : written.anySize ? 'AVdh' : 'AVdn',
        name: `VC-3, kind ${id}`,
        depth: 24,
        atoms: atomsOf(written),
        essence: { label: WRAPPED, element: '0c', bits, colours: written.whole ? 'rgb' : 'half' }
      }
    },
    encode({ kernels }, frame, { options, tags }) {
      const written = writtenOf(frame, options)
      const { kind, whole } = written
      const coded = kernels.vc3Encode(withDepth(frame, 16, kernels).samples as Uint16Array, frame, {
        bits: kind.bits,
        whole,
        more: moreOf(kind.bits),
        luma: whole ? null : WEIGHTS[matrixFor(tags)]!,
        codes: codesFor(kind),
        weights: tablesFor(kind).weights,
        budget: roomFor(written)
      })
      if (!coded) return Promise.reject(impossible('a frame does not fit into the size that its kind of VC-3 has'))
      return Promise.resolve(writeFrame(written, coded))
    }
  }
}
