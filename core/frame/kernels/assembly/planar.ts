// Planes of 8 bits as codecs of Huffman codes have them: green, blue and red as their distances from it, and alpha; what
// each sample differs by from the median of its neighbours; and codes of those differences. What is expected of the first
// sample, and stands for no distance, is 128 or 0 (`start`).

/** Green, blue and red as distances from it, and alpha, from RGBA. Sixteen bytes beyond each may be written. */
export function planarSplit(
  from: usize, pixels: i32, green: usize, blue: usize, red: usize, alpha: usize, start: i32
): void {
  const middle = i8x16.splat(<i8>start)
  for (let i: usize = 0; i < <usize>pixels; i += 16) {
    const at = from + (i << 2)
    const a = v128.load(at)
    const b = v128.load(at, 16)
    const c = v128.load(at, 32)
    const d = v128.load(at, 48)
    const rgLow = v128.shuffle<u8>(a, b, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29)
    const rgHigh = v128.shuffle<u8>(c, d, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29)
    const baLow = v128.shuffle<u8>(a, b, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31)
    const baHigh = v128.shuffle<u8>(c, d, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31)
    const g = v128.shuffle<u64>(rgLow, rgHigh, 1, 3)
    v128.store(green + i, g)
    v128.store(red + i, i8x16.add(i8x16.sub(v128.shuffle<u64>(rgLow, rgHigh, 0, 2), g), middle))
    v128.store(blue + i, i8x16.add(i8x16.sub(v128.shuffle<u64>(baLow, baHigh, 0, 2), g), middle))
    if (alpha) v128.store(alpha + i, v128.shuffle<u64>(baLow, baHigh, 1, 3))
  }
}

/** RGBA from such planes; alpha is full where there is none. */
export function planarJoin(
  to: usize, pixels: i32, green: usize, blue: usize, red: usize, alpha: usize, start: i32
): void {
  const middle = i8x16.splat(<i8>-start)
  for (let i: usize = 0; i < <usize>pixels; i += 16) {
    const at = to + (i << 2)
    const g = v128.load(green + i)
    const r = i8x16.add(i8x16.add(v128.load(red + i), g), middle)
    const b = i8x16.add(i8x16.add(v128.load(blue + i), g), middle)
    const a = alpha ? v128.load(alpha + i) : i8x16.splat(-1)
    const rgLow = v128.shuffle<u8>(r, g, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23)
    const rgHigh = v128.shuffle<u8>(r, g, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31)
    const baLow = v128.shuffle<u8>(b, a, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23)
    const baHigh = v128.shuffle<u8>(b, a, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31)
    v128.store(at, v128.shuffle<u16>(rgLow, baLow, 0, 8, 1, 9, 2, 10, 3, 11))
    v128.store(at, v128.shuffle<u16>(rgLow, baLow, 4, 12, 5, 13, 6, 14, 7, 15), 16)
    v128.store(at, v128.shuffle<u16>(rgHigh, baHigh, 0, 8, 1, 9, 2, 10, 3, 11), 32)
    v128.store(at, v128.shuffle<u16>(rgHigh, baHigh, 4, 12, 5, 13, 6, 14, 7, 15), 48)
  }
}

/**
 * What samples differ by from the median of left, above, and their sum less above-left, all as they follow on each other
 * in memory; of the first line from the left alone, of the first by `start`, and of the second line's first from above;
 * with `lines`, of every further line's first as well.
 */
export function planarDiffer(from: usize, count: i32, width: i32, to: usize, start: i32, lines: bool): void {
  const first = min(width, count)
  store<u8>(to, load<u8>(from) - <u8>start)
  for (let i: usize = 1; i < <usize>first; i++) store<u8>(to + i, load<u8>(from + i) - load<u8>(from + i - 1))
  if (count <= width) return
  const line = <usize>width
  store<u8>(to + line, load<u8>(from + line) - load<u8>(from))
  for (let i: usize = line + 1; i < <usize>count; i += 16) {
    const at = from + i
    const left = v128.load(at - 1)
    const above = v128.load(at - line)
    const sum = i8x16.sub(i8x16.add(left, above), v128.load(at - line - 1))
    const least = i8x16.min_u(left, above)
    const most = i8x16.max_u(left, above)
    v128.store(to + i, i8x16.sub(v128.load(at), i8x16.max_u(least, i8x16.min_u(most, sum))))
  }
  if (lines)
    for (let i: usize = 2 * line; i < <usize>count; i += line)
      store<u8>(to + i, load<u8>(from + i) - load<u8>(from + i - line))
}

/** Undoes `planarDiffer`, in place. */
export function planarSum(at: usize, count: i32, width: i32, start: i32, lines: bool): void {
  const first = min(width, count)
  let left = <u8>start
  for (let i: usize = 0; i < <usize>first; i++) {
    left += load<u8>(at + i)
    store<u8>(at + i, left)
  }
  if (count <= width) return
  const line = <usize>width
  let corner = load<u8>(at)
  left = load<u8>(at + line) + corner
  store<u8>(at + line, left)
  let begins: usize = 2 * line
  for (let i: usize = line + 1; i < <usize>count; i++) {
    const above = load<u8>(at + i - line)
    if (lines && i == begins) {
      begins += line
      left = above
      corner = above
    }
    const sum: u8 = left + above - corner
    const median = max(min(left, above), min(max(left, above), sum))
    left = load<u8>(at + i) + median
    corner = above
    store<u8>(at + i, left)
  }
}

