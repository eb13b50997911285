/**
 * The outermost structure of Matroska and WebM (RFC 8794, RFC 9559), walked before a file is handed to the container library: where an
 * element's head is broken the library looks for the next one, and may look for ever.
 */
import { unreadable } from '../../errors'
import type { ByteReader } from '../../files/file'

const EBML = 0x1a45dfa3
const SEGMENT = 0x18538067
const CLUSTER = 0x1f43b675
/** What stands directly in a segment: seek head, info, tracks, cues, tags, attachments, chapters; void and checksum. */
const WITHIN = new Set([
  0x114d9b74,
  0x1549a966,
  CLUSTER,
  0x1654ae6b,
  0x1c53bb6b,
  0x1254c367,
  0x1941a469,
  0x1043a770,
  0xec,
  0xbf
])
const MOST_ELEMENTS = 1_000_000

/** True for an EBML file (RFC 8794); which codec it holds is asked of the container. */
export const looksLikeEbml = (head: Uint8Array): boolean =>
  head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3

interface Head {
  id: number
  /** Null where the length is left open. */
  size: number | null
  data: number
}

async function headAt(reader: ByteReader, at: number): Promise<Head> {
  const bytes = await reader.read(at, 12)
  const fail = (): Error =>
    unreadable(reader.name, `byte ${at}`, 'an element is broken; the film was cut short or is damaged')
  const idLength = Math.clz32(bytes[0] ?? 0) - 23
  if (idLength > 4 || bytes.length < idLength + 1) throw fail()
  const id = bytes.subarray(0, idLength).reduce((value, byte) => value * 256 + byte, 0)
  const first = bytes[idLength]!
  const sizeLength = Math.clz32(first) - 23
  if (sizeLength > 8 || bytes.length < idLength + sizeLength) throw fail()
  const rest = bytes.subarray(idLength + 1, idLength + sizeLength)
  const mask = 2 ** (8 - sizeLength) - 1
  const open = (first & mask) === mask && rest.every(byte => byte === 255)
  const size = rest.reduce((value, byte) => value * 256 + byte, first & mask)
  return { id, size: open ? null : size, data: at + idLength + sizeLength }
}

/** Rejects with an error that names the place when the outermost elements do not follow each other to the end of the file. */
export async function checkMatroska(reader: ByteReader): Promise<void> {
  const head = await headAt(reader, 0)
  if (head.id !== EBML || head.size === null)
    throw unreadable(reader.name, 'byte 0', 'this is not a Matroska or WebM file')
  const segment = await headAt(reader, head.data + head.size)
  if (segment.id !== SEGMENT) throw unreadable(reader.name, `byte ${head.data + head.size}`, 'the segment is missing')
  const end = segment.size === null ? reader.size : segment.data + segment.size
  if (end > reader.size)
    throw unreadable(reader.name, null, `it says ${end} bytes and has ${reader.size}; it was cut short`)
  for (let at = segment.data, count = 0; at < end; count++) {
    const element = await headAt(reader, at)
    if (!WITHIN.has(element.id) || count > MOST_ELEMENTS)
      throw unreadable(reader.name, `byte ${at}`, 'an element stands where none is known; the film is damaged')
    // a cluster of open length ends where the next begins, which only its content tells
    if (element.size === null) return
    if (element.data + element.size > end)
      throw unreadable(reader.name, `byte ${at}`, 'an element runs beyond the file')
    at = element.data + element.size
  }
}
