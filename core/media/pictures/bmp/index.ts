/**
 * BMP files (device-independent bitmaps), one a frame, read only: palettes of 1, 4 and 8 bits, and colours of 16, 24
 * and 32 bits, by masks where the header has them.
 *
 * 0 "BM", 10 u32 place of the pixels; 14 u32 bytes of the header, 18 i32 width, 22 i32 height (below zero: rows from
 * the top), 28 u16 bits,
 * 30 u32 compression (0 none, 3 and 6 masks), 46 u32 colours of the palette; from 54: masks of red, green, blue and
 * alpha
 */
import { unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { allocateSamples, MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { AlphaClaim } from '../../../source/source'
import { fromHead } from '../sequence/head'
import { picturesOf } from '../sequence/pictures'

interface BmpInfo {
  width: number
  height: number
  fromTop: boolean
  bits: 1 | 4 | 8 | 16 | 24 | 32
  /** Masks of red, green, blue and alpha, of 16 and 32 bits. */
  masks: readonly [number, number, number, number]
  /** Whether the header calls the uppermost bits alpha; of 32 bits without masks it leaves them open. */
  alpha: 'said' | 'open' | 'none'
  palette: { at: number; count: number } | null
  pixelsAt: number
}

/** Packings in words, for those that are not read. */
const PACKED: Readonly<Record<number, string>> = { 1: 'runs of 8 bits', 2: 'runs of 4 bits', 4: 'JPEG', 5: 'PNG' }

function looksLikeBmp(head: Uint8Array): boolean {
  if (head[0] !== 0x42 || head[1] !== 0x4d || head.length < 30) return false
  const size = head[14]! | (head[15]! << 8)
  return [40, 52, 56, 108, 124].includes(size) && head[26] === 1 && head[27] === 0
}

function readInfo(bytes: Uint8Array, file: string): BmpInfo {
  const fail = (matter: string): Error => unreadable(file, 'the header', matter)
  if (!looksLikeBmp(bytes)) throw fail('this is not a bitmap file')
  const c = new Cursor(bytes, file, true)
  const header = c.u32(14)
  const [width, rows, bits, packing] = [c.i32(18), c.i32(22), c.u16(28), c.u32(30)]
  const height = Math.abs(rows)
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw fail(`a picture of ${width}x${height} cannot be taken`)
  if (packing !== 0 && packing !== 3 && packing !== 6)
    throw fail(`its pixels are packed as ${PACKED[packing] ?? `kind ${packing}`}, which is not read`)
  if (![1, 4, 8, 16, 24, 32].includes(bits) || (packing !== 0 && bits !== 16 && bits !== 32))
    throw fail(`pixels of ${bits} bits in packing ${packing} are not read`)
  const masked = packing !== 0
  const usual = bits === 16 ? ([0x7c00, 0x3e0, 0x1f, 0] as const) : ([0xff0000, 0xff00, 0xff, 0xff000000] as const)
  const withAlpha = masked && (header >= 56 || packing === 6)
  const masks = masked
    ? ([c.u32(54), c.u32(58), c.u32(62), withAlpha ? c.u32(66) : 0] as const)
    : ([usual[0], usual[1], usual[2], bits === 32 ? usual[3] : 0] as const)
  const colours = bits <= 8 ? c.u32(46) || 1 << bits : 0
  if (colours > 256) throw fail(`a palette of ${colours} colours cannot be`)
  return {
    width,
    height,
    fromTop: rows < 0,
    bits: bits as BmpInfo['bits'],
    masks,
    alpha: masks[3] === 0 ? 'none' : masked ? 'said' : 'open',
    palette: bits <= 8 ? { at: 14 + header, count: colours } : null,
    pixelsAt: c.u32(10)
  }
}

function claimOf({ alpha, bits }: BmpInfo): AlphaClaim {
  if (alpha === 'none') return { mode: 'none', matte: null, says: `${bits} bits a pixel, none of them alpha` }
  return alpha === 'said'
    ? { mode: 'unknown', matte: null, says: 'a mask of alpha, which does not say how it is meant' }
    : { mode: 'unknown', matte: null, says: 'a fourth byte, which the header leaves open' }
}

/** What a masked field of a word is in codes of 255. */
function fieldOf(mask: number): (word: number) => number {
  if (mask === 0) return () => 255
  let shift = 0
  while (((mask >>> shift) & 1) === 0) shift++
  const full = mask >>> shift
  return word => Math.round((((word & mask) >>> shift) * 255) / full)
}

async function decode(_: unknown, reader: ByteReader): Promise<Frame> {
  const bytes = await readAll(reader)
  const info = readInfo(bytes, reader.name)
  const { width, height, fromTop, bits, masks, palette, pixelsAt } = info
  const stride = ((width * bits + 31) >> 5) * 4
  if (pixelsAt + stride * height > bytes.length)
    throw unreadable(reader.name, `byte ${bytes.length}`, 'the file ends within the picture; it was cut short')
  const c = new Cursor(bytes, reader.name, true)
  if (palette) c.need(palette.at, 4 * palette.count)
  const samples = allocateSamples(width, height, 8) as Uint8Array
  const fields = masks.map(fieldOf)
  for (let y = 0; y < height; y++) {
    const row = pixelsAt + (fromTop ? y : height - 1 - y) * stride
    for (let x = 0; x < width; x++) {
      const to = 4 * (y * width + x)
      if (palette) {
        const number = (bytes[row + ((x * bits) >> 3)]! >> (8 - bits - ((x * bits) & 7))) & ((1 << bits) - 1)
        const from = palette.at + 4 * Math.min(number, palette.count - 1)
        samples.set([bytes[from + 2]!, bytes[from + 1]!, bytes[from]!, 255], to)
      } else if (bits === 24) {
        const from = row + 3 * x
        samples.set([bytes[from + 2]!, bytes[from + 1]!, bytes[from]!, 255], to)
      } else {
        const from = row + (x * bits) / 8
        const word = bits === 16 ? c.u16(from) : c.u32(from)
        for (let n = 0; n < 4; n++) samples[to + n] = fields[n]!(word)
      }
    }
  }
  return { width, height, depth: 8, samples, alpha: info.alpha === 'none' ? OPAQUE : STRAIGHT, transfer: 'srgb' }
}

export const bmpSequence = picturesOf(
  {
    extension: 'bmp',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'a mask of alpha' },
      premultiplied: { can: true, declares: 'a mask of alpha' },
      none: { can: true, declares: '24 bits a pixel' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carried by names and notes' },
    options: {},
    proofReader: { name: "Pour's own reader of bitmaps", independent: false }
  },
  {
    recognises: looksLikeBmp,
    async about(reader) {
      const info = await fromHead(reader, bytes => readInfo(bytes, reader.name))
      return {
        kind: `BMP, ${info.bits} bit`,
        width: info.width,
        height: info.height,
        bitDepth: 8,
        claim: claimOf(info),
        colour: null
      }
    },
    decode,
    // where the header leaves the fourth byte open, writers that mean nothing by it leave zeros in all of a clip
    async anyAlpha(reader) {
      const bytes = await readAll(reader)
      const { alpha, width, height, pixelsAt } = readInfo(bytes, reader.name)
      if (alpha === 'said') return true
      if (alpha === 'none') return false
      const end = Math.min(bytes.length, pixelsAt + 4 * width * height)
      for (let at = pixelsAt + 3; at < end; at += 4) if (bytes[at] !== 0) return true
      return false
    },
    encode: () => Promise.reject(new TypeError('bitmap files are read, not written'))
  }
)
