/** LZW as TIFF 6.0 section 13 has it: codes of 9 to 12 bits, most significant bit first, widened one code early. */

const CLEAR = 256
const END = 257
const FIRST = 258

/** Exactly `size` bytes, or null when the code is damaged or ends early. */
export function unpackLzw(packed: Uint8Array, size: number): Uint8Array | null {
  const out = new Uint8Array(size)
  const before = new Uint16Array(4096)
  const last = new Uint8Array(4096)
  const length = new Uint16Array(4096)
  for (let i = 0; i < 256; i++) {
    last[i] = i
    length[i] = 1
  }
  let [at, bits, held, count, next, width] = [0, 0, 0, 0, FIRST, 9]
  let previous = -1
  while (at < size) {
    while (count < width) {
      if (bits >= packed.length) return null
      held = (held << 8) | packed[bits++]!
      count += 8
    }
    count -= width
    const code = (held >>> count) & ((1 << width) - 1)
    held &= (1 << count) - 1
    if (code === END) break
    if (code === CLEAR) {
      next = FIRST
      width = 9
      previous = -1
      continue
    }
    if (previous < 0) {
      if (code > 255) return null
      out[at++] = code
      previous = code
      continue
    }
    if (code > next || next > 4095) return null
    // a code not yet made is the string before and its own first byte
    const known = code < next
    const total = known ? length[code]! : length[previous]! + 1
    if (at + total > size) return null
    let walk = known ? code : previous
    let to = at + (known ? total : total - 1)
    while (to > at) {
      out[--to] = last[walk]!
      walk = before[walk]!
    }
    if (!known) out[at + total - 1] = out[at]!
    before[next] = previous
    last[next] = out[at]!
    length[next] = length[previous]! + 1
    next++
    at += total
    previous = code
    if (next + 1 >= 1 << width && width < 12) width++
  }
  return at === size ? out : null
}
