/**
 * A lossless codec of 8-bit planes: RGB with alpha and without ("M8RA", "M8RG"); read only, Y'CbCr ("M8YA", "M8Y4",
 * "M8Y2", "M8Y0") and grey ("M8G0"). Huffman codes over predicted planes, in slices.
 *
 * packet: "MAGY", u32 size of this head, u8 version 7, u8 layout, u8, u8 matrix, u8 flags (2: fields, 4: full range), 3
 *         bytes, u32 width, u32 height, u32 slice width, u32 slice height; u32 where the slices begin; each plane: u32
 *         start of each slice, counted from the head's end; u8 planes, a byte a slice; code lengths in runs: bit "more
 *         than one", 7 bits length, where there are more u8 count - 1; then the slices
 * slice:  u8 flags (1: not packed), u8 prediction, codes
 */
import { unreadable } from '../../../base/errors'
import { OPAQUE, STRAIGHT } from '../../../frame/frame'
import type { Kernels } from '../../../frame/kernels/kernels'
import type { PictureTrack } from '../../containers/container'
import { standalone, type VideoCodec } from '../codec'
import { rgbaOfPlanes } from '../planar/colour'
import { Bits, huffmanTable, type HuffmanTable } from '../planar/huffman'
import { upwards } from '../planar/lengths'
import { lettersOf } from '../planar/letters'
import { undoGradient, undoLeft, undoMedian } from '../planar/predict'
import { untoldMatrix, WEIGHTS, weightsOf } from '../ycc'
import { coder } from './encode'
import { MEDIAN, WAY } from './way'

interface Layout {
  rgb: boolean
  planes: number
  across: 0 | 1
  down: 0 | 1
}

const LAYOUTS: Readonly<Record<number, Layout>> = {
  0x65: { rgb: true, planes: 3, across: 0, down: 0 },
  0x66: { rgb: true, planes: 4, across: 0, down: 0 },
  0x67: { rgb: false, planes: 3, across: 0, down: 0 },
  0x68: { rgb: false, planes: 3, across: 1, down: 0 },
  0x69: { rgb: false, planes: 3, across: 1, down: 1 },
  0x6a: { rgb: false, planes: 4, across: 0, down: 0 },
  0x6b: { rgb: false, planes: 1, across: 0, down: 0 }
}

/** The matrix of luma by ITU-T H.273, where the head names one: BT.601 or BT.709. */
const NAMED: Readonly<Record<number, number>> = { 1: 6, 2: 1 }

const LETTERS = ['M8RA', 'M8RG', 'M8YA', 'M8Y4', 'M8Y2', 'M8Y0', 'M8G0'] as const
const HEAD = 32

/**
 * Code lengths of one plane after the other, in runs. Lengths go in the order that codes ascend: longest first, lowest
 * symbol first.
 */
function tablesOf(data: Uint8Array, planes: number, fail: (matter: string) => Error): HuffmanTable[] {
  const bits = new Bits(data, false)
  return Array.from({ length: planes }, () => {
    const lengths: number[] = []
    while (lengths.length < 256) {
      const more = bits.take(1)
      const length = bits.take(7)
      const count = more ? bits.take(8) + 1 : 1
      if (bits.over || length > 32 || lengths.length + count > 256) throw fail('its code lengths are damaged')
      for (let i = 0; i < count; i++) lengths.push(length)
    }
    const table = huffmanTable(upwards(lengths))
    if (!table) throw fail('its code lengths contradict each other')
    return table
  })
}

/** Sums up what a slice's samples differ by from what is expected of them. */
function undo(part: Uint8Array, width: number, prediction: number, fail: (matter: string) => Error): void {
  if (prediction === 1) undoLeft(part, width, WAY.start, true)
  else if (prediction === 2) undoGradient(part, width, WAY.start)
  else if (prediction === MEDIAN) undoMedian(part, width, WAY.start, !WAY.lines)
  else throw fail(`a slice is predicted in a way (${prediction}) that is not known`)
}

