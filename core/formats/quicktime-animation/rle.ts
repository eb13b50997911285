/**
 * QuickTime Animation run-length coding (QuickTime File Format Specification, "Animation" sample data).
 *
 * sample: u32 size (with these four bytes), u16 header; if header & 8: u16 first line, u16 0, u16 lines, u16 0; then the lines
 * line:   u8 skip + 1, then codes until -1:
 *         0 → another skip byte; -n → repeat the next pixel n times; n → n pixels follow
 * pixels: A R G B at 32 bits, R G B at 24, big-endian 5-5-5 at 16
 */
import { unreadable } from '../../errors'

const UPDATE = 8
const END_OF_LINE = 0xff
const MOST_LITERALS = 127
const MOST_REPEATS = 128

export type RleDepth = 16 | 24 | 32

/** The largest size a frame can have, when no two neighbours are alike. */
export function boundOf(width: number, height: number): number {
  return 6 + height * (2 + Math.ceil(width / MOST_LITERALS) + width * 4)
}

/**
 * Encodes a whole frame that needs no other. `pixels` are RGBA, 8 bits; `depth` 32 keeps the alpha, 24 leaves it out.
 * A repeat costs one pixel and a byte whatever its length, so every pair of like pixels that is not inside a
 * literal run worth keeping is coded as one; the result is never more than a byte in 127 pixels above raw.
 */
export function encodeRle(pixels: Uint8Array, width: number, height: number, depth: 24 | 32): Uint8Array {
  const out = new Uint8Array(boundOf(width, height))
  const words = new Uint32Array(pixels.buffer, pixels.byteOffset, width * height)
  // the alpha byte is the highest of a little-endian word; without alpha it must not tell pixels apart
  const mask = depth === 32 ? 0xffffffff : 0x00ffffff
  let at = 6
  const put = (word: number): void => {
    if (depth === 32) out[at++] = word >>> 24
    out[at++] = word
    out[at++] = word >>> 8
    out[at++] = word >>> 16
  }
  for (let y = 0; y < height; y++) {
    const end = (y + 1) * width
    let x = y * width
    out[at++] = 1
    while (x < end) {
      const first = words[x]! & mask
      let run = 1
      while (run < MOST_REPEATS && x + run < end && (words[x + run]! & mask) === first) run++
      if (run > 1) {
        out[at++] = 256 - run
        put(first)
        x += run
        continue
      }
      const countAt = at++
      let count = 0
      while (count < MOST_LITERALS && x < end) {
        const word = words[x]! & mask
        if (x + 1 < end && (words[x + 1]! & mask) === word) break
        put(word)
        x++
        count++
      }
      out[countAt] = count
    }
    out[at++] = END_OF_LINE
  }
  out[0] = at >>> 24
  out[1] = at >>> 16
  out[2] = at >>> 8
  out[3] = at
  return out.slice(0, at)
}

/**
 * Decodes one sample onto `canvas` (RGBA, 8 bits), which holds the frame before; pixels the sample skips stay.
 * A sample too short for a header changes nothing (a repeated frame). Errors name `file` and `place`.
 */
export function decodeRle(sample: Uint8Array, canvas: Uint8Array, width: number, height: number, depth: RleDepth, file: string, place: string): void {
  if (sample.length < 8) return
  const fail = (at: number, matter: string): Error => unreadable(file, `${place}, byte ${at} of its data`, matter)
  const u16 = (i: number): number => (sample[i]! << 8) | sample[i + 1]!
  let at = 6
  let line = 0
  let lines = height
  if (u16(4) & UPDATE) {
    if (sample.length < 14) return
    line = u16(6)
    lines = u16(10)
    at = 14
  }
  if (line + lines > height) throw fail(6, `it changes lines up to ${line + lines} of a picture ${height} lines high`)
  const size = depth >> 3
  const words = new Uint32Array(canvas.buffer, canvas.byteOffset, width * height)
  const view = new DataView(sample.buffer, sample.byteOffset, sample.byteLength)
  // A R G B, big-endian, becomes R G B A in a little-endian word
  const turned = (argb: number): number => (argb & 0xff00ff00) | ((argb >>> 16) & 255) | ((argb & 255) << 16)
  const pixel = (i: number): number => {
    if (depth === 32) return turned(view.getUint32(i))
    if (depth === 24) return 0xff000000 | (sample[i + 2]! << 16) | (sample[i + 1]! << 8) | sample[i]!
    const five = (v: number): number => ((v << 3) | (v >> 2)) & 255
    const word = u16(i)
    return 0xff000000 | (five(word & 31) << 16) | (five((word >> 5) & 31) << 8) | five((word >> 10) & 31)
  }
  for (; lines > 0; lines--, line++) {
    const end = (line + 1) * width
    if (at >= sample.length) throw fail(at, `the data ends at line ${line}; the film was cut short or is damaged`)
    let x = line * width + sample[at++]! - 1
    for (;;) {
      if (at >= sample.length) throw fail(at, `the data ends within line ${line}; the film was cut short or is damaged`)
      const code = sample[at++]!
      if (code === END_OF_LINE) break
      if (code === 0) {
        if (at >= sample.length) throw fail(at, `the data ends within line ${line}`)
        x += sample[at++]! - 1
        continue
      }
      const repeats = code > 127
      const count = repeats ? 256 - code : code
      if (x < line * width || x + count > end) throw fail(at - 1, `line ${line} holds more pixels than the picture is wide`)
      if (at + (repeats ? size : count * size) > sample.length) throw fail(at, `the data ends within line ${line}; the film was cut short or is damaged`)
      if (repeats) {
        words.fill(pixel(at), x, x + count)
        at += size
        x += count
      } else if (depth === 32) {
        for (const stop = at + 4 * count; at < stop; at += 4) words[x++] = turned(view.getUint32(at))
      } else {
        for (let n = 0; n < count; n++, at += size) words[x++] = pixel(at)
      }
    }
  }
}