const BESIDE = memory.data(1024, 16)

/** How often each of 256 values stands there, added to `counts`. */
export function planarCount(from: usize, count: i32, counts: usize): void {
  // every second one apart: a count that has just been written is slow to be read again
  memory.fill(BESIDE, 0, 1024)
  const even = <usize>count & ~1
  for (let i: usize = 0; i < even; i += 2) {
    const one = counts + ((<usize>load<u8>(from + i)) << 2)
    const other = BESIDE + ((<usize>load<u8>(from + i, 1)) << 2)
    store<u32>(one, load<u32>(one) + 1)
    store<u32>(other, load<u32>(other) + 1)
  }
  if (count & 1) {
    const last = counts + ((<usize>load<u8>(from + even)) << 2)
    store<u32>(last, load<u32>(last) + 1)
  }
  for (let i: usize = 0; i < 1024; i += 16)
    v128.store(counts + i, i32x4.add(v128.load(counts + i), v128.load(BESIDE + i)))
}

/** A word of bits, the highest first, as it lies in memory: turned round in words, as it is in bytes. */
// @ts-ignore: decorator
@inline
function laid(word: u32, words: bool): u32 {
  return words ? word : bswap<u32>(word)
}

/**
 * Writes the code of each value, the highest bit first, in little-endian `words` or in bytes; where the next word goes.
 * `codes` has 256 numbers of 64 bits: a code's bits from bit 32 on, and the code.
 */
export function planarCode(from: usize, count: i32, codes: usize, to: usize, words: bool): usize {
  let waiting: u64 = 0
  let bits: u32 = 0
  for (let i: usize = 0; i < <usize>count; i++) {
    const entry = load<u64>(codes + ((<usize>load<u8>(from + i)) << 3))
    const length = <u32>(entry >> 32)
    waiting = (waiting << <u64>length) | (entry & 0xffffffff)
    bits += length
    if (bits >= 32) {
      bits -= 32
      store<u32>(to, laid(<u32>(waiting >> <u64>bits), words))
      to += 4
    }
  }
  if (bits) {
    store<u32>(to, laid(<u32>(waiting << <u64>(32 - bits)), words))
    to += 4
  }
  return to
}

/** What twelve bits begin with: up to six values, a byte each, how many (from bit 48) and of how many bits (from 56). */
const TOGETHER = memory.data(4096 * 8, 16)

/** Fills it from `quick`, which has the first of them. */
function gather(quick: usize): void {
  for (let next: u32 = 0; next < 4096; next++) {
    let values: u64 = 0
    let many: u64 = 0
    let bits: u32 = 0
    while (many < 6) {
      const found = <u32>load<u16>(quick + ((<usize>((next << bits) & 4095)) << 1))
      const length = found >> 8
      if (!length || bits + length > 12) break
      values |= <u64>(found & 255) << (many << 3)
      many++
      bits += length
    }
    store<u64>(TOGETHER + ((<usize>next) << 3), values | (many << 48) | (<u64>bits << 56))
  }
}

/**
 * Reads values from such codes; whether their bytes hold as many, of little-endian words whole ones only. What lies
 * beyond them up to a whole word must be zero. `quick` has, for every 12 bits, a code's length times 256 and its value,
 * or 0 where it is longer: then it is sought among `long` codes of 32 bits, ascending, with their lengths and values
 * behind them. Eight bytes beyond the values may be written.
 */
export function planarDecode(
  from: usize, bytes: i32, quick: usize, long: usize, symbols: i32, to: usize, count: i32, words: bool
): bool {
  const bits = words ? <u64>(bytes >> 2) << 5 : <u64>bytes << 3
  const most = (bits + 31) >> 5
  const lengths = long + ((<usize>symbols) << 2)
  const values = lengths + <usize>symbols
  gather(quick)
  let waiting: u64 = 0
  let held: u32 = 0
  let next: u64 = 0
  const end = to + <usize>count
  while (to < end) {
    if (held < 32) {
      // beyond the end there are zeros
      const word = next < most ? <u64>laid(load<u32>(from + <usize>(next << 2)), words) : 0
      next++
      waiting |= word << <u64>(32 - held)
      held += 32
    }
    const several = load<u64>(TOGETHER + ((<usize>(waiting >> 52)) << 3))
    const many = <usize>(several >> 48) & 255
    let length: u32
    if (many && to + many <= end) {
      store<u64>(to, several)
      to += many
      length = <u32>(several >> 56)
    } else if (many) {
      // the last values are not as many
      const found = <u32>load<u16>(quick + ((<usize>(waiting >> 52)) << 1))
      store<u8>(to, <u8>found)
      to++
      length = found >> 8
    } else {
      const code = <u32>(waiting >> 32)
      let low = 0
      let high = symbols - 1
      while (low < high) {
        const middle = (low + high + 1) >> 1
        if (load<u32>(long + ((<usize>middle) << 2)) <= code) low = middle
        else high = middle - 1
      }
      length = load<u8>(lengths + <usize>low)
      store<u8>(to, load<u8>(values + <usize>low))
      to++
    }
    waiting <<= <u64>length
    held -= length
  }
  return (next << 5) - <u64>held <= bits
}
