/** Reading GIF (GIF87a, GIF89a): blocks, palettes, LZW, interlace. */
import { unreadable } from '../../../base/errors'
import { Cursor } from '../../../base/files/view'
import { MAX_PIXELS } from '../../../frame/frame'
import type { CanvasPart } from '../animation/canvas'

export interface GifFrame extends CanvasPart {
  /** Hundredths of a second. */
  delay: number
  transparent: number | null
  palette: Uint8Array
  interlaced: boolean
  /** Where the code begins: its size byte, then sub-blocks. */
  codeAt: number
}

export interface GifInfo {
  width: number
  height: number
  plays: number
  transparent: boolean
  frames: GifFrame[]
}

/** Whether a file of these first bytes is a GIF. */
export function looksLikeGif(head: Uint8Array): boolean {
  return /^GIF8[79]a/.test(String.fromCharCode(...head.subarray(0, 6)))
}

const DISPOSAL: Record<number, CanvasPart['dispose']> = { 2: 'clear', 3: 'previous' }

/** Walks the blocks and lists the frames. Frames that reach beyond the canvas are refused. */
export function readGif(bytes: Uint8Array, file: string): GifInfo {
  if (!looksLikeGif(bytes)) throw unreadable(file, 'byte 0', 'this is not a GIF file')
  const c = new Cursor(bytes, file, true)
  const [width, height] = [c.u16(6), c.u16(8)]
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw unreadable(file, 'the header', `a picture of ${width}x${height} cannot be taken`)
  const packed = c.u8(10)
  let at = 13
  const palette = (flags: number): Uint8Array | null => {
    if (!(flags & 0x80)) return null
    const colours = c.slice(at, 3 * (2 << (flags & 7)))
    at += colours.length
    return colours
  }
  const skip = (): void => {
    for (let size = c.u8(at++); size > 0; size = c.u8(at++)) at += size
  }
  const global = palette(packed)
  const info: GifInfo = { width, height, plays: 1, transparent: false, frames: [] }
  let control = { dispose: 'leave' as CanvasPart['dispose'], delay: 0, transparent: null as number | null }
  for (;;) {
    const block = c.u8(at++)
    if (block === 0x3b) break
    if (block === 0x21) {
      const label = c.u8(at++)
      if (label === 0xf9) {
        const flags = c.u8(at + 1)
        control = {
          dispose: DISPOSAL[(flags >> 2) & 7] ?? 'leave',
          delay: c.u16(at + 2),
          transparent: flags & 1 ? c.u8(at + 4) : null
        }
      } else if (
        label === 0xff &&
        c.u8(at) === 11 &&
        c.text(at + 1, 11) === 'NETSCAPE2.0' &&
        c.u8(at + 12) >= 3 &&
        c.u8(at + 13) === 1
      ) {
        const times = c.u16(at + 14)
        info.plays = times === 0 ? 0 : times + 1
      }
      skip()
    } else if (block === 0x2c) {
      const part = { x: c.u16(at), y: c.u16(at + 2), width: c.u16(at + 4), height: c.u16(at + 6) }
      const flags = c.u8(at + 8)
      at += 9
      const place = `frame ${info.frames.length + 1}`
      if (part.width < 1 || part.height < 1 || part.x + part.width > width || part.y + part.height > height)
        throw unreadable(file, place, 'the frame lies outside the canvas')
      const colours = palette(flags) ?? global
      if (!colours) throw unreadable(file, place, 'it has no palette')
      info.frames.push({
        ...part,
        dispose: control.dispose,
        blend: 'over',
        delay: control.delay,
        transparent: control.transparent,
        palette: colours,
        interlaced: (flags & 0x40) !== 0,
        codeAt: at
      })
      if (control.transparent !== null) info.transparent = true
      control = { dispose: 'leave', delay: 0, transparent: null }
      at++
      skip()
      if (info.frames.length > 100_000) throw unreadable(file, place, 'it has more frames than any GIF needs')
    } else
      throw unreadable(
        file,
        `byte ${at - 1}`,
        'a block begins with a byte that does not exist; the file is damaged here'
      )
  }
  if (info.frames.length === 0) throw unreadable(file, null, 'it holds no picture')
  return info
}

/** LZW of GIF: codes least significant bit first. Exactly `count` indices, or null. */
function unpack(c: Cursor, from: number, count: number): Uint8Array | null {
  const least = c.u8(from)
  if (least < 1 || least > 11) return null
  const out = new Uint8Array(count)
  const clear = 1 << least
  const before = new Uint16Array(4096)
  const last = new Uint8Array(4096)
  const length = new Uint16Array(4096)
  for (let i = 0; i < clear; i++) {
    last[i] = i
    length[i] = 1
  }
  let [at, block, left, held, bits] = [0, from + 1, 0, 0, 0]
  let [next, width, previous] = [clear + 2, least + 1, -1]
  while (at < count) {
    while (bits < width) {
      if (left === 0) {
        left = c.u8(block++)
        if (left === 0) return null
      }
      held |= c.u8(block++) << bits
      left--
      bits += 8
    }
    const code = held & ((1 << width) - 1)
    held >>>= width
    bits -= width
    if (code === clear) {
      next = clear + 2
      width = least + 1
      previous = -1
      continue
    }
    if (code === clear + 1) break
    if (previous < 0) {
      if (code > clear) return null
      out[at++] = code
      previous = code
      continue
    }
    if (code > next) return null
    const known = code < next
    const total = known ? length[code]! : length[previous]! + 1
    if (at + total > count) return null
    let walk = known ? code : previous
    let to = at + (known ? total : total - 1)
    while (to > at) {
      out[--to] = last[walk]!
      walk = before[walk]!
    }
    if (!known) out[at + total - 1] = out[at]!
    if (next < 4096) {
      before[next] = previous
      last[next] = out[at]!
      length[next] = length[previous]! + 1
      next++
      if (next === 1 << width && width < 12) width++
    }
    at += total
    previous = code
  }
  return at === count ? out : null
}

/** Rows of an interlaced picture in the order they are stored. */
function rowOrder(height: number, interlaced: boolean): number[] {
  const all = Array.from({ length: height }, (_, y) => y)
  if (!interlaced) return all
  return [
    all.filter(y => y % 8 === 0),
    all.filter(y => y % 8 === 4),
    all.filter(y => y % 4 === 2),
    all.filter(y => y % 2 === 1)
  ].flat()
}

/** A frame's own pixels, RGBA. */
export function decodeGifFrame(bytes: Uint8Array, frame: GifFrame, file: string, place: string): Uint8Array {
  const { width, height, palette, transparent } = frame
  // a code of 12 bits stands for at most 4096 pixels
  if (width * height > bytes.length * 4096)
    throw unreadable(file, place, `${bytes.length} bytes cannot hold a picture of ${width}x${height}`)
  const index = unpack(new Cursor(bytes, file, true), frame.codeAt, width * height)
  if (!index) throw unreadable(file, place, 'its compressed data is damaged or incomplete')
  const rgba = new Uint8Array(width * height * 4)
  rowOrder(height, frame.interlaced).forEach((y, row) => {
    for (let x = 0; x < width; x++) {
      const i = index[row * width + x]!
      const to = 4 * (y * width + x)
      if (i === transparent) continue
      rgba[to] = palette[3 * i] ?? 0
      rgba[to + 1] = palette[3 * i + 1] ?? 0
      rgba[to + 2] = palette[3 * i + 2] ?? 0
      rgba[to + 3] = 255
    }
  })
  return rgba
}
