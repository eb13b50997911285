/**
 * Reading TIFF 6.0 and its form for large files (version 43, places of 64 bits): grey, RGB or palette, strips or tiles,
 * none / LZW / deflate / PackBits / JPEG, both byte orders; samples of 1, 8, 16 and 32 bits, half and float.
 */
import { MOST_PROFILE, readProfile, type ProfileFound } from '../../colour-profile'
import { unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import { memoryReader, readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { allocateSamples, MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import { oriented, orientationOf, type Orientation } from '../../../frame/orient'
import type { Host } from '../../../frame/host'
import { MOST_OF_SHAPE, nearestRate } from '../../../base/rate'
import { fromHalf } from '../exr/half'
import { readJpegInfo } from '../jpeg'
import { decodeByMachine } from '../sequence/machine'
import { unpackLzw } from './lzw'

export interface TiffInfo {
  width: number
  height: number
  /** How a sample is stored. */
  sample: Sample
  channels: number
  /**
   * The extra sample that is taken as alpha: which it is, and 0 unspecified, 1 associated (premultiplied), 2
   * unassociated. Null without any.
   */
  extra: { channel: number; meaning: number } | null
  /** 0 white is zero, 1 black is zero, 2 RGB, 3 palette. */
  photometric: number
  compression: number
  predictor: number
  planar: boolean
  tile: { width: number; height: number } | null
  rowsPerStrip: number
  /** Rows that the last strip has where it is filled up to the height of the others. */
  filledRows: number
  offsets: number[]
  counts: number[]
  palette: number[] | null
  /**
   * Of JPEG within TIFF: the tables that its streams share; empty where each brings its own. Null for other packings.
   */
  jpegTables: Uint8Array | null
  orientation: Orientation
  /** Width and height of a pixel, from the two resolutions: more of them to the unit, less of each. */
  pixelAspect: [number, number]
  profile: ProfileFound | null
}

export type Sample = 'bit' | 'uint8' | 'uint16' | 'uint32' | 'half' | 'float'

/** Samples by their bits and format (1 unsigned, 3 floating point). */
const SAMPLES: Readonly<Record<string, Sample>> = {
  '1/1': 'bit',
  '8/1': 'uint8',
  '16/1': 'uint16',
  '32/1': 'uint32',
  '16/3': 'half',
  '32/3': 'float'
}
const BITS: Readonly<Record<Sample, number>> = { bit: 1, uint8: 8, uint16: 16, uint32: 32, half: 16, float: 32 }

/** The depth that samples are read into: integers of 32 bits keep their upper 16. */
export const depthOf = (sample: Sample): 8 | 16 | 32 =>
  sample === 'bit' || sample === 'uint8' ? 8 : sample === 'uint16' || sample === 'uint32' ? 16 : 32

/** Colours that are not read, in words. */
const FOREIGN: Readonly<Record<number, string>> = {
  4: 'a mask of another picture',
  5: 'inks for print (CMYK); ask for RGB',
  6: "Y'CbCr without JPEG; ask for RGB",
  8: 'CIE Lab; ask for RGB',
  9: 'CIE Lab; ask for RGB'
}

const SIZES: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  18: 8
}

/** No list in a file may be longer: a strip for each row of the tallest picture. */
const MOST_VALUES = 1 << 20

/** The fields that are read; any other may say what it likes. */
const READ = new Set([
  256, 257, 258, 259, 262, 273, 274, 277, 278, 279, 282, 283, 284, 317, 320, 322, 323, 324, 325, 338, 339, 347
])

/** Compression 7 (TIFF technical note 2), and luma with chroma. */
const JPEG = 7
const LUMA = 6

/** An ICC profile (ISO 15076-1, annex B.3). */
const PROFILE = 34675

/** Whether a file of these first bytes is TIFF or BigTIFF, of either byte order. */
export function looksLikeTiff(head: Uint8Array): boolean {
  return (
    (head[0] === 0x49 && head[1] === 0x49 && (head[2] === 42 || head[2] === 43) && head[3] === 0) ||
    (head[0] === 0x4d && head[1] === 0x4d && head[2] === 0 && (head[3] === 42 || head[3] === 43))
  )
}

/** How directories lie: bytes of their count, of an entry, of a count of values and of a place. */
interface Layout {
  count: 2 | 8
  entry: 12 | 20
  place: 4 | 8
}

const layoutOf = (head: Uint8Array): Layout =>
  head[2] === 43 || head[3] === 43 ? { count: 8, entry: 20, place: 8 } : { count: 2, entry: 12, place: 4 }

const placeAt = (c: Cursor, at: number, { place }: Layout): number => (place === 8 ? c.u64(at) : c.u32(at))

/** Where the first directory lies. */
const firstOf = (c: Cursor, layout: Layout): number => placeAt(c, layout.place === 8 ? 8 : 4, layout)

/**
 * The shape that resolutions of a number of pixels to the unit, each a fraction, come to; square where they tell
 * nothing.
 */
function shapeOf(across: number[] | undefined, down: number[] | undefined): [number, number] {
  const [x, y] = [across, down].map(pair => (pair ? pair[0]! / (pair[1] ?? 1) : NaN)) as [number, number]
  const ratio = y / x
  // resolutions that are rounded to whole pixels an inch are no shape
  return Math.abs(ratio - 1) < 0.005 ? [1, 1] : (nearestRate([ratio, 1], MOST_OF_SHAPE) ?? [1, 1])
}

/** More pages than any scan or clip has. */
const MOST_PAGES = 1 << 16

/** Where the directories of a file's pages lie, in their order; reduced copies of a page (tag 254, bit 0) are none. */
export async function pagesOf(reader: ByteReader): Promise<number[]> {
  const head = await reader.read(0, 16)
  if (head.length < 8 || !looksLikeTiff(head)) return []
  const little = head[0] === 0x49
  const layout = layoutOf(head)
  const pages: number[] = []
  const seen = new Set<number>()
  for (let at = firstOf(new Cursor(head, reader.name, little), layout); at !== 0 && at + layout.count <= reader.size;) {
    if (seen.has(at) || seen.size >= MOST_PAGES)
      throw unreadable(reader.name, `byte ${at}`, 'its list of pages runs in a circle or has no end')
    seen.add(at)
    const counted = new Cursor(await reader.read(at, layout.count), reader.name, little)
    const count = layout.count === 8 ? counted.u64(0) : counted.u16(0)
    if (count > 65535) throw unreadable(reader.name, `byte ${at}`, `a directory claims ${count} entries`)
    const size = layout.entry * count + layout.place
    const c = new Cursor(await reader.read(at + layout.count, size), reader.name, little)
    let reduced = false
    for (let i = 0; i < count; i++)
      if (c.u16(layout.entry * i) === 254) reduced = (c.u32(layout.entry * i + 4 + layout.place) & 1) === 1
    if (!reduced) pages.push(at)
    // the first page may be cut short at its end, where nothing follows
    at = c.bytes.length >= size ? placeAt(c, layout.entry * count, layout) : 0
  }
  return pages
}

/** The profile there; one that ends beyond the file is told as unread, since the picture is whole without it. */
const profileAt = (bytes: Uint8Array, at: number, length: number): ProfileFound | null =>
  readProfile(at + length <= bytes.length ? bytes.subarray(at, at + length) : new Uint8Array(0))

/** What the directory at `at` says, the first one where that is not given. */
export function readTiffInfo(bytes: Uint8Array, file: string, at?: number): TiffInfo {
  const fail = (matter: string, place: string | null = null): Error => unreadable(file, place, matter)
  if (!looksLikeTiff(bytes)) throw fail('this is not a TIFF file', 'byte 0')
  const c = new Cursor(bytes, file, bytes[0] === 0x49)
  const layout = layoutOf(bytes)
  const directory = at ?? firstOf(c, layout)
  const tags = new Map<number, number[]>()
  let profile: ProfileFound | null = null
  const entries = layout.count === 8 ? c.u64(directory) : c.u16(directory)
  for (let i = 0; i < entries; i++) {
    const at = directory + layout.count + layout.entry * i
    const [tag, type, count] = [c.u16(at), c.u16(at + 2), placeAt(c, at + 4, layout)]
    if (tag === PROFILE && type === 7 && count > layout.place && count <= MOST_PROFILE)
      profile = profileAt(bytes, placeAt(c, at + 4 + layout.place, layout), count)
    const size = SIZES[type]
    if (!size || count > MOST_VALUES || !READ.has(tag) || tags.has(tag)) continue
    const value = at + 4 + layout.place
    const place = count * size <= layout.place ? value : placeAt(c, value, layout)
    c.need(place, count * size)
    const whole = type === 16 || type === 18
    const read = (n: number): number =>
      size === 1
        ? c.u8(place + n)
        : size === 2
          ? c.u16(place + 2 * n)
          : whole
            ? c.u64(place + 8 * n)
            : c.u32(place + size * n)
    // a fraction is two numbers
    const fraction = type === 5 && count === 1 ? [c.u32(place), c.u32(place + 4)] : null
    tags.set(tag, fraction ?? Array.from({ length: count }, (_, n) => read(n)))
  }
  const one = (tag: number, fallback: number): number => tags.get(tag)?.[0] ?? fallback
  const [width, height] = [one(256, 0), one(257, 0)]
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw fail(`it claims a picture of ${width}x${height}, which cannot be taken`)
  const bitsList = tags.get(258) ?? [1]
  const format = one(339, 1)
  const sample = bitsList.every(b => b === bitsList[0]) ? SAMPLES[`${bitsList[0]!}/${format}`] : undefined
  if (!sample)
    throw fail(
      `samples of ${bitsList.join(', ')} bits in format ${format} are not read; 1, 8, 16 and 32 bits, half ` +
        'and float are'
    )
  const photometric = one(262, 1)
  const channels = one(277, 1)
  const coded = one(259, 1) === JPEG
  // luma and chroma within a JPEG stream come out of it as colours
  const base = photometric === 2 || (coded && photometric === LUMA) ? 3 : 1
  const foreign = coded && photometric === LUMA ? null : FOREIGN[photometric]
  if (foreign) throw fail(`its colours are ${foreign}`)
  if (coded && (sample !== 'uint8' || channels !== base || photometric === 3))
    throw fail(`JPEG within it is read of grey and of three colours of 8 bits, not of ${channels} channels`)
  if (
    (photometric > 3 && base !== 3) ||
    channels < base ||
    channels > 8 ||
    (photometric === 3 && sample !== 'uint8') ||
    (sample === 'bit' && (photometric > 1 || channels > 1))
  )
    throw fail(
      `its colours are of kind ${photometric} with ${channels} channels of ${bitsList[0]!} bits, which is not read`
    )
  const tiled = tags.has(322)
  const tile = tiled ? { width: one(322, 0), height: one(323, 0) } : null
  if (tile && (tile.width < 1 || tile.height < 1 || tile.width * tile.height > MAX_PIXELS))
    throw fail('its tiles have no size')
  const offsets = tags.get(tiled ? 324 : 273) ?? []
  const counts = tags.get(tiled ? 325 : 279) ?? []
  if (offsets.length === 0 || offsets.length !== counts.length) throw fail('it does not say where its picture lies')
  const palette = tags.get(320) ?? null
  if (photometric === 3 && palette?.length !== 768) throw fail('its palette is missing or damaged')
  return {
    width,
    height,
    sample,
    channels,
    extra: extraOf(tags.get(338) ?? [], base, channels),
    photometric,
    compression: one(259, 1),
    predictor: one(317, 1),
    planar: one(284, 1) === 2,
    tile,
    rowsPerStrip: Math.min(height, one(278, height)),
    filledRows: one(278, height) < 65536 ? one(278, height) : height,
    offsets,
    counts,
    palette,
    jpegTables: coded ? bytesOf(tags.get(347)) : null,
    orientation: orientationOf(one(274, 1)),
    pixelAspect: shapeOf(tags.get(282), tags.get(283)),
    profile
  }
}

/** The extra sample that is alpha: the first that says so, else the first of all. */
function extraOf(meanings: readonly number[], base: number, channels: number): TiffInfo['extra'] {
  if (channels <= base) return null
  const declared = meanings.slice(0, channels - base).findIndex(meaning => meaning === 1 || meaning === 2)
  const n = Math.max(0, declared)
  return { channel: base + n, meaning: meanings[n] ?? 0 }
}

function unpackBits(packed: Uint8Array, size: number): Uint8Array | null {
  const out = new Uint8Array(size)
  let at = 0
  for (let i = 0; i < packed.length && at < size;) {
    const n = packed[i++]!
    if (n < 128) {
      const run = packed.subarray(i, i + n + 1)
      if (run.length < n + 1 || at + run.length > size) return null
      out.set(run, at)
      i += n + 1
      at += n + 1
    } else if (n > 128) {
      if (i >= packed.length || at + 257 - n > size) return null
      out.fill(packed[i++]!, at, at + 257 - n)
      at += 257 - n
    }
  }
  return at === size ? out : null
}

async function unpack(
  host: Host,
  packed: Uint8Array,
  size: number,
  compression: number,
  fail: (matter: string) => Error
): Promise<Uint8Array> {
  // PackBits and deflate can claim no more than this of their bytes; LZW less
  if (compression !== 1 && size > packed.length * 1100 + 4096)
    throw fail('it claims more picture than its bytes can hold')
  if (compression === 1) {
    if (packed.length < size) throw fail('its data is cut short')
    return packed.subarray(0, size)
  }
  const unpacked =
    compression === 5
      ? unpackLzw(packed, size)
      : compression === 32773
        ? unpackBits(packed, size)
        : compression === 8 || compression === 32946
          ? await host.deflate.inflate(packed, size, 'zlib').catch(() => null)
          : undefined
  if (unpacked === undefined)
    throw fail(`compression ${compression} is not read; none, LZW, deflate, PackBits and JPEG are`)
  if (unpacked === null) throw fail('its packed data is damaged or incomplete')
  return unpacked
}

/** A strip or tile: its size, and its samples a pixel. */
interface Cell {
  width: number
  rows: number
  perPlane: number
  fail(matter: string): Error
}

/**
 * A JPEG stream of a strip or tile (TIFF technical note 2), which may leave its tables to all streams together. That
 * its colours are no luma and chroma is told by a marker, without which decoders take them for such.
 */
async function unpackJpeg(
  host: Host,
  file: string,
  packed: Uint8Array,
  { jpegTables, photometric }: TiffInfo,
  { width, rows, perPlane, fail }: Cell
): Promise<Uint8Array> {
  const tables = jpegTables!.length > 4 ? jpegTables!.subarray(2, jpegTables!.length - 2) : new Uint8Array(0)
  if (packed[0] !== 0xff || packed[1] !== 0xd8) throw fail('it is no JPEG stream')
  const marker = perPlane === 3 ? colourMarker(photometric === LUMA ? 1 : 0) : new Uint8Array(0)
  const whole = concatenate([packed.subarray(0, 2), marker, tables, packed.subarray(2)])
  const info = await readJpegInfo(memoryReader(file, whole))
  if (info.width !== width || info.height < rows || info.components !== perPlane)
    throw fail(`its JPEG stream is of ${info.width}x${info.height}, where ${width}x${rows} are due`)
  const { samples } = await decodeByMachine(host, file, whole, 'image/jpeg', OPAQUE)
  const out = new Uint8Array(width * rows * perPlane)
  for (let i = 0; i < width * rows; i++) for (let c = 0; c < perPlane; c++) out[i * perPlane + c] = samples[4 * i + c]!
  return out
}

/**
 * APP14, by five letters and a version: the last byte says whether three components are colours (0), or luma and chroma
 * (1).
 */
const colourMarker = (transform: 0 | 1): Uint8Array =>
  Uint8Array.from([0xff, 0xee, 0, 14, 0x41, 0x64, 0x6f, 0x62, 0x65, 0, 100, 0, 0, 0, 0, transform])

const bytesOf = (values: readonly number[] | undefined): Uint8Array => Uint8Array.from(values ?? [])

/**
 * One strip or tile as numbers, byte order and predictor undone (TIFF 6.0 section 14; float predictor, TIFF technical
 * note 3).
 */
function toNumbers(
  raw: Uint8Array,
  info: TiffInfo,
  { width, rows, channels }: { width: number; rows: number; channels: number },
  little: boolean
): Uint8Array | Uint16Array | Float32Array {
  const { sample, predictor } = info
  const bits = BITS[sample]
  const size = width * channels
  if (sample === 'bit') {
    const stride = (width + 7) >> 3
    return Uint8Array.from({ length: width * rows }, (_, n) => {
      const [x, y] = [n % width, Math.floor(n / width)]
      return (raw[y * stride + (x >> 3)]! >> (7 - (x & 7))) & 1 ? 255 : 0
    })
  }
  const bytes = raw.slice()
  const each = bits / 8
  const stride = size * each
  if (predictor === 3) {
    for (let y = 0; y < rows; y++) {
      const row = bytes.subarray(y * stride, (y + 1) * stride)
      for (let i = channels; i < row.length; i++) row[i] = (row[i]! + row[i - channels]!) & 255
      const planes = row.slice()
      // the planes hold the most significant bytes first; floats are put together little-endian
      for (let i = 0; i < size; i++)
        for (let b = 0; b < each; b++) row[i * each + b] = planes[(each - 1 - b) * size + i]!
    }
  } else if (each > 1 && !little) {
    for (let i = 0; i + each <= bytes.length; i += each) bytes.subarray(i, i + each).reverse()
  }
  const words =
    each === 1
      ? bytes
      : each === 2
        ? new Uint16Array(bytes.buffer, 0, bytes.length >> 1)
        : new Uint32Array(bytes.buffer, 0, bytes.length >> 2)
  if (predictor === 2)
    for (let y = 0; y < rows; y++)
      for (let i = y * size + channels; i < (y + 1) * size; i++) words[i] = words[i]! + words[i - channels]!
  if (sample === 'half') return Float32Array.from(words, fromHalf)
  if (sample === 'float') return new Float32Array(words.buffer, 0, words.length)
  return sample === 'uint32' ? Uint16Array.from(words, word => word >>> 16) : (words as Uint8Array | Uint16Array)
}

/** Decodes the picture of a file, or the one of a page. */
export async function decodeTiff(host: Host, reader: ByteReader, page?: number): Promise<Frame> {
  const bytes = await readAll(reader)
  const info = readTiffInfo(bytes, reader.name, page)
  const { width, height, channels, photometric, extra } = info
  const depth = depthOf(info.sample)
  const bits = BITS[info.sample]
  const perPlane = info.planar ? 1 : channels
  const [cellWidth, cellRows] = info.tile ? [info.tile.width, info.tile.height] : [width, info.rowsPerStrip]
  const [across, down] = [Math.ceil(width / cellWidth), Math.ceil(height / cellRows)]
  const planes = info.planar ? channels : 1
  const place = (n: number): string => `${info.tile ? 'tile' : 'strip'} ${n + 1}`
  if (info.offsets.length < across * down * planes)
    throw unreadable(
      reader.name,
      null,
      `it has ${info.offsets.length} of ${across * down * planes} parts of its picture`
    )
  const claimed = info.compression === 1 ? Math.floor((width * height * channels * bits) / 8) : 0
  if (claimed > bytes.length)
    throw unreadable(
      reader.name,
      null,
      `${bytes.length} bytes cannot hold a picture of ${width}x${height}; the file was cut short`
    )
  const total = info.counts.reduce((sum, count) => sum + count, 0)
  if (total > bytes.length) throw unreadable(reader.name, null, 'the parts of its picture lie over each other')
  if ((width * height * bits) / 8 > total * 1100 + (1 << 20))
    throw unreadable(reader.name, null, `${total} bytes cannot hold a picture of ${width}x${height}`)
  const samples = allocateSamples(width, height, depth)
  const full = depth === 8 ? 255 : depth === 16 ? 65535 : 1
  if (!extra) for (let i = 3; i < samples.length; i += 4) samples[i] = full
  const base = photometric === 2 || photometric === LUMA ? 3 : 1
  for (let plane = 0; plane < planes; plane++) {
    for (let cell = 0; cell < across * down; cell++) {
      const n = plane * across * down + cell
      const [left, top] = [(cell % across) * cellWidth, Math.floor(cell / across) * cellRows]
      const rows = info.tile ? cellRows : Math.min(cellRows, height - top)
      const fail = (matter: string): Error => unreadable(reader.name, place(n), matter)
      const [offset, count] = [info.offsets[n]!, info.counts[n]!]
      if (offset + count > bytes.length) throw fail('it lies beyond the end of the file')
      const packed = bytes.subarray(offset, offset + count)
      const own: Cell = { width: cellWidth, rows, perPlane, fail }
      const sizeOf = (lines: number): number => lines * Math.ceil((cellWidth * perPlane * bits) / 8)
      const taken = (size: number): Promise<Uint8Array> => unpack(host, packed, size, info.compression, fail)
      // some writers fill the last strip up to the height of the others
      const jpeg = info.jpegTables && (await unpackJpeg(host, reader.name, packed, info, own))
      const raw =
        jpeg ??
        (await taken(sizeOf(rows)).catch((error: unknown) => {
          if (info.tile || rows >= info.filledRows || info.compression === 1) throw error
          return taken(sizeOf(info.filledRows))
        }))
      const numbers = jpeg ?? toNumbers(raw, info, { width: cellWidth, rows, channels: perPlane }, bytes[0] === 0x49)
      for (let y = 0; y < rows && top + y < height; y++) {
        for (let x = 0; x < cellWidth && left + x < width; x++) {
          const to = 4 * ((top + y) * width + left + x)
          const from = (y * cellWidth + x) * perPlane
          for (let c = info.planar ? plane : 0; c < (info.planar ? plane + 1 : channels); c++) {
            const value = numbers[from + (info.planar ? 0 : c)]!
            if (c === extra?.channel) samples[to + 3] = value
            else if (c >= base) continue
            else if (base === 3) samples[to + c] = value
            else if (photometric === 3)
              for (let k = 0; k < 3; k++) samples[to + k] = info.palette![k * 256 + value]! >> 8
            else samples[to] = samples[to + 1] = samples[to + 2] = photometric === 0 ? full - value : value
          }
        }
      }
    }
  }
  const alpha = extra ? STRAIGHT : OPAQUE
  return oriented({ width, height, depth, samples, alpha, transfer: 'srgb' }, info.orientation)
}
