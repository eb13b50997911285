/** EBML (RFC 8794): elements of an id, a length and content, each of variable length. */
import { concatenate } from '../../../base/files/bytes'
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'

export interface EbmlElement {
  id: number
  /** Where the element begins, its content begins, and how long that is; null where the length is left open. */
  at: number
  offset: number
  length: number | null
}

/** True for an EBML file (RFC 8794). */
export const looksLikeEbml = (head: Uint8Array): boolean =>
  head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3

/** The element at a place. Rejects where its head is broken. */
export async function elementAt(reader: ByteReader, at: number): Promise<EbmlElement> {
  const bytes = await reader.read(at, 12)
  const found = headOf(bytes, 0)
  if (!found) throw unreadable(reader.name, `byte ${at}`, 'an element is broken; the film was cut short or is damaged')
  return { id: found.id, at, offset: at + found.size, length: found.length }
}

/** Id, length and own size of an element's head within bytes; null where it is broken. */
export function headOf(bytes: Uint8Array, at: number): { id: number; length: number | null; size: number } | null {
  const idLength = Math.clz32(bytes[at] ?? 0) - 23
  if (idLength > 4 || bytes.length < at + idLength + 1) return null
  const id = bytes.subarray(at, at + idLength).reduce((value, byte) => value * 256 + byte, 0)
  const found = numberAt(bytes, at + idLength)
  return found && { id, length: found.value, size: idLength + found.size }
}

/** A number of variable length; null value where all its bits are set. */
export function numberAt(bytes: Uint8Array, at: number): { value: number | null; size: number } | null {
  const first = bytes[at] ?? 0
  const size = Math.clz32(first) - 23
  if (size > 8 || bytes.length < at + size) return null
  const rest = bytes.subarray(at + 1, at + size)
  const mask = 2 ** (8 - size) - 1
  const open = (first & mask) === mask && rest.every(byte => byte === 255)
  return { value: open ? null : rest.reduce((value, byte) => value * 256 + byte, first & mask), size }
}

/** The elements within bytes, one level deep; null where they do not fill them. */
export function elementsIn(bytes: Uint8Array): { id: number; content: Uint8Array }[] | null {
  const elements: { id: number; content: Uint8Array }[] = []
  for (let at = 0; at < bytes.length;) {
    const head = headOf(bytes, at)
    if (!head || head.length === null || at + head.size + head.length > bytes.length) return null
    const from = at + head.size
    elements.push({ id: head.id, content: bytes.subarray(from, from + head.length) })
    at = from + head.length
  }
  return elements
}

/** The whole number that these bytes are, the highest first. */
export const unsigned = (bytes: Uint8Array): number => bytes.reduce((value, byte) => value * 256 + byte, 0)

/** The number that four or eight bytes are; none are 0 (RFC 8794, 7.3). */
export function float(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return bytes.length === 4 ? view.getFloat32(0) : bytes.length === 8 ? view.getFloat64(0) : 0
}

const idBytes = (id: number): Uint8Array => {
  const count = id > 0xffffff ? 4 : id > 0xffff ? 3 : id > 0xff ? 2 : 1
  return Uint8Array.from({ length: count }, (_, i) => (id / 256 ** (count - 1 - i)) & 255)
}

/** A length in eight bytes, which any element has room for. */
export function lengthBytes(length: number): Uint8Array {
  const bytes = Uint8Array.from({ length: 8 }, (_, i) => Math.floor(length / 256 ** (7 - i)) & 255)
  bytes[0] = 1
  return bytes
}

const shortLength = (length: number): Uint8Array => {
  for (let size = 1; size < 8; size++)
    if (length < 2 ** (7 * size) - 1)
      return Uint8Array.from(
        { length: size },
        (_, i) => (Math.floor(length / 256 ** (size - 1 - i)) & 255) | (i === 0 ? 1 << (8 - size) : 0)
      )
  return lengthBytes(length)
}

/** An element of given content. */
export function element(id: number, ...content: Uint8Array[]): Uint8Array {
  const length = content.reduce((sum, part) => sum + part.length, 0)
  return concatenate([idBytes(id), shortLength(length), ...content])
}

/** An element whose length will be patched: its head with eight bytes of length. */
export const openElement = (id: number, length: number): Uint8Array => concatenate([idBytes(id), lengthBytes(length)])

/** Elements of a whole number, of eight bytes where it will be patched, of a float and of text. */
export const whole = (id: number, value: number): Uint8Array => {
  const count = Math.max(1, Math.ceil((Math.floor(Math.log2(Math.max(1, value))) + 1) / 8))
  return element(
    id,
    Uint8Array.from({ length: count }, (_, i) => Math.floor(value / 256 ** (count - 1 - i)) & 255)
  )
}

/** An element of a whole number that takes eight bytes, whatever it is, so that it can be written again. */
export const wholeOfEight = (id: number, value: number): Uint8Array =>
  element(
    id,
    Uint8Array.from({ length: 8 }, (_, i) => Math.floor(value / 256 ** (7 - i)) & 255)
  )

/** An element of a number of 64 bits. */
export function real(id: number, value: number): Uint8Array {
  const bytes = new Uint8Array(8)
  new DataView(bytes.buffer).setFloat64(0, value)
  return element(id, bytes)
}

/** An element of UTF-8 text. */
export const text = (id: number, value: string): Uint8Array => element(id, new TextEncoder().encode(value))
