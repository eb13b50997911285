/**
 * A lossless codec of 8-bit planes, read only ("ULRA", "ULRG"): Huffman codes over predicted planes, in slices.
 *
 * configuration: u32 version, u32 former format, u32 size of the frame information, u32 flags: 1 packed, 0x800 fields,
 * high byte slices-1 packet:        each plane: 256 code lengths (255 none; 0 the only symbol), u32 end of each slice,
 * slices in little-endian words;
 *                then u32 information: bits 8 and 9 the prediction
 */
import { unreadable } from '../../errors'
import { OPAQUE, STRAIGHT } from '../../frame/frame'
import { standalone, type PictureCodec } from '../codec'
import { Bits, huffmanTable, unpackSymbols } from '../planar/huffman'
import { fromDistances, undoGradient, undoLeft, undoMedian } from '../planar/predict'

interface Shape {
  width: number
  height: number
  planes: number
  slices: number
}

/**
 * Lengths in the order that codes ascend: longest first, and of one length the highest symbol first. Null where one
 * symbol is all.
 */
function orderOf(lengths: Uint8Array): { symbol: number; length: number }[] {
  return [...lengths]
    .map((length, symbol) => ({ symbol, length }))
    .filter(({ length }) => length !== 255)
    .sort((a, b) => b.length - a.length || b.symbol - a.symbol)
}

function planesOf(
  data: Uint8Array,
  { width, height, planes, slices }: Shape,
  fail: (matter: string) => Error
): Uint8Array[] {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  if (data.length < 4 + planes * (256 + 4 * slices)) throw fail('its data ends early')
  const prediction = (view.getUint32(data.length - 4, true) >> 8) & 3
  const result: Uint8Array[] = []
  let at = 0
  for (let p = 0; p < planes; p++) {
    if (at + 256 + 4 * slices > data.length - 4) throw fail('its data ends early')
    const lengths = data.subarray(at, at + 256)
    const ends = at + 256
    const from = ends + 4 * slices
    const plane = new Uint8Array(width * height)
    const only = lengths.indexOf(0)
    const table = only < 0 ? huffmanTable(orderOf(lengths)) : null
    if (only < 0 && !table) throw fail('its code lengths contradict each other')
    let begin = 0
    for (let s = 0; s < slices; s++) {
      const end = view.getUint32(ends + 4 * s, true)
      if (end < begin || from + end > data.length - 4) throw fail('a slice lies beyond its data')
      const top = Math.floor((height * s) / slices)
      const rows = Math.floor((height * (s + 1)) / slices) - top
      const part = plane.subarray(top * width, (top + rows) * width)
      if (table) {
        if (!unpackSymbols(new Bits(data.subarray(from + begin, from + end), true), table, part))
          throw fail('a slice ends early')
      } else part.fill(only)
      if (prediction === 1) undoLeft(part, width, 0x80, false)
      else if (prediction === 2) undoGradient(part, width, 0x80)
      else if (prediction === 3) undoMedian(part, width, 0x80, true)
      begin = end
    }
    at = from + begin
    result.push(plane)
  }
  return result
}

const channels = (code: string): number => (code === 'ULRA' ? 4 : 3)

/** Planes go green, blue, red, alpha. */
export const utvideo: PictureCodec = {
  names: { avi: ['ULRA', 'ULRG'] },
  about: ({ code }) => ({ kind: `UtVideo ${code}`, bitDepth: 8, carriesAlpha: code === 'ULRA' }),
  decoder(packets) {
    const { track, file } = packets
    const { width, height, config } = track
    if (config.length < 16)
      return Promise.reject(unreadable(file, 'list strf', 'the configuration of its codec is missing'))
    const flags = new DataView(config.buffer, config.byteOffset).getUint32(12, true)
    if ((flags & 0x800) !== 0)
      return Promise.reject(unreadable(file, 'list strf', 'its fields are coded apart, which is not read'))
    const shape = { width, height, planes: channels(track.code), slices: (flags >>> 24) + 1 }
    return Promise.resolve(
      standalone(packets, (data, place) => {
        const planes = planesOf(data, shape, matter => unreadable(file, place, matter))
        const samples = fromDistances(planes, 0x80)
        return Promise.resolve({
          width,
          height,
          depth: 8,
          samples,
          alpha: shape.planes === 4 ? STRAIGHT : OPAQUE,
          transfer: 'srgb'
        })
      })
    )
  },
  proofReader: { name: "Pour's own reader", independent: false }
}
