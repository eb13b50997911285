/**
 * Reading ZIP archives (APPNOTE 6.3, with ZIP64): the central directory becomes a list of files that are opened one by
 * one, so that an archive is never unpacked whole.
 */
import { type PourError, unreadable } from '../errors'
import { crc32 } from '../crc32'
import { memoryReader, type ByteReader, type FileRef } from './file'

/** zlib streams (RFC 1950) and raw deflate (RFC 1951). */
export interface Deflate {
  /**
   * Inflates into exactly `size` bytes. Rejects with a plain Error when the stream is damaged, or holds more or fewer;
   * it never takes more memory than `size` and a fixed window.
   */
  inflate(bytes: Uint8Array, size: number, form: 'zlib' | 'raw'): Promise<Uint8Array>
}

const END = 0x06054b50
const END64 = 0x06064b50
const LOCATOR64 = 0x07064b50
const CENTRAL = 0x02014b50
const LOCAL = 0x04034b50

/** No entry may unpack to more than this. */
const MAX_ENTRY = 2 ** 31
const MAX_ENTRIES = 200_000

/** Whether a file of these first bytes is a ZIP archive: it begins with a local file header, or is an empty one. */
export function looksLikeZip(head: Uint8Array): boolean {
  return (
    head.length >= 4 &&
    head[0] === 0x50 &&
    head[1] === 0x4b &&
    ((head[2] === 3 && head[3] === 4) || (head[2] === 5 && head[3] === 6))
  )
}

interface Directory {
  offset: number
  size: number
  entries: number
}

function view(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
}

async function findDirectory(reader: ByteReader): Promise<Directory> {
  // the end record is 22 bytes and may be followed by a comment of up to 65535
  const tailSize = Math.min(reader.size, 22 + 65535)
  const tail = view(await reader.read(reader.size - tailSize, tailSize))
  for (let at = tail.byteLength - 22; at >= 0; at--) {
    if (tail.getUint32(at, true) !== END) continue
    const entries = tail.getUint16(at + 10, true)
    const size = tail.getUint32(at + 12, true)
    const offset = tail.getUint32(at + 16, true)
    if (entries !== 0xffff && size !== 0xffffffff && offset !== 0xffffffff) return { entries, size, offset }
    if (at < 20 || tail.getUint32(at - 20, true) !== LOCATOR64) return { entries, size, offset }
    const end64 = view(await reader.read(Number(tail.getBigUint64(at - 12, true)), 56))
    if (end64.byteLength < 56 || end64.getUint32(0, true) !== END64)
      throw unreadable(reader.name, 'end of archive', 'the ZIP64 end record is missing')
    return {
      entries: Number(end64.getBigUint64(32, true)),
      size: Number(end64.getBigUint64(40, true)),
      offset: Number(end64.getBigUint64(48, true))
    }
  }
  throw unreadable(reader.name, 'end of archive', 'the list of files is missing; the archive was cut short')
}

/** Sizes and offset over 32 bits stand in extra field 1, in this order, each only where its 32-bit field is full. */
function zip64Values(extra: DataView, wanted: number[]): number[] {
  const values = [...wanted]
  for (let at = 0; at + 4 <= extra.byteLength;) {
    const id = extra.getUint16(at, true)
    const length = extra.getUint16(at + 2, true)
    if (id === 1) {
      let from = at + 4
      const end = Math.min(at + 4 + length, extra.byteLength)
      for (let i = 0; i < values.length; i++) {
        if (values[i] !== 0xffffffff || from + 8 > end) continue
        values[i] = Number(extra.getBigUint64(from, true))
        from += 8
      }
    }
    at += 4 + length
  }
  return values
}

/**
 * The archive's files (folders left out), each a reference into it. Throws one clear error when the directory is
 * damaged.
 */
