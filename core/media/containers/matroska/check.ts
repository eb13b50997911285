/**
 * The outermost structure of Matroska and WebM (RFC 8794, RFC 9559), walked before a file is handed to the container
 * library: where an element's head is broken the library looks for the next one, and may look for ever.
 */
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'
import { elementAt } from './ebml'
import { ID } from './ids'

/** What stands directly in a segment: seek head, info, tracks, cues, tags, attachments, chapters; void and checksum. */
const WITHIN = new Set([
  0x114d9b74,
  0x1549a966,
  ID.cluster,
  0x1654ae6b,
  0x1c53bb6b,
  0x1254c367,
  0x1941a469,
  0x1043a770,
  0xec,
  0xbf
])
const MOST_ELEMENTS = 1_000_000

/**
 * Rejects with an error that names the place when the outermost elements do not follow each other to the end of the
 * file.
 */
export async function checkMatroska(reader: ByteReader): Promise<void> {
  const head = await elementAt(reader, 0)
  if (head.id !== ID.ebml || head.length === null)
    throw unreadable(reader.name, 'byte 0', 'this is not a Matroska or WebM file')
  const segment = await elementAt(reader, head.offset + head.length)
  if (segment.id !== ID.segment)
    throw unreadable(reader.name, `byte ${head.offset + head.length}`, 'the segment is missing')
  const end = segment.length === null ? reader.size : segment.offset + segment.length
  if (end > reader.size)
    throw unreadable(reader.name, null, `it says ${end} bytes and has ${reader.size}; it was cut short`)
  for (let at = segment.offset, count = 0; at < end; count++) {
    const element = await elementAt(reader, at)
    if (!WITHIN.has(element.id) || count > MOST_ELEMENTS)
      throw unreadable(reader.name, `byte ${at}`, 'an element stands where none is known; the film is damaged')
    // a cluster of open length ends where the next begins, which only its content tells
    if (element.length === null) return
    if (element.offset + element.length > end)
      throw unreadable(reader.name, `byte ${at}`, 'an element runs beyond the file')
    at = element.offset + element.length
  }
}