function planesOf(
  data: Uint8Array,
  width: number,
  height: number,
  { fail, kernels }: { fail: (matter: string) => Error; kernels: Kernels }
): { planes: Uint8Array[]; layout: Layout } {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  if (data.length < HEAD + 8 || view.getUint32(0) !== 0x4d414759) throw fail('its head is damaged')
  const head = view.getUint32(4, true)
  const layout = LAYOUTS[view.getUint8(9)]
  if (head < HEAD || head >= data.length || view.getUint8(8) !== 7) throw fail('its head is damaged')
  if (!layout) throw fail(`its planes are laid out in a way (0x${view.getUint8(9).toString(16)}) that is not read`)
  if ((view.getUint8(12) & 2) !== 0) throw fail('its fields are coded apart, which is not read')
  const { planes: count } = layout
  const rows = view.getUint32(28, true)
  if (view.getUint32(16, true) !== width || view.getUint32(20, true) !== height || rows < 1)
    throw fail('its size is not that of the film')
  const slices = Math.ceil(height / rows)
  // one word more stands before the table of slices
  let at = HEAD + 4
  if (at + 4 * slices * count + 1 + slices * count > data.length) throw fail('its data ends early')
  const starts: number[] = []
  for (let i = 0; i < slices * count; i++, at += 4) starts.push(head + view.getUint32(at, true))
  if (data[at] !== count) throw fail('its head is damaged')
  at += 1 + slices * count
  const ends = [...starts.slice(1), data.length]
  if (starts.some((start, i) => start < at || start + 2 > ends[i]! || ends[i]! > data.length))
    throw fail('a slice lies beyond its data')
  const tables = tablesOf(data.subarray(at, starts[0]), count, fail)
  const sizeOf = (p: number): { w: number; h: number; step: number } =>
    p === 1 || p === 2
      ? {
          w: -(-width >> layout.across),
          h: -(-height >> layout.down),
          step: -(-rows >> layout.down)
        }
      : { w: width, h: height, step: rows }
  const planes = Array.from({ length: count }, (_, p) => new Uint8Array(sizeOf(p).w * sizeOf(p).h))
  for (const [p, plane] of planes.entries()) {
    const { w, h, step } = sizeOf(p)
    for (let s = 0; s < slices; s++) {
      const [start, end] = [starts[p * slices + s]!, ends[p * slices + s]!]
      const part = plane.subarray(Math.min(h, s * step) * w, Math.min(h, (s + 1) * step) * w)
      const prediction = data[start + 1]!
      const raw = (data[start]! & 1) !== 0
      const median = prediction === MEDIAN && !raw
      const how = { count: part.length, width: w, median, way: WAY }
      const held = data.subarray(start + 2, end)
      const values = raw ? held.subarray(0, part.length) : kernels.planarDecode(held, tables[p]!, how)
      if (!values || values.length < part.length) throw fail('a slice ends early')
      part.set(values)
      if (!median) undo(part, w, prediction, fail)
    }
  }
  return { planes, layout }
}

/** Luma's weights: by the head of a packet, else by the container, else those that are usual. */
function weightsIn(packet: Uint8Array, track: PictureTrack): ReturnType<typeof weightsOf> {
  const named = WEIGHTS[NAMED[packet[11] ?? 0] ?? 0]
  return named ? { ...named, told: true } : weightsOf(track)
}

const isFull = (packet: Uint8Array): boolean => ((packet[12] ?? 0) & 4) !== 0

/** Planes go blue, green, red, alpha; or luma, Cb, Cr, alpha. */
export const magicyuv: VideoCodec = {
  names: { avi: LETTERS, quicktime: LETTERS, matroska: LETTERS.map(letters => `V_${letters}`) },
  about(track, first) {
    const letters = lettersOf(track.code)
    const common = { kind: `MagicYUV ${letters}`, bitDepth: 8, carriesAlpha: letters.endsWith('A') } as const
    if (!letters.startsWith('M8Y')) return common
    const weights = weightsIn(first, track)
    const range = isFull(first) ? 'full' : 'limited'
    return {
      ...common,
      colour: weights.told ? `${weights.name}, ${range} range` : null,
      findings: untoldMatrix(weights, track.height)
    }
  },
  decoder(packets, { kernels }) {
    const { track, file } = packets
    const { width, height } = track
    return Promise.resolve(
      standalone(packets, (data, place) => {
        const fail = (matter: string): Error => unreadable(file, place, matter)
        const { planes, layout } = planesOf(data, width, height, { fail, kernels })
        const alpha = layout.planes === 4 ? planes[3]! : null
        const [blue, green, ...others] = planes
        const chroma =
          layout.planes > 1 ? { across: layout.across, down: layout.down, stride: -(-width >> layout.across) } : null
        const samples = layout.rgb
          ? kernels.planarJoin([green!, blue!, ...others], WAY)
          : (rgbaOfPlanes(
              { width, height, bits: 8, planes, chroma, alpha },
              { ...weightsIn(data, track), full: isFull(data) }
            ) as Uint8Array)
        return Promise.resolve({ width, height, depth: 8, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' })
      })
    )
  },
  proofReader: { name: "Pour's own MagicYUV reader, tested on files of other writers", independent: false },
  coder
}
