/**
 * RIFF: chunks of four letters, u32 little-endian size and content padded to an even length; lists begin with four
 * letters of their own.
 */
import { unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import type { ByteReader } from '../../../base/files/file'

export interface Chunk {
  id: string
  /** Of "RIFF" and "LIST": what it is a list of. */
  list: string | null
  /** Where the content begins, behind the letters of a list, and how long it is. */
  offset: number
  length: number
}

const latin1 = new TextDecoder('latin1')

/** The four letters of a chunk's name at a place. */
export const lettersAt = (bytes: Uint8Array, at: number): string => latin1.decode(bytes.subarray(at, at + 4))

/** The chunk at a place; null where less than a head is left. */
export async function chunkAt(reader: ByteReader, at: number, end: number): Promise<Chunk | null> {
  if (at + 8 > end) return null
  const head = await reader.read(at, 12)
  if (head.length < 8) return null
  const id = lettersAt(head, 0)
  const size = new DataView(head.buffer, head.byteOffset, 8).getUint32(4, true)
  const list = (id === 'RIFF' || id === 'LIST') && head.length === 12 && size >= 4 ? lettersAt(head, 8) : null
  return { id, list, offset: at + (list ? 12 : 8), length: list ? size - 4 : size }
}

/** Where the chunk behind another begins. */
export const afterChunk = ({ offset, length, list }: Chunk): number => offset + length + ((length + (list ? 4 : 0)) & 1)

/** The chunks between two places. Rejects where one runs beyond the end. */
export async function listChunks(reader: ByteReader, from: number, end: number, most: number): Promise<Chunk[]> {
  const chunks: Chunk[] = []
  for (let at = from; ;) {
    const chunk = await chunkAt(reader, at, end)
    if (!chunk) return chunks
    if (chunk.offset + chunk.length > end)
      throw unreadable(reader.name, `byte ${at}`, 'a chunk runs past its list; the film was cut short or is damaged')
    if (chunks.length >= most) throw unreadable(reader.name, `byte ${at}`, 'it holds more chunks than any film needs')
    chunks.push(chunk)
    at = afterChunk(chunk)
  }
}

export type Word = readonly [8 | 16 | 32 | 64, number]

/**
 * Little-endian fields: [bits, value] pairs of 8, 16, 32 or 64 bits. Negative values of 32 bits are stored as signed.
 */
export function words(...pairs: readonly Word[]): Uint8Array {
  const bytes = new Uint8Array(pairs.reduce((sum, [bits]) => sum + bits / 8, 0))
  const view = new DataView(bytes.buffer)
  let at = 0
  for (const [bits, value] of pairs) {
    if (bits === 8) view.setUint8(at, value)
    else if (bits === 16) view.setUint16(at, value, true)
    else if (bits === 32) view.setInt32(at, value | 0, true)
    else view.setBigUint64(at, BigInt(value), true)
    at += bits / 8
  }
  return bytes
}

/** A chunk's name as bytes. */
export const fourLetters = (text: string): Uint8Array => Uint8Array.from(text, letter => letter.charCodeAt(0))

/** A chunk with its head and its padding. */
export function chunk(id: string, ...content: Uint8Array[]): Uint8Array {
  const body = concatenate(content)
  return concatenate([fourLetters(id), words([32, body.length]), body, new Uint8Array(body.length & 1)])
}

/** A list of this kind, with its head and its padding. */
export const listOf = (kind: string, ...content: Uint8Array[]): Uint8Array =>
  chunk('LIST', fourLetters(kind), ...content)
