/**
 * The packets of texture films: sections within sections. A section is its length, its type and its content:
 *
 * 0 u24 length, low byte first; 3 u8 type; then the content. Where the length is 0, 4 u32 length, and the content at 8
 *
 * The type of a texture is how it is packed (upper four bits: 0xA not at all, 0xB by Snappy, 0xC in parts that are told
 * of first) and what its blocks hold (lower four). Type 0x0D holds several textures of one frame. In parts, the first
 * section is 0x01, which holds 0x02 (a byte a part: 0x0A not packed, 0x0B by Snappy), 0x03 (a u32 a part: its length)
 * and, where parts do not lie one behind the other, 0x04 (a u32 a part: its place); then come the parts.
 */
import { compress, uncompress } from 'snappyjs'
import { damagedBy, unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'

/** Parts of one texture at most: more would only be asked for to cost. */
const MOST_PARTS = 1024

/** Textures of one frame at most. */
const MOST_TEXTURES = 4

export interface Section {
  type: number
  content: Uint8Array
}

export interface TexturePart {
  /** What its blocks hold, by the format's own number. */
  holds: number
  blocks: Uint8Array
}

/** Where a packet lies, for errors. */
export interface PacketPlace {
  file: string
  place: string
}

const fail = ({ file, place }: PacketPlace, matter: string): Error => unreadable(file, place, matter)

/** The section at a place, and where it ends. Throws where it reaches beyond the bytes. */
function sectionAt(bytes: Uint8Array, at: number, where: PacketPlace): Section & { end: number } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (at + 4 > bytes.length) throw fail(where, `${bytes.length - at} bytes are no section`)
  const short = view.getUint32(at, true) & 0xffffff
  if (short === 0 && at + 8 > bytes.length) throw fail(where, 'the head of a section is cut short')
  const length = short || view.getUint32(at + 4, true)
  const from = at + (short ? 4 : 8)
  const end = from + length
  if (end > bytes.length)
    throw fail(where, `a section of ${length} bytes has ${bytes.length - from}; the film was cut short`)
  return { type: bytes[at + 3]!, content: bytes.subarray(from, end), end }
}

/** The sections that fill `bytes`, one behind the other. */
function sectionsIn(bytes: Uint8Array, where: PacketPlace): Section[] {
  const found: Section[] = []
  for (let at = 0; at < bytes.length;) {
    const section = sectionAt(bytes, at, where)
    found.push(section)
    at = section.end
  }
  return found
}

/** Bytes packed by Snappy, which must be exactly so many; sizes are checked before memory is taken. */
function unpacked(packed: Uint8Array, size: number, where: PacketPlace): Uint8Array {
  try {
    const bytes = uncompress(packed, size)
    if (bytes.length === size) return bytes
    throw fail(where, `a part unpacks to ${bytes.length} bytes instead of ${size}`)
  } catch (error) {
    throw damagedBy(error, why => unreadable(where.file, where.place, why))
  }
}

/** How many bytes a part packed by Snappy says that it comes to: 7 bits a byte, the lowest first. */
function sizeSaid(packed: Uint8Array, where: PacketPlace): number {
  let size = 0
  for (let n = 0; n < 5; n++) {
    const byte = packed[n]
    if (byte === undefined) break
    size += (byte & 127) * 2 ** (7 * n)
    if (byte < 128) return size
  }
  throw fail(where, 'a part does not say how large it is')
}

interface Part {
  from: number
  length: number
  packed: boolean
}

function partsOf(told: Uint8Array, data: Uint8Array, where: PacketPlace): Part[] {
  const tables = new Map(sectionsIn(told, where).map(({ type, content }) => [type, content]))
  const [ways, lengths, places] = [tables.get(2), tables.get(3), tables.get(4)]
  if (!ways || !lengths || lengths.length !== 4 * ways.length || (places && places.length !== lengths.length))
    throw fail(where, 'the tables of its parts do not belong together')
  if (ways.length === 0 || ways.length > MOST_PARTS) throw fail(where, `a texture of ${ways.length} parts cannot be`)
  const word = (table: Uint8Array, n: number): number =>
    new DataView(table.buffer, table.byteOffset + 4 * n, 4).getUint32(0, true)
  let next = 0
  return [...ways].map((way, n) => {
    if (way !== 0x0a && way !== 0x0b) throw fail(where, `part ${n + 1} is packed in way ${way}, which is not read`)
    const [from, length] = [places ? word(places, n) : next, word(lengths, n)]
    next = from + length
    if (next > data.length) throw fail(where, `part ${n + 1} reaches beyond the packet; the film was cut short`)
    return { from, length, packed: way === 0x0b }
  })
}

