/** MXF's triplets of key, length and value (SMPTE ST 336), and the local sets of tags that metadata stands in. */
import { unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import type { ByteReader } from '../../../base/files/file'

export interface Triplet {
  /** 32 hexadecimal digits. */
  key: string
  at: number
  offset: number
  length: number
}

const HEX = Array.from({ length: 256 }, (_, n) => n.toString(16).padStart(2, '0'))

/** Bytes as hex digits, two each. */
export const hexOf = (bytes: Uint8Array): string => Array.from(bytes, byte => HEX[byte]!).join('')

/** The bytes that hex digits stand for, two each. */
export const bytesOfHex = (hex: string): Uint8Array =>
  Uint8Array.from({ length: hex.length / 2 }, (_, i) => parseInt(hex.slice(2 * i, 2 * i + 2), 16))

/** Without the byte that tells a key's version, which readers pass over. */
export const unversioned = (key: string): string => `${key.slice(0, 14)}00${key.slice(16)}`

/** The triplet at a place. Rejects where its key or length is broken. */
export async function tripletAt(reader: ByteReader, at: number): Promise<Triplet> {
  const bytes = await reader.read(at, 25)
  const broken = (): Error =>
    unreadable(reader.name, `byte ${at}`, 'no key stands where one should; the film was cut short or is damaged')
  if (bytes.length < 17 || hexOf(bytes.subarray(0, 4)) !== '060e2b34') throw broken()
  const first = bytes[16]!
  const size = first < 0x80 ? 0 : first & 0x7f
  if (size > 8 || bytes.length < 17 + size) throw broken()
  const length =
    size === 0 ? first & 0x7f : bytes.subarray(17, 17 + size).reduce((value, byte) => value * 256 + byte, 0)
  const offset = at + 17 + size
  if (offset + length > reader.size)
    throw unreadable(
      reader.name,
      `byte ${at}`,
      'what stands here runs past the end of the file; the film was cut short'
    )
  return { key: hexOf(bytes.subarray(0, 16)), at, offset, length }
}

/** The tags of a local set; null where they do not fill it. */
export function tagsOf(bytes: Uint8Array): Map<number, Uint8Array> | null {
  const tags = new Map<number, Uint8Array>()
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 0; at < bytes.length;) {
    if (at + 4 > bytes.length) return null
    const length = view.getUint16(at + 2)
    if (at + 4 + length > bytes.length) return null
    tags.set(view.getUint16(at), bytes.subarray(at + 4, at + 4 + length))
    at += 4 + length
  }
  return tags
}

/** A big-endian number of so many bytes. */
export const number = (bytes: 1 | 2 | 4 | 8, value: number): Uint8Array =>
  Uint8Array.from({ length: bytes }, (_, i) => Math.floor(value / 256 ** (bytes - 1 - i)) & 255)

/** Head of a triplet whose value has a length; eight bytes of it where it is large. */
export const headOf = (key: string, length: number): Uint8Array =>
  concatenate([
    bytesOfHex(key),
    length < 2 ** 24
      ? Uint8Array.from([0x83, length >> 16, (length >> 8) & 255, length & 255])
      : Uint8Array.from([0x87, ...number(8, length).subarray(1)])
  ])

/** Key, length and value (SMPTE ST 336). */
export const triplet = (key: string, ...value: Uint8Array[]): Uint8Array => {
  const body = concatenate(value)
  return concatenate([headOf(key, body.length), body])
}

/** A local set of tags. */
export const localSet = (key: string, tags: readonly (readonly [number, Uint8Array])[]): Uint8Array =>
  triplet(key, ...tags.map(([tag, value]) => concatenate([number(2, tag), number(2, value.length), value])))

/** Values of one size, counted. */
export const batch = (size: number, values: readonly Uint8Array[]): Uint8Array =>
  concatenate([number(4, values.length), number(4, size), ...values])
