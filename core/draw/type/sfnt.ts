/** Font files as the shaper takes them: tables one behind the other, unpacked (ISO/IEC 14496-22; WOFF 1.0, 2.0). */
import { unzlibSync } from 'fflate'
import type { Shaper } from '../../frame/host'

const MOST = { tables: 200, table: 16 << 20, whole: 48 << 20 }

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
const begins = (bytes: Uint8Array): string => String.fromCharCode(...bytes.subarray(0, 4))

/** Whether a file begins as TrueType (1.0 or "true"), OpenType with PostScript outlines, or WOFF of either kind. */
export const isFont = (bytes: Uint8Array): boolean =>
  ['\0\x01\0\0', 'true', 'OTTO', 'wOFF', 'wOF2'].includes(begins(bytes))

/** A file of WOFF 1 unpacked. Throws a plain Error where a table lies outside of it, or is more than a font has. */
export function unpackedWoff(file: Uint8Array): Uint8Array<ArrayBuffer> {
  const view = viewOf(file)
  const count = view.getUint16(12)
  if (count > MOST.tables) throw new Error(`it has ${count} tables`)
  const tables = Array.from({ length: count }, (_, n) => {
    const at = 44 + 20 * n
    const [from, stored, length] = [view.getUint32(at + 4), view.getUint32(at + 8), view.getUint32(at + 12)]
    const tag = begins(file.subarray(at))
    if (from + stored > file.length || length > MOST.table) throw new Error(`its table "${tag}" lies outside of it`)
    return { at, from, stored, length, tag }
  })
  const padded = (length: number): number => (length + 3) & ~3
  const size = tables.reduce((sum, { length }) => sum + padded(length), 12 + 16 * count)
  if (size > MOST.whole) throw new Error('it unpacks to more than a font has')
  const whole = new Uint8Array(size)
  const out = viewOf(whole)
  out.setUint32(0, view.getUint32(4))
  out.setUint16(4, count)
  let place = 12 + 16 * count
  for (const [n, { at, from, stored, length, tag }] of tables.entries()) {
    const data = file.subarray(from, from + stored)
    const table = stored < length ? unzlibSync(data, { out: new Uint8Array(length) }) : data
    if (table.length !== length) throw new Error(`its table "${tag}" is not whole`)
    const entry = 12 + 16 * n
    whole.set(file.subarray(at, at + 4), entry)
    out.setUint32(entry + 4, view.getUint32(at + 16))
    out.setUint32(entry + 8, place)
    out.setUint32(entry + 12, length)
    whole.set(table, place)
    place += padded(length)
  }
  return whole
}

/** The font in a file of the kinds that are read. Rejects with a plain Error where it is damaged or too large. */
export async function sfntOf(file: Uint8Array, shaper: Shaper): Promise<Uint8Array> {
  const kind = begins(file)
  if (kind === 'wOFF') return unpackedWoff(file)
  if (kind !== 'wOF2') return file
  // the size that it says is checked before anything is unpacked
  if (file.length < 48 || viewOf(file).getUint32(16) > MOST.whole) throw new Error('it unpacks to more than a font has')
  return shaper.unpack(file)
}
