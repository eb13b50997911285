/**
 * Atoms of the QuickTime file format: u32 size (with the header), four letters, content; size 1 means a u64 follows, 0
 * "to the end".
 */
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'

export interface Atom {
  type: string
  /** Where the content begins in the file, and how long it is. */
  offset: number
  length: number
}

const latin1 = new TextDecoder('latin1')

/** The atoms between `from` and `to` of a file, one level deep. */
export async function listAtoms(reader: ByteReader, from: number, to: number): Promise<Atom[]> {
  const atoms: Atom[] = []
  let at = from
  while (at + 8 <= to) {
    const head = await reader.read(at, 16)
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength)
    let size = view.getUint32(0)
    const type = latin1.decode(head.subarray(4, 8))
    let header = 8
    if (size === 1 && head.length === 16) {
      const large = view.getBigUint64(8)
      if (large > BigInt(to - at))
        throw unreadable(
          reader.name,
          `atom ${printable(type)} at byte ${at}`,
          'it runs past the end of the file; the film was cut short'
        )
      size = Number(large)
      header = 16
    } else if (size === 0) size = to - at
    if (size < header)
      throw unreadable(reader.name, `byte ${at}`, 'an atom is shorter than its own header; the file is damaged here')
    if (at + size > to)
      throw unreadable(
        reader.name,
        `atom ${printable(type)} at byte ${at}`,
        'it runs past the end of the file; the film was cut short'
      )
    atoms.push({ type, offset: at + header, length: size - header })
    if (atoms.length > 10000) throw unreadable(reader.name, `byte ${at}`, 'it holds more atoms than any film needs')
    at += size
  }
  return atoms
}

/** Four letters fit to print. */
export function printable(type: string): string {
  return type.replace(/[^\x20-\x7e]/g, '?').trim() || '????'
}

/** An atom with its header, from its content. */
export function atom(type: string, ...content: (Uint8Array | readonly number[])[]): Uint8Array {
  const length = content.reduce((sum, part) => sum + part.length, 0)
  const bytes = new Uint8Array(8 + length)
  new DataView(bytes.buffer).setUint32(0, bytes.length)
  for (let i = 0; i < 4; i++) bytes[4 + i] = type.charCodeAt(i)
  let at = 8
  for (const part of content) {
    bytes.set(part, at)
    at += part.length
  }
  return bytes
}

/** Big-endian fields: [bits, value] pairs of 8, 16, 32 or 64 bits. */
export function fields(...pairs: readonly (readonly [8 | 16 | 32 | 64, number])[]): Uint8Array {
  const bytes = new Uint8Array(pairs.reduce((sum, [bits]) => sum + bits / 8, 0))
  const view = new DataView(bytes.buffer)
  let at = 0
  for (const [bits, value] of pairs) {
    if (bits === 8) view.setUint8(at, value)
    else if (bits === 16) view.setUint16(at, value)
    else if (bits === 32) view.setUint32(at, value)
    else view.setBigUint64(at, BigInt(value))
    at += bits / 8
  }
  return bytes
}

/** A table column of `bits` each. */
export function list(bits: 32 | 64, values: readonly number[]): Uint8Array {
  const bytes = new Uint8Array((values.length * bits) / 8)
  const view = new DataView(bytes.buffer)
  values.forEach((value, i) => (bits === 32 ? view.setUint32(i * 4, value) : view.setBigUint64(i * 8, BigInt(value))))
  return bytes
}

/** Letters as bytes, one each. */
export function letters(text: string): Uint8Array {
  return Uint8Array.from(text, letter => letter.charCodeAt(0))
}