export async function listZip(archive: FileRef, reader: ByteReader): Promise<FileRef[]> {
  const directory = await findDirectory(reader)
  if (directory.offset + directory.size > reader.size)
    throw unreadable(reader.name, 'end of archive', 'the list of files points beyond the end of the archive')
  if (directory.entries > MAX_ENTRIES || directory.entries * 46 > directory.size)
    throw unreadable(
      reader.name,
      'end of archive',
      `the archive claims ${directory.entries} files, more than its list can hold`
    )
  const bytes = await reader.read(directory.offset, directory.size)
  const list = view(bytes)
  const files: FileRef[] = []
  let at = 0
  for (let n = 0; n < directory.entries; n++) {
    const place = `entry ${n + 1}`
    if (at + 46 > list.byteLength || list.getUint32(at, true) !== CENTRAL)
      throw unreadable(reader.name, place, 'the list of files is damaged')
    const flags = list.getUint16(at + 8, true)
    const method = list.getUint16(at + 10, true)
    const crc = list.getUint32(at + 16, true)
    const nameLength = list.getUint16(at + 28, true)
    const extraLength = list.getUint16(at + 30, true)
    const next = at + 46 + nameLength + extraLength + list.getUint16(at + 32, true)
    if (next > list.byteLength) throw unreadable(reader.name, place, 'the list of files is cut short')
    const path = new TextDecoder().decode(bytes.subarray(at + 46, at + 46 + nameLength)).replaceAll('\\', '/')
    const [size, packedSize, offset] = zip64Values(
      view(bytes.subarray(at + 46 + nameLength, at + 46 + nameLength + extraLength)),
      [list.getUint32(at + 24, true), list.getUint32(at + 20, true), list.getUint32(at + 42, true)]
    ) as [number, number, number]
    at = next
    if (path.endsWith('/') || path.startsWith('__MACOSX/')) continue
    if (flags & 1) throw unreadable(reader.name, path, 'the file is encrypted')
    if (method !== 0 && method !== 8)
      throw unreadable(reader.name, path, `packed by method ${method}; only stored and deflated files are read`)
    if (size > MAX_ENTRY || packedSize > reader.size || offset > reader.size)
      throw unreadable(reader.name, path, 'its size or place lies beyond the archive')
    files.push({
      kind: 'zipped',
      path,
      size,
      archive,
      offset,
      packedSize,
      method: method === 0 ? 'stored' : 'deflated',
      crc
    })
  }
  assertApart(files, reader)
  return files
}

const placeOf = (file: FileRef): number => (file.kind === 'zipped' ? file.offset : 0)

/** Entries that lie over each other claim the same bytes many times, and nothing honest packs so. */
function assertApart(files: readonly FileRef[], reader: ByteReader): void {
  let end = 0
  for (const file of [...files].sort((a, b) => placeOf(a) - placeOf(b))) {
    if (file.kind !== 'zipped') continue
    if (file.offset < end)
      throw unreadable(reader.name, file.path, 'its bytes are those of another file in the archive')
    end = file.offset + 30 + file.packedSize
  }
}

/** A packed file is unpacked into memory, so no more than this. */
const MOST_INFLATED = 2 ** 28

/** Opens one file of an archive: unpacks it into memory and checks its length and checksum. */
export async function openZipped(
  file: Extract<FileRef, { kind: 'zipped' }>,
  archive: ByteReader,
  deflate: Deflate
): Promise<ByteReader> {
  const fail = (matter: string): PourError => unreadable(archive.name, file.path, matter)
  const header = await archive.read(file.offset, 30)
  if (header.length < 30 || view(header).getUint32(0, true) !== LOCAL)
    throw fail('its header is not where the list says')
  const start = file.offset + 30 + view(header).getUint16(26, true) + view(header).getUint16(28, true)
  const packed = await archive.read(start, file.packedSize)
  if (packed.length < file.packedSize) throw fail('it is cut short')
  let bytes = packed
  if (file.method === 'stored') {
    if (file.size !== file.packedSize) throw fail('its two sizes disagree')
  } else {
    // deflate cannot expand by more than 1032; a larger claim is a lie, told before memory is taken
    if (file.size > file.packedSize * 1032 + 64) throw fail('it claims to unpack to more than its bytes can hold')
    if (file.size > MOST_INFLATED)
      throw fail(
        `it unpacks to ${Math.ceil(file.size / 2 ** 20)} MiB; unpack the archive first, and bring in what it holds`
      )
    try {
      bytes = await deflate.inflate(packed, file.size, 'raw')
    } catch {
      throw fail('its packed bytes are damaged')
    }
  }
  if (crc32(bytes) !== file.crc) throw fail('its checksum is wrong')
  return memoryReader(file.path, bytes)
}
