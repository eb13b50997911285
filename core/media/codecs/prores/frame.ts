/**
 * The outer form of a ProRes frame (SMPTE RDD 36, clauses 5 and 6), written and read.
 *
 * frame:   u32 size, "icpf", header, picture header:  u16 size, u8 0, u8 version, "encoder", u16 width, u16 height, u8
 * chroma << 6 | interlace << 2, u8 aspect << 4 | rate,
 *          u8 primaries, u8 transfer, u8 matrix, u8 alpha type, u8 0, u8 flags, weights if flagged (64 luma, 64 chroma)
 * picture: u8 8 << 3, u32 size, u16 slices, u8 log2 of slice width << 4, u16 size of each slice, slices
 * slice:   u8 header size << 3, u8 quantiser, u16 sizes of Y, Cb and, with alpha, Cr; then the four codes
 */
import { matrixFor, type ColourTags } from '../../../frame/colour-tags'
import { unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import { LOG2_SLICE, slicesOf, type Slice } from '../../../frame/kernels/prores-slices'
import type { ProresSlices } from '../../../frame/kernels/kernels'
import type { Rate } from '../../../base/rate'
import { fields, letters } from '../../containers/quicktime/atoms'
import type { FieldOrder } from '../../../source/source'

/** Frame rate codes (table 5); other rates are 0, unknown, and stand in the film alone. */
const RATE_CODES: readonly (readonly [number, number])[] = [
  [24000, 1001],
  [24, 1],
  [25, 1],
  [30000, 1001],
  [30, 1],
  [50, 1],
  [60000, 1001],
  [60, 1],
  [100, 1],
  [120000, 1001],
  [120, 1]
]

/** Codes of ITU-T H.273: BT.709 primaries and transfer. */
const BT709 = 1

export interface FrameShape {
  width: number
  height: number
  rate: Rate | null
  alphaBits: 0 | 8 | 16
  /** What its colours are, where not BT.709; the matrix is the one that belongs to them. */
  tags?: ColourTags | null
  /** Which field its first picture holds, where it has two. */
  fields: FieldOrder
}

/** How a frame says that it has fields (table 2, interlace_mode). */
const MODES = { progressive: 0, 'top-first': 1, 'bottom-first': 2 } as const

/** A picture from its slices: header, sizes, codes. */
function wrapPicture({ data, sizes }: ProresSlices): Uint8Array {
  const table = new Uint8Array(2 * sizes.length)
  sizes.forEach((size, i) => {
    table[2 * i] = size >> 8
    table[2 * i + 1] = size & 255
  })
  const picture = 8 + table.length + data.length
  return concatenate([fields([8, 8 << 3], [32, picture], [16, sizes.length], [8, LOG2_SLICE << 4]), table, data])
}

/** A whole frame from the slices of its picture, or of its two fields: 4:4:4, square pixels, all weights 4. */
export function wrapFrame(
  { width, height, rate, alphaBits, tags, fields: order }: FrameShape,
  pictures: readonly ProresSlices[]
): Uint8Array {
  const rateCode = rate ? RATE_CODES.findIndex(([n, d]) => n * rate[1] === d * rate[0]) + 1 : 0
  const header = concatenate([
    fields([16, 20], [8, 0], [8, 1]),
    letters('pour'),
    fields(
      [16, width],
      [16, height],
      [8, (3 << 6) | (MODES[order] << 2)],
      [8, (1 << 4) | rateCode],
      [8, tags?.[0] ?? BT709],
      [8, tags?.[1] ?? BT709],
      [8, matrixFor(tags)],
      [8, alphaBits === 16 ? 2 : alphaBits === 8 ? 1 : 0],
      [8, 0],
      [8, 0]
    )
  ])
  const coded = concatenate(pictures.map(wrapPicture))
  return concatenate([fields([32, 8 + header.length + coded.length]), letters('icpf'), header, coded])
}

export interface ParsedFrame {
  width: number
  height: number
  alphaBits: 0 | 8 | 16
  /** Two pictures, one for each field, and which comes first; null for one picture. */
  fields: 'top-first' | 'bottom-first' | null
  /** Codes of ITU-T H.273; 2 and 0 say nothing. */
  primaries: number
  transfer: number
  matrix: number
  /** Where the first picture begins. */
  pictureAt: number
}

/** Reads and checks the frame header. Errors name `file` and `place`. */
export function parseFrame(data: Uint8Array, file: string, place: string): ParsedFrame {
  const fail = (matter: string): Error => unreadable(file, place, matter)
  if (data.length < 28 || String.fromCharCode(...data.subarray(4, 8)) !== 'icpf')
    throw fail('this is not a ProRes frame; the film is damaged here')
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  const size = view.getUint16(8)
  if (size < 20 || 8 + size > data.length) throw fail('the header of the frame is damaged')
  const alphaType = view.getUint8(25) & 15
  if (alphaType > 2) throw fail(`its alpha is of kind ${alphaType}, which does not exist`)
  return {
    width: view.getUint16(16),
    height: view.getUint16(18),
    alphaBits: alphaType === 2 ? 16 : alphaType === 1 ? 8 : 0,
    fields: ([null, 'top-first', 'bottom-first', null] as const)[(view.getUint8(20) >> 2) & 3]!,
    primaries: view.getUint8(22),
    transfer: view.getUint8(23),
    matrix: view.getUint8(24),
    pictureAt: 8 + size
  }
}

export interface PlacedSlice extends Slice {
  offset: number
  size: number
}

/** A picture within a frame: all of its lines, or those of one field. */
export interface PlacedPicture {
  height: number
  slices: PlacedSlice[]
  /** Where the picture ends. */
  end: number
}

/** Slices of the picture at `at`, of so many lines, with their places; every one checked against the frame. */
export function placeSlices(
  data: Uint8Array,
  { at, width, height }: { at: number; width: number; height: number },
  file: string,
  place: string
): PlacedPicture {
  const fail = (matter: string): Error => unreadable(file, place, matter)
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  if (at + 8 > data.length) throw fail('the frame ends before its picture')
  const header = view.getUint8(at) >> 3
  const log2 = (view.getUint8(at + 7) >> 4) & 3
  if (header < 8) throw fail('the header of a picture is damaged')
  const slices = slicesOf(width, height, log2)
  let offset = at + header + 2 * slices.length
  const placed = slices.map((slice, i) => {
    const entry = at + header + 2 * i
    if (entry + 2 > data.length) throw fail('the table of slices is cut short')
    const size = view.getUint16(entry)
    if (offset + size > data.length)
      throw fail(`slice ${i + 1} of ${slices.length} lies beyond the frame; it was cut short`)
    const found = { ...slice, offset, size }
    offset += size
    return found
  })
  return { height, slices: placed, end: at + view.getUint32(at + 1) }
}

/** The picture of a frame, or the two of its fields: first the one that is shown first. */
export function picturesOf(data: Uint8Array, frame: ParsedFrame, file: string, place: string): PlacedPicture[] {
  const { width, height, fields, pictureAt } = frame
  if (!fields) return [placeSlices(data, { at: pictureAt, width, height }, file, place)]
  // the top field has the odd line, where there is one
  const lines = fields === 'top-first' ? [(height + 1) >> 1, height >> 1] : [height >> 1, (height + 1) >> 1]
  const first = placeSlices(data, { at: pictureAt, width, height: lines[0]! }, file, place)
  return [first, placeSlices(data, { at: first.end, width, height: lines[1]! }, file, place)]
}