/** The blocks of a texture's section, which must come to `size` bytes. */
function blocksOf({ type, content }: Section, size: number, where: PacketPlace): Uint8Array {
  const way = type >> 4
  if (way === 0xb) return unpacked(content, size, where)
  if (way === 0xa) {
    if (content.length !== size) throw fail(where, `its texture has ${content.length} bytes instead of ${size}`)
    return content
  }
  if (way !== 0xc) throw fail(where, `its texture is packed in way ${way}, which is not read`)
  const first = sectionAt(content, 0, where)
  if (first.type !== 1) throw fail(where, 'it does not say how its parts lie')
  const data = content.subarray(first.end)
  const parts = partsOf(first.content, data, where)
  const pieces = parts.map(({ from, length, packed }) => ({ bytes: data.subarray(from, from + length), packed }))
  const sizes = pieces.map(({ bytes, packed }) => (packed ? sizeSaid(bytes, where) : bytes.length))
  const whole = sizes.reduce((sum, each) => sum + each, 0)
  if (whole !== size) throw fail(where, `its parts come to ${whole} bytes instead of ${size}`)
  return concatenate(pieces.map(({ bytes, packed }, n) => (packed ? unpacked(bytes, sizes[n]!, where) : bytes)))
}

/** What the textures of a packet hold, without unpacking them. */
export function texturesIn(packet: Uint8Array, where: PacketPlace): Section[] {
  const first = sectionAt(packet, 0, where)
  const several = first.type === 0x0d ? sectionsIn(first.content, where) : [first]
  if (several.length === 0 || several.length > MOST_TEXTURES)
    throw fail(where, `a frame of ${several.length} textures cannot be`)
  return several
}

/** The textures of a packet; `sizeOf` gives the bytes that one holding such blocks must have, or throws. */
export const readTextures = (
  packet: Uint8Array,
  sizeOf: (holds: number) => number,
  where: PacketPlace
): TexturePart[] =>
  texturesIn(packet, where).map(section => {
    const holds = section.type & 15
    return { holds, blocks: blocksOf(section, sizeOf(holds), where) }
  })

/** A section with its head. */
function section(type: number, ...content: Uint8Array[]): Uint8Array {
  const length = content.reduce((sum, each) => sum + each.length, 0)
  const long = length > 0xffffff || length === 0
  const head = new Uint8Array(long ? 8 : 4)
  const view = new DataView(head.buffer)
  view.setUint32(0, long ? 0 : length, true)
  head[3] = type
  if (long) view.setUint32(4, length, true)
  return concatenate([head, ...content])
}

/**
 * The section of a texture, cut into so many parts of whole blocks that threads unpack side by side; a part that
 * packing does not make smaller is left as it is.
 */
function textureSection({ holds, blocks }: TexturePart, parts: number, block: number): Uint8Array {
  const whole = blocks.length / block
  const count = Math.max(1, Math.min(parts, whole))
  const pieces = Array.from({ length: count }, (_, n) =>
    blocks.subarray(block * Math.floor((n * whole) / count), block * Math.floor(((n + 1) * whole) / count))
  ).map(bytes => {
    const packed = compress(bytes)
    return packed.length < bytes.length ? { bytes: packed, way: 0x0b } : { bytes, way: 0x0a }
  })
  const [only] = pieces
  if (count === 1) return section((only!.way << 4) | holds, only!.bytes)
  const lengths = new Uint8Array(4 * count)
  const view = new DataView(lengths.buffer)
  pieces.forEach(({ bytes }, n) => view.setUint32(4 * n, bytes.length, true))
  const ways = Uint8Array.from(pieces, ({ way }) => way)
  const told = section(1, section(2, ways), section(3, lengths))
  return section(0xc0 | holds, told, ...pieces.map(({ bytes }) => bytes))
}

/** A packet of one frame's textures; `blockOf` gives the bytes of a block that holds so. */
export function writeTextures(
  textures: readonly TexturePart[],
  parts: number,
  blockOf: (holds: number) => number
): Uint8Array {
  const sections = textures.map(texture => textureSection(texture, parts, blockOf(texture.holds)))
  return sections.length === 1 ? sections[0]! : section(0x0d, ...sections)
}
