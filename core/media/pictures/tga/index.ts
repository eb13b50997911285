/**
 * TGA files, one a frame ("TGA File Format Specification", version 2.0): 24 or 32 bits, as they are or run-length
 * coded. Read as well: grey, palettes, and colours of 15 and 16 bits.
 *
 * header 18 bytes: u8 id length, u8 palette, u8 type (1 palette, 2 RGB, 3 grey; 8 more in runs), 5 bytes of palette,
 * u16 x, u16 y, u16 width,
 *        u16 height, u8 bits, u8 descriptor (alpha bits, 0x20 rows from the top)
 * then pixels B G R A; then the extension area of 495 bytes, and the footer: u32 its place, u32 0, "TRUEVISION-XFILE.",
 * 0
 */
import { PourError, unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { MOST_OF_SHAPE, nearestRate } from '../../../base/rate'
import { allocateSamples, MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { AlphaClaim } from '../../../source/source'
import type { Deliverable } from '../../formats/deliverable'
import { picturesOf, type PictureAbout } from '../sequence/pictures'

const SIGNATURE = 'TRUEVISION-XFILE.\0'
const EXTENSION = 495

interface TgaInfo {
  width: number
  height: number
  /** Bits of a stored pixel, and of the colour it stands for. */
  bits: 8 | 15 | 16 | 24 | 32
  colourBits: 8 | 15 | 16 | 24 | 32
  runs: boolean
  grey: boolean
  /** Colours that pixels name by number: where they lie, the number of the first, and how many there are. */
  palette: { at: number; first: number; count: number } | null
  alphaBits: number
  fromTop: boolean
  fromRight: boolean
  pixelsAt: number
  /** Attribute type of the extension area; null without one. */
  attribute: number | null
}

/** Kinds of pictures, and bits of a colour. */
const KINDS = new Set([1, 2, 3, 9, 10, 11])
const COLOURS = new Set([15, 16, 24, 32])

/** Bytes of a stored pixel. */
const bytesOf = ({ bits }: Pick<TgaInfo, 'bits'>): number => (bits + 7) >> 3

function readInfo(bytes: Uint8Array, file: string): TgaInfo {
  const c = new Cursor(bytes, file, true)
  const type = c.u8(2)
  const bits = c.u8(16)
  const descriptor = c.u8(17)
  const [width, height] = [c.u16(12), c.u16(14)]
  const grey = type === 3 || type === 11
  const mapped = type === 1 || type === 9
  const colourBits = mapped ? c.u8(7) : bits
  const known = grey ? bits === 8 || bits === 16 : COLOURS.has(colourBits) && (!mapped || bits === 8)
  if (!KINDS.has(type) || !known || (mapped && c.u8(1) !== 1))
    throw unreadable(
      file,
      'the header',
      `pictures of kind ${type} with ${bits} bits are not read; grey, palettes, and 15, 16, 24 and 32 bits are`
    )
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw unreadable(file, 'the header', `a picture of ${width}x${height} cannot be taken`)
  let attribute: number | null = null
  if (bytes.length >= 26 && c.text(bytes.length - 18, 18) === SIGNATURE.slice(0, 17)) {
    const extension = c.u32(bytes.length - 26)
    if (extension > 0 && extension + EXTENSION <= bytes.length) attribute = c.u8(extension + 494)
  }
  const paletteBytes = c.u8(1) ? c.u16(5) * ((c.u8(7) + 7) >> 3) : 0
  const paletteAt = 18 + c.u8(0)
  return {
    width,
    height,
    bits: bits as TgaInfo['bits'],
    colourBits: colourBits as TgaInfo['bits'],
    runs: type > 8,
    grey,
    palette: mapped ? { at: paletteAt, first: c.u16(3), count: c.u16(5) } : null,
    alphaBits: descriptor & 15,
    fromTop: (descriptor & 0x20) !== 0,
    fromRight: (descriptor & 0x10) !== 0,
    pixelsAt: paletteAt + paletteBytes,
    attribute
  }
}

/**
 * What the extension area tells, found from the file's end: the attribute type, and the shape of pixels. Nothing where
 * there is none.
 */
async function extensionOf(reader: ByteReader): Promise<{ attribute: number | null; pixelAspect: [number, number] }> {
  const nothing = { attribute: null, pixelAspect: [1, 1] as [number, number] }
  const tail = await reader.read(Math.max(0, reader.size - 26), 26)
  const c = new Cursor(tail, reader.name, true)
  if (tail.length < 26 || c.text(8, 18) !== SIGNATURE.slice(0, 17)) return nothing
  const extension = c.u32(0)
  if (extension === 0 || extension + EXTENSION > reader.size) return nothing
  const area = new Cursor(await reader.read(extension, EXTENSION), reader.name, true)
  return {
    attribute: area.u8(494),
    // 0 over anything says nothing
    pixelAspect: nearestRate([area.u16(474), area.u16(476)], MOST_OF_SHAPE) ?? [1, 1]
  }
}

function claimOf({ colourBits, grey, attribute, alphaBits }: TgaInfo): AlphaClaim {
  // of 16 bits one is left for alpha, and is alpha where the header counts it
  const can = colourBits === 32 || (colourBits === 16 && (grey || alphaBits > 0))
  if (!can) return { mode: 'none', matte: null, says: `${colourBits} bits a colour` }
  if (attribute === 4) return { mode: 'premultiplied', matte: '#000000', says: 'attribute type 4, premultiplied' }
  if (attribute === 3) return { mode: 'straight', matte: null, says: 'attribute type 3, useful alpha' }
  if (attribute === 0 || attribute === 1)
    return { mode: 'none', matte: null, says: `attribute type ${attribute}, no alpha` }
  return { mode: 'unknown', matte: null, says: `${alphaBits} attribute bits, which do not say how alpha is meant` }
}

function looksLikeTga(head: Uint8Array): boolean {
  if (head.length < 18 || head[1]! > 1 || !KINDS.has(head[2]!)) return false
  const grey = head[2] === 3 || head[2] === 11
  const mapped = head[2] === 1 || head[2] === 9
  const sized = (head[12]! | head[13]!) !== 0 && (head[14]! | head[15]!) !== 0
  // the two upper bits of the descriptor are unused, and alpha takes what the colours leave
  if (!sized || (head[17]! & 0xc0) !== 0) return false
  if (mapped) return head[1] === 1 && head[16] === 8 && COLOURS.has(head[7]!)
  return grey ? head[16] === 8 || head[16] === 16 : COLOURS.has(head[16]!)
}

/** Bytes that may stand behind the picture: the areas that its footer names. */
const MOST_BEHIND = 1 << 20
/** And before it: header, name and palette. */
const MOST_BEFORE = 1 << 19

/**
 * Whether the picture that the header promises is there, and hardly anything besides; or the signature is at its end.
 */
async function holdsTogether(reader: ByteReader, head: Uint8Array): Promise<boolean> {
  // what is called so is taken at its word: its reader says what is wrong with it
  if (/\.tga$/i.test(reader.name)) return true
  const tail = await reader.read(Math.max(0, reader.size - 18), 18)
  if (String.fromCharCode(...tail.subarray(0, 16)) === SIGNATURE.slice(0, 16)) return true
  // by its header alone, before anything large is read; packets add a byte to each pixel at most
  const pixels = (head[12]! | (head[13]! << 8)) * (head[14]! | (head[15]! << 8))
  if (reader.size > MOST_BEFORE + pixels * (head[16]! / 8 + 1) + MOST_BEHIND) return false
  const bytes = await readAll(reader)
  try {
    const info = readInfo(bytes, reader.name)
    const size = info.width * info.height * bytesOf(info)
    const end = info.runs ? runsEnd(bytes, info) : info.pixelsAt + size
    return end !== null && end <= bytes.length && bytes.length - end <= MOST_BEHIND
  } catch (error) {
    if (error instanceof PourError) return false
    throw error
  }
}

/** Where the runs of a picture end; null when they do not fill it. */
function runsEnd(bytes: Uint8Array, info: TgaInfo): number | null {
  const { width, height, pixelsAt } = info
  const each = bytesOf(info)
  let from = pixelsAt
  for (let left = width * height; left > 0;) {
    const head = bytes[from]
    if (head === undefined) return null
    const count = (head & 127) + 1
    from += 1 + (head & 128 ? each : count * each)
    left -= count
  }
  return from
}

/** Pixels of the file in its own order, runs undone. */
function unpack(bytes: Uint8Array, info: TgaInfo, file: string): Uint8Array {
  const each = bytesOf(info)
  const size = info.width * info.height * each
  if (!info.runs) {
    if (info.pixelsAt + size > bytes.length)
      throw unreadable(file, `byte ${bytes.length}`, 'the file ends within the picture; it was cut short')
    return bytes.subarray(info.pixelsAt, info.pixelsAt + size)
  }
  // a run of 128 pixels takes one byte and one pixel
  if (size > (bytes.length - info.pixelsAt) * 128)
    throw unreadable(file, null, `${bytes.length} bytes cannot hold a picture of ${info.width}x${info.height}`)
  const out = new Uint8Array(size)
  let from = info.pixelsAt
  for (let at = 0; at < size;) {
    const head = bytes[from++]
    const count = ((head ?? 0) & 127) + 1
    const taken = head === undefined ? Infinity : head & 128 ? each : count * each
    if (from + taken > bytes.length)
      throw unreadable(file, `byte ${from}`, 'the file ends within the picture; it was cut short')
    // a packet may not run beyond the picture, but some writers let it
    const end = Math.min(size, at + count * each)
    if (head! & 128) for (let i = at; i < end; i++) out[i] = bytes[from + ((i - at) % each)]!
    else out.set(bytes.subarray(from, from + end - at), at)
    from += taken
    at = end
  }
  return out
}

async function decode(_: unknown, reader: ByteReader): Promise<Frame> {
  const bytes = await readAll(reader)
  const info = readInfo(bytes, reader.name)
  const { width, height, grey, palette, fromTop, fromRight } = info
  const pixels = unpack(bytes, info, reader.name)
  const samples = allocateSamples(width, height, 8) as Uint8Array
  const each = bytesOf(info)
  const alpha = claimOf(info).mode !== 'none'
  const colour = palette ? paletteOf(bytes, info, reader.name) : null
  for (let y = 0; y < height; y++) {
    const row = (fromTop ? y : height - 1 - y) * width
    for (let x = 0; x < width; x++) {
      const from = (row + (fromRight ? width - 1 - x : x)) * each
      const to = 4 * (y * width + x)
      if (colour) samples.set(colour.subarray(4 * pixels[from]!, 4 * pixels[from]! + 4), to)
      else if (grey) samples.fill(pixels[from]!, to, to + 3)
      else putColour(pixels, from, info.colourBits, samples, to)
      if (grey) samples[to + 3] = alpha ? pixels[from + 1]! : 255
      else if (!alpha) samples[to + 3] = 255
    }
  }
  return { width, height, depth: 8, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}

/** A colour of the file as RGBA: B G R A, or five bits each of one word, the uppermost left for alpha. */
function putColour(bytes: Uint8Array, from: number, bits: number, out: Uint8Array, to: number): void {
  if (bits >= 24) {
    out[to] = bytes[from + 2]!
    out[to + 1] = bytes[from + 1]!
    out[to + 2] = bytes[from]!
    out[to + 3] = bits === 32 ? bytes[from + 3]! : 255
    return
  }
  const word = bytes[from]! | (bytes[from + 1]! << 8)
  for (let c = 0; c < 3; c++) out[to + c] = Math.round((((word >> (10 - 5 * c)) & 31) * 255) / 31)
  out[to + 3] = word & 0x8000 ? 255 : 0
}

/** Colours by every number a pixel may hold; those that the file leaves out are clear black. */
function paletteOf(bytes: Uint8Array, { palette, colourBits }: TgaInfo, file: string): Uint8Array {
  const { at, first, count } = palette!
  const each = (colourBits + 7) >> 3
  if (at + count * each > bytes.length)
    throw unreadable(file, `byte ${bytes.length}`, 'the file ends within its palette; it was cut short')
  const colours = new Uint8Array(4 * 256)
  for (let n = 0; n < count && first + n < 256; n++)
    putColour(bytes, at + n * each, colourBits, colours, 4 * (first + n))
  return colours
}

/** One row in packets: runs of like pixels, and stretches of unlike ones; none crosses into the next row. */
function packRow(row: Uint8Array, each: number, out: Uint8Array, at: number): number {
  const count = row.length / each
  const same = (i: number, j: number): boolean => {
    for (let b = 0; b < each; b++) if (row[i * each + b] !== row[j * each + b]) return false
    return true
  }
  for (let i = 0; i < count;) {
    let run = 1
    while (run < 128 && i + run < count && same(i, i + run)) run++
    if (run > 1) {
      out[at++] = 127 + run
      out.set(row.subarray(i * each, (i + 1) * each), at)
      at += each
    } else {
      while (run < 128 && i + run < count && !(i + run + 1 < count && same(i + run, i + run + 1))) run++
      out[at++] = run - 1
      out.set(row.subarray(i * each, (i + run) * each), at)
      at += run * each
    }
    i += run
  }
  return at
}

function encode(_: unknown, frame: Frame, { options, pixelAspect }: Deliverable): Uint8Array {
  const { width, height, samples, alpha } = frame
  const each = alpha.mode === 'none' ? 3 : 4
  const runs = options.runs !== false
  const out = new Uint8Array(18 + height * (width * each + Math.ceil(width / 128) + 1) + EXTENSION + 26)
  const view = new DataView(out.buffer)
  out[2] = runs ? 10 : 2
  view.setUint16(12, width, true)
  view.setUint16(14, height, true)
  out[16] = each * 8
  out[17] = 0x20 | (each === 4 ? 8 : 0)
  let at = 18
  const row = new Uint8Array(width * each)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const from = 4 * (y * width + x)
      row[x * each] = samples[from + 2]!
      row[x * each + 1] = samples[from + 1]!
      row[x * each + 2] = samples[from]!
      if (each === 4) row[x * each + 3] = samples[from + 3]!
    }
    if (runs) at = packRow(row, each, out, at)
    else {
      out.set(row, at)
      at += row.length
    }
  }
  const extension = at
  view.setUint16(at, EXTENSION, true)
  if (pixelAspect[0] !== pixelAspect[1]) {
    view.setUint16(at + 474, pixelAspect[0], true)
    view.setUint16(at + 476, pixelAspect[1], true)
  }
  out[at + 494] = each === 3 ? 0 : alpha.mode === 'premultiplied' ? 4 : 3
  at += EXTENSION
  view.setUint32(at, extension, true)
  for (let i = 0; i < SIGNATURE.length; i++) out[at + 8 + i] = SIGNATURE.charCodeAt(i)
  return out.slice(0, at + 26)
}

export const tgaSequence = picturesOf(
  {
    extension: 'tga',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'attribute type 3 in the extension area' },
      premultiplied: {
        can: true,
        declares: 'attribute type 4 in the extension area, which many programs do not read',
        matte: '#000000'
      },
      none: { can: true, declares: '24 bits a pixel' }
    },
    declaredMattes: ['#000000'],
    limits: { width: 65535, height: 65535, rate: 'carries no rate; the name and the note do' },
    options: {
      runs: {
        label: 'Run-length coding',
        help: 'Exact, and smaller where the picture is flat.',
        type: 'switch',
        default: true
      }
    },
    proofReader: { name: "Pour's own TGA reader, tested on files of other writers", independent: false }
  },
  {
    // the format has no signature at its beginning; it is asked last, and only files that hold together are taken
    recognises: async (head, reader) => looksLikeTga(head) && holdsTogether(reader, head),
    async about(reader): Promise<PictureAbout> {
      const head = readInfo(await reader.read(0, 18), reader.name)
      const { attribute, pixelAspect } = await extensionOf(reader)
      const info = { ...head, attribute }
      return {
        kind: `TGA, ${info.bits} bit`,
        width: info.width,
        height: info.height,
        bitDepth: 8,
        claim: claimOf(info),
        colour: null,
        pixelAspect
      }
    },
    decode,
    encode
  }
)
