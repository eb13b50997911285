/**
 * WebP's container ("WebP Container Specification"): RIFF chunks, the frames of an animation, and still files made of
 * them.
 */
import { readProfile, type ProfileFound } from '../../colour-profile'
import { unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import { Cursor } from '../../../base/files/view'
import type { CanvasPart } from '../animation/canvas'

export interface WebpFrame extends CanvasPart {
  /** Milliseconds. */
  duration: number
  /** ALPH and VP8 chunks, or one VP8L, with their headers. */
  data: Uint8Array
}

export interface WebpInfo {
  width: number
  height: number
  animated: boolean
  alpha: boolean
  /** Whether colour is coded without loss, as far as the chunks tell. */
  lossless: boolean
  plays: number
  frames: WebpFrame[]
  profile: ProfileFound | null
}

const u24 = (c: Cursor, at: number): number => c.u16(at) | (c.u8(at + 2) << 16)

/** Whether a file of these first bytes is WebP. */
export function looksLikeWebp(head: Uint8Array): boolean {
  return (
    String.fromCharCode(...head.subarray(0, 4)) === 'RIFF' && String.fromCharCode(...head.subarray(8, 12)) === 'WEBP'
  )
}

interface Chunk {
  type: string
  at: number
  length: number
}

function chunksOf(c: Cursor, from: number, to: number): Chunk[] {
  const chunks: Chunk[] = []
  for (let at = from; at + 8 <= to;) {
    const type = String.fromCharCode(...c.slice(at, 4))
    const length = c.u32(at + 4)
    if (at + 8 + length > to)
      throw unreadable(
        c.file,
        `chunk ${type.replace(/[^\x20-\x7e]/g, '?')} at byte ${at}`,
        'it runs past the end of the file; the file was cut short'
      )
    chunks.push({ type, at: at + 8, length })
    at += 8 + length + (length & 1)
  }
  return chunks
}

/** Width, height and alpha of a bitstream chunk: VP8 (RFC 6386, 9.1) or VP8L (WebP Lossless Bitstream, 3). */
function sizeOf(c: Cursor, chunk: Chunk): { width: number; height: number; alpha: boolean } {
  if (chunk.type === 'VP8L') {
    if (c.u8(chunk.at) !== 0x2f) throw unreadable(c.file, 'chunk VP8L', 'its signature is wrong')
    const bits = c.u32(chunk.at + 1)
    return { width: (bits & 0x3fff) + 1, height: ((bits >>> 14) & 0x3fff) + 1, alpha: ((bits >>> 28) & 1) === 1 }
  }
  if (u24(c, chunk.at + 3) !== 0x2a019d) throw unreadable(c.file, 'chunk VP8', 'its signature is wrong')
  return { width: c.u16(chunk.at + 6) & 0x3fff, height: c.u16(chunk.at + 8) & 0x3fff, alpha: false }
}

/** Everything a file says before its pixels. Every size is checked against the canvas. */
export function readWebp(bytes: Uint8Array, file: string): WebpInfo {
  if (!looksLikeWebp(bytes)) throw unreadable(file, 'byte 0', 'this is not a WebP file')
  const c = new Cursor(bytes, file, true)
  const chunks = chunksOf(c, 12, Math.min(bytes.length, 8 + c.u32(4) + (c.u32(4) & 1)))
  const picture = (
    list: readonly Chunk[]
  ): { data: Uint8Array; size: ReturnType<typeof sizeOf>; lossless: boolean } => {
    const stream = list.find(chunk => chunk.type === 'VP8 ' || chunk.type === 'VP8L')
    if (!stream) throw unreadable(file, null, 'a frame has no picture data')
    const alpha = stream.type === 'VP8 ' ? list.find(chunk => chunk.type === 'ALPH') : undefined
    const parts = [alpha, stream].flatMap(chunk =>
      chunk ? [c.slice(chunk.at - 8, 8 + chunk.length), new Uint8Array(chunk.length & 1)] : []
    )
    const size = sizeOf(c, stream)
    return {
      data: concatenate(parts),
      size: { ...size, alpha: size.alpha || alpha !== undefined },
      lossless: stream.type === 'VP8L'
    }
  }
  const carried = chunks.find(chunk => chunk.type === 'ICCP')
  const profile = carried ? readProfile(c.slice(carried.at, carried.length)) : null
  const extended = chunks.find(chunk => chunk.type === 'VP8X')
  const moving = chunks.filter(chunk => chunk.type === 'ANMF')
  if (!extended || moving.length === 0) {
    const { data, size, lossless } = picture(chunks)
    if (size.width < 1 || size.height < 1) throw unreadable(file, null, 'the picture has no pixels')
    return {
      ...size,
      animated: false,
      lossless,
      plays: 1,
      profile,
      frames: [
        { x: 0, y: 0, width: size.width, height: size.height, dispose: 'leave', blend: 'source', duration: 0, data }
      ]
    }
  }
  const [width, height] = [u24(c, extended.at + 4) + 1, u24(c, extended.at + 7) + 1]
  const control = chunks.find(chunk => chunk.type === 'ANIM')
  let lossless = true
  const frames = moving.map((chunk, i): WebpFrame => {
    const flags = c.u8(chunk.at + 15)
    const place = {
      x: u24(c, chunk.at) * 2,
      y: u24(c, chunk.at + 3) * 2,
      width: u24(c, chunk.at + 6) + 1,
      height: u24(c, chunk.at + 9) + 1
    }
    const { data, size, lossless: exact } = picture(chunksOf(c, chunk.at + 16, chunk.at + chunk.length))
    if (
      place.x + place.width > width ||
      place.y + place.height > height ||
      size.width !== place.width ||
      size.height !== place.height
    )
      throw unreadable(file, `frame ${i + 1}`, 'the frame does not fit its place on the canvas')
    if (!exact) lossless = false
    return {
      ...place,
      dispose: flags & 1 ? 'clear' : 'leave',
      blend: flags & 2 ? 'source' : 'over',
      duration: u24(c, chunk.at + 12),
      data
    }
  })
  return {
    width,
    height,
    animated: true,
    alpha: (c.u8(extended.at) & 0x10) !== 0,
    lossless,
    plays: control ? c.u16(control.at + 4) : 0,
    profile,
    frames
  }
}

function chunk(type: string, ...content: Uint8Array[]): Uint8Array {
  const length = content.reduce((sum, part) => sum + part.length, 0)
  const bytes = new Uint8Array(8 + length + (length & 1))
  for (let i = 0; i < 4; i++) bytes[i] = type.charCodeAt(i)
  new DataView(bytes.buffer).setUint32(4, length, true)
  let at = 8
  for (const part of content) {
    bytes.set(part, at)
    at += part.length
  }
  return bytes
}

const put24 = (bytes: Uint8Array, at: number, value: number): void =>
  bytes.set([value & 255, (value >> 8) & 255, value >> 16], at)

function extendedHeader(width: number, height: number, flags: number): Uint8Array {
  const data = new Uint8Array(10)
  data[0] = flags
  put24(data, 4, width - 1)
  put24(data, 7, height - 1)
  return chunk('VP8X', data)
}

/** Bits of the extended header. */
const HAS = { profile: 0x20, alpha: 0x10, animation: 2 } as const

/** A still file around a frame's chunks, for a decoder of whole files; with a profile where one is given. */
export function stillFile(
  frame: Pick<WebpFrame, 'width' | 'height' | 'data'>,
  profile: Uint8Array | null = null
): Uint8Array {
  const first = String.fromCharCode(...frame.data.subarray(0, 4))
  // a lossless picture says of itself whether it has alpha, in bit 28 behind its signature and size
  const alpha = first === 'ALPH' || (first === 'VP8L' && ((frame.data[12] ?? 0) & 0x10) !== 0)
  const extended = first === 'ALPH' || profile
  const flags = (alpha ? HAS.alpha : 0) | (profile ? HAS.profile : 0)
  return chunk(
    'RIFF',
    new TextEncoder().encode('WEBP'),
    ...(extended ? [extendedHeader(frame.width, frame.height, flags)] : []),
    ...(profile ? [chunk('ICCP', profile)] : []),
    frame.data
  )
}

/**
 * ALPH of a picture that is solid throughout (WebP Container Specification, "Alpha"): compression 1, and a lossless
 * stream whose five prefix codes have one symbol each, so that no pixel takes a bit. 0, no transform; 0, no colour
 * cache; 0, one set of codes; green is 255 (bits 1, one symbol; 0; 1, of 8 bits; 255), the other four are 0 (bits 1 0 0
 * 0).
 */
const SOLID = chunk('ALPH', Uint8Array.of(1, 0b11101000, 0b01111111, 0b01000100, 0b00000100))

/** Chunks of a picture that is to keep its alpha although no pixel is clear; encoders leave it away. */
export function withAlphaKept(data: Uint8Array): Uint8Array {
  const type = String.fromCharCode(...data.subarray(0, 4))
  if (type === 'VP8 ') return concatenate([SOLID, data])
  // alpha_is_used of the lossless header: the samples say 255 already
  const bytes = data.slice()
  if (type === 'VP8L') bytes[12] = bytes[12]! | 0x10
  return bytes
}

/** What stands before the frames of an animation; the size of the whole, at byte 4, is put in when it is known. */
export function animationHead(
  { width, height, alpha, profile }: { width: number; height: number; alpha: boolean; profile: Uint8Array | null },
  plays: number
): Uint8Array {
  const control = new Uint8Array(6)
  control[4] = plays & 255
  control[5] = plays >> 8
  const head = new Uint8Array(12)
  head.set(new TextEncoder().encode('RIFF'))
  head.set(new TextEncoder().encode('WEBP'), 8)
  const flags = HAS.animation | (alpha ? HAS.alpha : 0) | (profile ? HAS.profile : 0)
  return concatenate([
    head,
    extendedHeader(width, height, flags),
    ...(profile ? [chunk('ICCP', profile)] : []),
    chunk('ANIM', control)
  ])
}

/** One full-canvas frame that replaces what was there. */
export function animationFrame(width: number, height: number, duration: number, data: Uint8Array): Uint8Array {
  const header = new Uint8Array(16)
  put24(header, 6, width - 1)
  put24(header, 9, height - 1)
  put24(header, 12, duration)
  header[15] = 2
  return chunk('ANMF', header, data)
}
