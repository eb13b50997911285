/** PNG's outer form: signature and chunks (ISO/IEC 15948, clause 5). */
import { unreadable } from '../../../base/errors'
import { crc32 } from '../../../base/crc32'
import type { ByteReader } from '../../../base/files/file'

export const SIGNATURE = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])

export interface ChunkPlace {
  type: string
  /** Where the chunk's data begins in the file. */
  offset: number
  length: number
}

/** Whether a file of these first bytes is a PNG. */
export function looksLikePng(head: Uint8Array): boolean {
  return head.length >= 8 && SIGNATURE.every((byte, i) => head[i] === byte)
}

/** A whole number of 32 bits, the highest byte first. */
export function readU32(bytes: Uint8Array, at: number): number {
  return ((bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!) >>> 0
}

/** Writes a whole number of 32 bits, the highest byte first. */
export function writeU32(bytes: Uint8Array, at: number, value: number): void {
  bytes[at] = value >>> 24
  bytes[at + 1] = value >>> 16
  bytes[at + 2] = value >>> 8
  bytes[at + 3] = value
}

/** A whole number of 16 bits, the highest byte first. */
export function readU16(bytes: Uint8Array, at: number): number {
  return (bytes[at]! << 8) | bytes[at + 1]!
}

/** One whole chunk: length, type, data, checksum. */
export function chunk(type: string, ...parts: Uint8Array[]): Uint8Array {
  const length = parts.reduce((sum, part) => sum + part.length, 0)
  const bytes = new Uint8Array(length + 12)
  writeU32(bytes, 0, length)
  for (let i = 0; i < 4; i++) bytes[4 + i] = type.charCodeAt(i)
  let at = 8
  for (const part of parts) {
    bytes.set(part, at)
    at += part.length
  }
  writeU32(bytes, at, crc32(bytes.subarray(4, at)))
  return bytes
}

/** Reads no more of a file than this at once while it walks the chunk headers. */
const WINDOW = 1 << 16

/** Beyond so many chunks a file has at least so many bytes for each: a frame of an animation takes more. */
const SURE_CHUNKS = 4096
const LEAST_CHUNK = 24

/**
 * Lists every chunk up to IEND without reading their data. Checks signature, types and lengths against the file;
 * checksums are checked when data is read.
 */
export async function listChunks(reader: ByteReader): Promise<ChunkPlace[]> {
  if (!looksLikePng(await reader.read(0, 8)))
    throw unreadable(reader.name, 'byte 0', 'this is not a PNG file: its first eight bytes are wrong')
  const chunks: ChunkPlace[] = []
  let window: Uint8Array = new Uint8Array(0)
  let windowAt = 0
  let at = 8
  for (;;) {
    if (at + 12 > reader.size)
      throw unreadable(reader.name, `byte ${at}`, 'the file ends before its IEND chunk; it was cut short')
    if (at < windowAt || at + 8 > windowAt + window.length) {
      window = await reader.read(at, WINDOW)
      windowAt = at
    }
    const length = readU32(window, at - windowAt)
    const type = String.fromCharCode(...window.subarray(at - windowAt + 4, at - windowAt + 8))
    if (!/^[A-Za-z]{4}$/.test(type))
      throw unreadable(reader.name, `byte ${at + 4}`, 'a chunk has no valid type; the file is damaged here')
    if (at + 12 + length > reader.size)
      throw unreadable(
        reader.name,
        `chunk ${type} at byte ${at}`,
        'the chunk runs past the end of the file; it was cut short or is damaged'
      )
    chunks.push({ type, offset: at + 8, length })
    if (chunks.length > SURE_CHUNKS && reader.size < chunks.length * LEAST_CHUNK)
      throw unreadable(reader.name, `byte ${at}`, 'it is made of more chunks than any picture needs')
    if (type === 'IEND') return chunks
    at += 12 + length
  }
}

/** A chunk's data, its checksum checked. */
export async function readChunk(
  reader: ByteReader,
  place: ChunkPlace,
  sum: (bytes: Uint8Array) => number = crc32
): Promise<Uint8Array> {
  const bytes = await reader.read(place.offset - 4, place.length + 8)
  const data = bytes.subarray(4, 4 + place.length)
  if (
    bytes.length < place.length + 8 ||
    sum(bytes.subarray(0, 4 + place.length)) !== readU32(bytes, 4 + place.length)
  ) {
    throw unreadable(
      reader.name,
      `chunk ${place.type} at byte ${place.offset - 8}`,
      'its checksum is wrong; the file is damaged'
    )
  }
  return data
}
