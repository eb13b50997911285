/**
 * Plain twins of the Animation run-length kernels: every choice of the coder is the same, so both write the same bytes.
 */
import { MOST_LITERALS, rleBound } from '../../core/frame/kernels/terms'
import type { RleFault } from '../../core/frame/kernels/coded'
import type { RleLines } from '../../core/frame/kernels/kernels'

const END_OF_LINE = 0xff
const MOST_REPEATS = 128
const MOST_SKIP = 254

const wordsOf = (pixels: Uint8Array): Uint32Array =>
  new Uint32Array(pixels.buffer, pixels.byteOffset, pixels.length / 4)

export function rleEncode(
  pixels: Uint8Array,
  before: Uint8Array | null,
  width: number,
  height: number,
  depth: 24 | 32
): Uint8Array {
  const out = new Uint8Array(rleBound(width, height))
  const words = wordsOf(pixels)
  const former = before && wordsOf(before)
  // the alpha byte is the highest of a little-endian word; without alpha it must not tell pixels apart
  const mask = depth === 32 ? 0xffffffff : 0x00ffffff
  const kept = (x: number, end: number): number => {
    let n = x
    while (n < end && (words[n]! & mask) === (former![n]! & mask)) n++
    return n - x
  }
  const runAt = (x: number, end: number): number => {
    const first = words[x]! & mask
    let run = 1
    while (run < MOST_REPEATS && x + run < end && (words[x + run]! & mask) === first) run++
    return run
  }
  let at = former ? 14 : 6
  const put = (word: number): void => {
    if (depth === 32) out[at++] = word >>> 24
    out[at++] = word
    out[at++] = word >>> 8
    out[at++] = word >>> 16
  }
  let [top, bottom] = [0, height]
  if (former) {
    while (top < height && kept(top * width, (top + 1) * width) === width) top++
    while (bottom > top && kept((bottom - 1) * width, bottom * width) === width) bottom--
    out.set([0, 8, top >> 8, top, 0, 0, (bottom - top) >> 8, bottom - top], 4)
  }
  for (let y = top; y < bottom; y++) {
    const end = (y + 1) * width
    let x = y * width
    let skip = former ? kept(x, end) : 0
    if (skip === width) {
      out[at++] = 1
      out[at++] = END_OF_LINE
      continue
    }
    const first = Math.min(skip, MOST_SKIP)
    out[at++] = first + 1
    x += first
    skip -= first
    while (x < end) {
      if (skip > 0) {
        const part = Math.min(skip, MOST_SKIP)
        out[at++] = 0
        out[at++] = part + 1
        x += part
        skip -= part
        continue
      }
      const run = runAt(x, end)
      if (run > 1) {
        out[at++] = 256 - run
        put(words[x]!)
        x += run
      } else {
        const countAt = at++
        let count = 0
        while (count < MOST_LITERALS && x < end) {
          const word = words[x]! & mask
          if (x + 1 < end && (words[x + 1]! & mask) === word) break
          if (former && count > 0 && (former[x]! & mask) === word) break
          put(word)
          x++
          count++
        }
        out[countAt] = count
      }
      if (former && x < end) {
        skip = kept(x, end)
        // what stayed to the end of the line needs no word at all
        if (x + skip === end) break
        // a run that reaches further is the shorter word
        if (skip > 0 && runAt(x, end) > skip) skip = 0
      }
    }
    out[at++] = END_OF_LINE
  }
  new DataView(out.buffer).setUint32(0, at)
  return out.slice(0, at)
}

export function rleDecode(
  sample: Uint8Array,
  from: number,
  canvas: Uint8Array | null,
  { line: first, lines, width, height, depth }: RleLines
): Uint8Array | RleFault {
  const result = canvas ? canvas.slice() : new Uint8Array(width * height * 4)
  const words = wordsOf(result)
  if (!canvas && depth !== 32) words.fill(0xff000000)
  const size = depth >> 3
  const view = new DataView(sample.buffer, sample.byteOffset, sample.byteLength)
  const five = (v: number): number => ((v << 3) | (v >> 2)) & 255
  const pixel = (i: number): number => {
    if (depth === 32) {
      const argb = view.getUint32(i)
      return (argb & 0xff00ff00) | ((argb >>> 16) & 255) | ((argb & 255) << 16)
    }
    if (depth === 24) return 0xff000000 | (sample[i + 2]! << 16) | (sample[i + 1]! << 8) | sample[i]!
    const word = view.getUint16(i)
    return 0xff000000 | (five(word & 31) << 16) | (five((word >> 5) & 31) << 8) | five((word >> 10) & 31)
  }
  let at = from
  for (let line = first; line < first + lines; line++) {
    const end = (line + 1) * width
    if (at >= sample.length) return { fault: 'ends-at-line', at, line }
    let x = line * width + sample[at++]! - 1
    for (;;) {
      if (at >= sample.length) return { fault: 'ends-within', at, line }
      const code = sample[at++]!
      if (code === END_OF_LINE) break
      if (code === 0) {
        if (at >= sample.length) return { fault: 'ends-within', at, line }
        x += sample[at++]! - 1
        continue
      }
      const repeats = code > 127
      const count = repeats ? 256 - code : code
      if (x < line * width || x + count > end) return { fault: 'too-wide', at: at - 1, line }
      if (at + (repeats ? size : count * size) > sample.length) return { fault: 'ends-within', at, line }
      if (repeats) {
        words.fill(pixel(at), x, x + count)
        at += size
        x += count
      } else for (let n = 0; n < count; n++, at += size) words[x++] = pixel(at)
    }
  }
  return result
}
