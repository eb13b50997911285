/**
 * Rows of a TIFF strip, and packing by LZW as TIFF 6.0 section 13 has it: codes of 9 to 12 bits, most significant bit
 * first, widened one code early; the plain twin.
 */
import { lzwRoom } from '../../core/frame/kernels/terms'

const CLEAR = 256
const END = 257
const FIRST = 258
const MOST = 4094

/** See `Kernels.stripRows`. */
export function stripRows(
  samples: Uint8Array | Uint16Array,
  { width, channels, predicted }: { width: number; channels: 3 | 4; predicted: boolean }
): Uint8Array {
  const rows = channels === 4 ? samples.slice() : samples.filter((_, i) => (i & 3) !== 3)
  const line = width * channels
  if (predicted)
    for (let start = 0; start < rows.length; start += line)
      for (let i = start + line - 1; i >= start + channels; i--) rows[i] = rows[i]! - rows[i - channels]!
  return new Uint8Array(rows.buffer)
}

/** See `Kernels.lzw`. */
export function lzw(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(lzwRoom(bytes.length))
  let [at, held, count, width] = [0, 0, 0, 9]
  const put = (code: number): void => {
    held = (held << width) | code
    count += width
    while (count >= 8) {
      count -= 8
      out[at++] = held >>> count
      held &= (1 << count) - 1
    }
  }
  const children = new Map<number, number>()
  let next = FIRST
  put(CLEAR)
  if (bytes.length > 0) {
    let string = bytes[0]!
    for (let i = 1; i < bytes.length; i++) {
      const key = (string << 8) | bytes[i]!
      const child = children.get(key)
      if (child !== undefined) {
        string = child
        continue
      }
      put(string)
      children.set(key, next++)
      if (next === MOST) {
        put(CLEAR)
        children.clear()
        next = FIRST
        width = 9
      } else if (next + 1 > 1 << width) width++
      string = bytes[i]!
    }
    put(string)
    if (next + 2 > 1 << width && width < 12) width++
  }
  put(END)
  if (count > 0) out[at++] = held << (8 - count)
  return out.slice(0, at)
}
