/**
 * A lossless codec of 8-bit planes: RGB with alpha and without ("ULRA", "ULRG"), and Y'CbCr of BT.601
 * ("ULY0", "ULY2", "ULY4") and BT.709 ("ULH0", "ULH2", "ULH4"), which are read. Huffman codes over predicted
 * planes, in slices.
 *
 * configuration: u32 version, u32 former format, u32 size of the frame information, u32 flags: 1 packed, 0x800 fields,
 * high byte slices-1 packet:        each plane: 256 code lengths (255 none; 0 the only symbol), u32 end of each slice,
 * slices in little-endian words;
 *                then u32 information: bits 8 and 9 the prediction
 */
import { unreadable } from '../../../base/errors'
import { OPAQUE, STRAIGHT } from '../../../frame/frame'
import type { Kernels } from '../../../frame/kernels/kernels'
import { standalone, type VideoCodec } from '../codec'
import { rgbaOfPlanes } from '../planar/colour'
import { huffmanTable } from '../planar/huffman'
import { lettersOf } from '../planar/letters'
import { ascending } from '../planar/lengths'
import { undoGradient, undoLeft, undoMedian } from '../planar/predict'
import { WEIGHTS } from '../ycc'
import { coder } from './encode'
import { WAY } from './way'

/** What a code stands for: planes of RGB as distances from green, or luma and chroma of fewer samples. */
interface Kind {
  rgb: boolean
  planes: number
  across: 0 | 1
  down: 0 | 1
  /** The matrix of luma, by ITU-T H.273. */
  matrix: number
}

const rgb = (planes: number): Kind => ({ rgb: true, planes, across: 0, down: 0, matrix: 0 })
const ycc = (across: 0 | 1, down: 0 | 1, matrix: number): Kind => ({ rgb: false, planes: 3, across, down, matrix })

const KINDS: Readonly<Record<string, Kind>> = {
  ULRA: rgb(4),
  ULRG: rgb(3),
  ULY0: ycc(1, 1, 6),
  ULY2: ycc(1, 0, 6),
  ULY4: ycc(0, 0, 6),
  ULH0: ycc(1, 1, 1),
  ULH2: ycc(1, 0, 1),
  ULH4: ycc(0, 0, 1)
}

interface Shape {
  width: number
  height: number
  kind: Kind
  slices: number
}

function planesOf(
  data: Uint8Array,
  { width: whole, height: tall, kind, slices }: Shape,
  { fail, kernels }: { fail: (matter: string) => Error; kernels: Kernels }
): Uint8Array[] {
  const { planes } = kind
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  if (data.length < 4 + planes * (256 + 4 * slices)) throw fail('its data ends early')
  const prediction = (view.getUint32(data.length - 4, true) >> 8) & 3
  const result: Uint8Array[] = []
  let at = 0
  for (let p = 0; p < planes; p++) {
    if (at + 256 + 4 * slices > data.length - 4) throw fail('its data ends early')
    const small = !kind.rgb && p > 0
    const [width, height] = small ? [-(-whole >> kind.across), -(-tall >> kind.down)] : [whole, tall]
    // where chroma has every second row, slices of luma end on even ones
    const even = kind.down && p === 0 ? ~1 : ~0
    const lengths = data.subarray(at, at + 256)
    const ends = at + 256
    const from = ends + 4 * slices
    const plane = new Uint8Array(width * height)
    const only = lengths.indexOf(0)
    const table = only < 0 ? huffmanTable(ascending(lengths)) : null
    if (only < 0 && !table) throw fail('its code lengths contradict each other')
    let begin = 0
    for (let s = 0; s < slices; s++) {
      const end = view.getUint32(ends + 4 * s, true)
      if (end < begin || from + end > data.length - 4) throw fail('a slice lies beyond its data')
      const top = Math.floor((height * s) / slices) & even
      const rows = (Math.floor((height * (s + 1)) / slices) & even) - top
      const part = plane.subarray(top * width, (top + rows) * width)
      const median = prediction === 3
      if (table) {
        const how = { count: part.length, width, median, way: WAY }
        const values = kernels.planarDecode(data.subarray(from + begin, from + end), table, how)
        if (!values) throw fail('a slice ends early')
        part.set(values)
      } else {
        part.fill(only)
        if (median) undoMedian(part, width, 0x80, true)
      }
      if (prediction === 1) undoLeft(part, width, 0x80, false)
      else if (prediction === 2) undoGradient(part, width, 0x80)
      begin = end
    }
    at = from + begin
    result.push(plane)
  }
  return result
}

/** Planes go green, blue, red, alpha; or luma, Cb, Cr. */
export const utvideo: VideoCodec = {
  names: {
    avi: Object.keys(KINDS),
    quicktime: Object.keys(KINDS),
    matroska: Object.keys(KINDS).map(letters => `V_${letters}`)
  },
  about({ code }) {
    const { rgb: isRgb, planes, matrix } = KINDS[lettersOf(code)]!
    return {
      kind: `UtVideo ${lettersOf(code)}`,
      bitDepth: 8,
      carriesAlpha: planes === 4,
      ...(isRgb ? {} : { colour: `${WEIGHTS[matrix]!.name}, limited range` })
    }
  },
  decoder(packets, { kernels }) {
    const { track, file } = packets
    const { width, height, config } = track
    if (config.length < 16)
      return Promise.reject(unreadable(file, 'the tracks', 'the configuration of its codec is missing'))
    const flags = new DataView(config.buffer, config.byteOffset).getUint32(12, true)
    if ((flags & 0x800) !== 0)
      return Promise.reject(unreadable(file, 'the tracks', 'its fields are coded apart, which is not read'))
    const kind = KINDS[lettersOf(track.code)]!
    if (kind.down && height % 2)
      return Promise.reject(unreadable(file, 'the tracks', 'its chroma does not fit an odd height'))
    const shape = { width, height, kind, slices: (flags >>> 24) + 1 }
    return Promise.resolve(
      standalone(packets, (data, place) => {
        const planes = planesOf(data, shape, { fail: matter => unreadable(file, place, matter), kernels })
        const samples = kind.rgb ? kernels.planarJoin(planes, WAY) : ofLuma(planes, shape)
        return Promise.resolve({
          width,
          height,
          depth: 8,
          samples,
          alpha: kind.planes === 4 ? STRAIGHT : OPAQUE,
          transfer: 'srgb'
        })
      })
    )
  },
  proofReader: { name: "Pour's own UtVideo reader, tested on files of other writers", independent: false },
  coder
}

function ofLuma(planes: readonly Uint8Array[], { width, height, kind }: Shape): Uint8Array {
  const { across, down, matrix } = kind
  const chroma = { across, down, stride: -(-width >> across) }
  const picture = { width, height, bits: 8, planes, chroma, alpha: null }
  return rgbaOfPlanes(picture, { ...WEIGHTS[matrix]!, full: false }) as Uint8Array
}
