/**
 * Layouts of uncompressed pictures in QuickTime beside "raw " ("Letters" of the QuickTime File Format and its notes on
 * uncompressed Y'CbCr): how many bytes a row takes, and what a row means. All are read, none is written.
 */
import type { Frame } from '../../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../../frame/frame'
import type { Kernels } from '../../../frame/kernels/kernels'
import { rgbOf } from '../ycc'

export interface Layout {
  /** "uncompressed RGBA, 8 bit". */
  name: string
  depth: 8 | 16
  alpha: boolean
  /** Whether its samples are Y'CbCr of limited range. */
  ycc: boolean
  /** Bytes of a row of so many pixels, padding included. */
  row(width: number): number
}

interface Reading {
  data: DataView
  width: number
  height: number
  stride: number
}

/** RGB rows: puts one pixel's codes at `to`. */
type Pixel = (data: DataView, at: number, out: Uint8Array | Uint16Array, to: number) => void

/** Y'CbCr rows of full width, 12 bits a sample: puts one pixel's Y, Cb, Cr and alpha of 16 bits. */
type Sample = (data: DataView, at: number) => readonly [number, number, number, number]

type Entry = Layout & ({ bytes: number; pixel: Pixel } | { bytes: number; sample: Sample } | { pairs: Pairs })

/** Y'CbCr rows of half the colour: fills a row of Y and of half as many Cb and Cr, 12 bits a sample. */
type Pairs = (
  data: DataView,
  at: number,
  row: { y: Uint16Array; cb: Uint16Array; cr: Uint16Array; width: number }
) => void

const bytes4 = (r: number, g: number, b: number, a: number): Pixel => {
  const order = [r, g, b, a]
  return (data, at, out, to) => {
    for (let c = 0; c < 4; c++) out[to + c] = data.getUint8(at + order[c]!)
  }
}

const packed =
  (bytes: number) =>
  (width: number): number =>
    width * bytes

/** Ten bits a sample as sixteen: the ends stay the ends. */
const ten = (code: number): number => Math.round((code * 65535) / 1023)

/** v210: six pixels in sixteen bytes, three samples of ten bits in each word. */
const v210: Pairs = (data, at, { y, cb, cr, width }) => {
  const groups = Math.ceil(width / 6)
  for (let g = 0; g < groups; g++) {
    const s: number[] = []
    for (let w = 0; w < 4; w++) {
      const word = data.getUint32(at + 16 * g + 4 * w, true)
      s.push((word & 1023) << 2, ((word >> 10) & 1023) << 2, ((word >> 20) & 1023) << 2)
    }
    // Cb Y Cr Y, and so on
    for (let n = 0; n < 3; n++) {
      if (3 * g + n < cb.length) {
        cb[3 * g + n] = s[4 * n]!
        cr[3 * g + n] = s[4 * n + 2]!
      }
      if (6 * g + 2 * n < width) y[6 * g + 2 * n] = s[4 * n + 1]!
      if (6 * g + 2 * n + 1 < width) y[6 * g + 2 * n + 1] = s[4 * n + 3]!
    }
  }
}

/** Samples of 8 or 16 bits, the places of Y and of Cb and Cr within four of them. */
const four =
  (bits: 8 | 16, [y0, cbAt, y1, crAt]: readonly [number, number, number, number]): Pairs =>
  (data, at, { y, cb, cr, width }) => {
    const take = (n: number): number =>
      bits === 8 ? data.getUint8(at + n) << 4 : data.getUint16(at + 2 * n, true) >> 4
    for (let k = 0; k < cb.length; k++) {
      cb[k] = take(4 * k + cbAt)
      cr[k] = take(4 * k + crAt)
      y[2 * k] = take(4 * k + y0)
      if (2 * k + 1 < width) y[2 * k + 1] = take(4 * k + y1)
    }
  }

const bytesYcc =
  (y: number, cb: number, cr: number, a: number | null): Sample =>
  (data, at) => [
    data.getUint8(at + y) << 4,
    data.getUint8(at + cb) << 4,
    data.getUint8(at + cr) << 4,
    a === null ? 65535 : 257 * data.getUint8(at + a)
  ]

const rgb = (name: string, depth: 8 | 16, alpha: boolean, bytes: number, pixel: Pixel): Entry => ({
  name: `uncompressed ${name}`,
  depth,
  alpha,
  ycc: false,
  row: packed(bytes),
  bytes,
  pixel
})

const LAYOUTS: Readonly<Record<string, Entry>> = {
  RGBA: rgb('RGBA, 8 bit', 8, true, 4, bytes4(0, 1, 2, 3)),
  BGRA: rgb('BGRA, 8 bit', 8, true, 4, bytes4(2, 1, 0, 3)),
  ABGR: rgb('ABGR, 8 bit', 8, true, 4, bytes4(3, 2, 1, 0)),
  b48r: rgb('RGB, 16 bit', 16, false, 6, (data, at, out, to) => {
    for (let c = 0; c < 3; c++) out[to + c] = data.getUint16(at + 2 * c)
    out[to + 3] = 65535
  }),
  r210: {
    ...rgb('RGB, 10 bit', 16, false, 4, (data, at, out, to) => {
      const word = data.getUint32(at)
      for (let c = 0; c < 3; c++) out[to + c] = ten((word >>> (20 - 10 * c)) & 1023)
      out[to + 3] = 65535
    }),
    row: width => Math.ceil(width / 64) * 256
  },
  AYUV: {
    name: "uncompressed Y'CbCrA 4:4:4, 8 bit",
    depth: 16,
    alpha: true,
    ycc: true,
    row: packed(4),
    bytes: 4,
    sample: bytesYcc(2, 1, 0, 3)
  },
  v408: {
    name: "uncompressed Y'CbCrA 4:4:4, 8 bit",
    depth: 16,
    alpha: true,
    ycc: true,
    row: packed(4),
    bytes: 4,
    sample: bytesYcc(1, 0, 2, 3)
  },
  v308: {
    name: "uncompressed Y'CbCr 4:4:4, 8 bit",
    depth: 16,
    alpha: false,
    ycc: true,
    row: packed(3),
    bytes: 3,
    sample: bytesYcc(1, 2, 0, null)
  },
  v410: {
    name: "uncompressed Y'CbCr 4:4:4, 10 bit",
    depth: 16,
    alpha: false,
    ycc: true,
    row: packed(4),
    bytes: 4,
    sample(data, at) {
      const word = data.getUint32(at, true)
      return [((word >>> 12) & 1023) << 2, ((word >>> 2) & 1023) << 2, ((word >>> 22) & 1023) << 2, 65535]
    }
  },
  '2vuy': {
    name: "uncompressed Y'CbCr 4:2:2, 8 bit",
    depth: 16,
    alpha: false,
    ycc: true,
    row: width => Math.ceil(width / 2) * 4,
    pairs: four(8, [1, 0, 3, 2])
  },
  v216: {
    name: "uncompressed Y'CbCr 4:2:2, 16 bit",
    depth: 16,
    alpha: false,
    ycc: true,
    row: width => Math.ceil(width / 2) * 8,
    pairs: four(16, [1, 0, 3, 2])
  },
  v210: {
    name: "uncompressed Y'CbCr 4:2:2, 10 bit",
    depth: 16,
    alpha: false,
    ycc: true,
    row: width => Math.ceil(width / 48) * 128,
    pairs: v210
  }
}

/** Codes that name a layout here. */
export const LAYOUT_CODES: readonly string[] = Object.keys(LAYOUTS)

/** How the samples of this code lie; null for codes that are not known. */
export function layoutOf(code: string): Layout | null {
  return Object.hasOwn(LAYOUTS, code) ? LAYOUTS[code]! : null
}

/** The picture in `bytes`, which hold at least its rows. */
export function unpackLayout(
  code: string,
  bytes: Uint8Array,
  { width, height }: { width: number; height: number },
  { weights, kernels }: { weights: { kr: number; kb: number }; kernels: Kernels }
): Frame {
  const entry = LAYOUTS[code]!
  const reading: Reading = {
    data: new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength),
    width,
    height,
    stride: entry.row(width)
  }
  if ('pixel' in entry) return rgbRows(entry, reading)
  const half = 'pairs' in entry
  const columns = half ? Math.ceil(width / 2) : width
  const planes = new Uint16Array((width + 2 * columns) * height)
  const alpha = entry.alpha ? new Uint16Array(width * height) : null
  if ('sample' in entry) {
    const { data, stride } = reading
    for (let p = 0; p < width * height; p++) {
      const at = Math.floor(p / width) * stride + (p % width) * entry.bytes
      const [y, cb, cr, a] = entry.sample(data, at)
      planes[p] = y
      planes[width * height + p] = cb
      planes[2 * width * height + p] = cr
      if (alpha) alpha[p] = a
    }
  } else {
    const [blue, red] = [width * height, (width + columns) * height]
    const line = (from: number, y: number, codes: number): Uint16Array =>
      planes.subarray(from + y * codes, from + (y + 1) * codes)
    for (let y = 0; y < height; y++) {
      const row = { y: line(0, y, width), cb: line(blue, y, columns), cr: line(red, y, columns), width }
      entry.pairs(reading.data, y * reading.stride, row)
    }
  }
  return rgbOf({ planes, stride: width, width, height, alpha, half }, weights, kernels)
}

function rgbRows(entry: Entry & { pixel: Pixel }, { data, width, height, stride }: Reading): Frame {
  const samples = entry.depth === 16 ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height)
  const bytes = 'bytes' in entry ? entry.bytes : 4
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) entry.pixel(data, y * stride + x * bytes, samples, 4 * (y * width + x))
  return { width, height, depth: entry.depth, samples, alpha: entry.alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}
