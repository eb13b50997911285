// A zlib stream (RFC 1950) of dynamic-Huffman deflate blocks (RFC 1951). Matches are sought through short hash chains
// and taken when they are long enough, or a byte later if that is longer: fast where pictures are flat, and no slower
// where they are noise.
//
// Work area, from `work`: head 32768 u32, previous 32768 u32, tokens BLOCK u32, then the tables of huffman.ts.

import { bump, DISTANCE_FREQ, distanceSymbol, FREQUENCIES, lengthSymbol, LITERAL_FREQ, TABLES, wholeByte, writeBlock, writeTo } from './huffman'

/** Bytes of the work area. */
export const WORK: usize = 4 * 32768 + 4 * 32768 + 4 * 65536 + TABLES

const BLOCK = 65536
const WINDOW: u32 = 32768
const HASH_BITS = 15
/** Candidates tried for one match; the length that ends the search; the length from which no byte later is tried. */
const DEPTH = 4
const NICE: u32 = 64
const LAZY: u32 = 24

/** Of six bytes: shorter matches, which noise is full of, cost about what their literals do and far more time. */
// @ts-ignore: decorator
@inline
function hash(at: usize): u32 {
  return <u32>(((load<u64>(at) << 16) * 0x9e3779b97f4a7c15) >>> (64 - HASH_BITS))
}

/** Bytes alike at `a` and `b`, at most `most`. */
// @ts-ignore: decorator
@inline
function alike(a: usize, b: usize, most: u32): u32 {
  let n: u32 = 0
  while (n + 8 <= most) {
    const x = load<u64>(a + n) ^ load<u64>(b + n)
    if (x) return n + (<u32>ctz(x) >> 3)
    n += 8
  }
  while (n < most && load<u8>(a + n) == load<u8>(b + n)) n++
  return n
}

/**
 * The best match for `i`: length in the high half, distance less one in the low; 0 when there is none. Enters `i` in
 * the chains.
 */
// @ts-ignore: decorator
@inline
function seek(from: usize, i: u32, n: u32, head: usize, previous: usize, least: u32): u32 {
  const at = from + i
  const slot = head + ((<usize>hash(at)) << 2)
  let candidate = load<u32>(slot)
  store<u32>(slot, i + 1)
  store<u32>(previous + ((<usize>(i & (WINDOW - 1))) << 2), candidate)
  const most = min<u32>(258, n - i)
  let best = least
  let distance: u32 = 0
  const first = load<u32>(at)
  for (let tries = 0; tries < DEPTH && candidate != 0; tries++) {
    const j = candidate - 1
    if (i - j > WINDOW || j >= i) break
    if (load<u32>(from + j) == first && (best < 4 || load<u8>(from + j + best) == load<u8>(at + best))) {
      const length: u32 = 4 + alike(at + 4, from + j + 4, most - 4)
      if (length > best) {
        best = length
        distance = i - j
        if (length >= NICE || length >= most) break
      }
    }
    candidate = load<u32>(previous + ((<usize>(j & (WINDOW - 1))) << 2))
  }
  return distance ? (best << 16) | (distance - 1) : 0
}

// @ts-ignore: decorator
@inline
function enter(from: usize, i: u32, head: usize, previous: usize): void {
  const slot = head + ((<usize>hash(from + i)) << 2)
  store<u32>(previous + ((<usize>(i & (WINDOW - 1))) << 2), load<u32>(slot))
  store<u32>(slot, i + 1)
}

/** Adler-32 (RFC 1950), sixteen bytes a turn. */
function adler(from: usize, n: u32): u32 {
  let s1: u32 = 1
  let s2: u32 = 0
  let at: u32 = 0
  const low = i16x8(16, 15, 14, 13, 12, 11, 10, 9)
  const high = i16x8(8, 7, 6, 5, 4, 3, 2, 1)
  while (at + 16 <= n) {
    const turns = min<u32>(340, (n - at) >> 4)
    let sums = i32x4.splat(0)
    let earlier = i32x4.splat(0)
    let weighted = i32x4.splat(0)
    for (let t: u32 = 0; t < turns; t++) {
      const v = v128.load(from + at)
      const l = i16x8.extend_low_i8x16_u(v)
      const h = i16x8.extend_high_i8x16_u(v)
      earlier = i32x4.add(earlier, sums)
      sums = i32x4.add(sums, i32x4.extadd_pairwise_i16x8_u(i16x8.add(l, h)))
      weighted = i32x4.add(weighted, i32x4.add(i32x4.dot_i16x8_s(l, low), i32x4.dot_i16x8_s(h, high)))
      at += 16
    }
    s2 = <u32>((<u64>s2 + <u64>s1 * (<u64>turns << 4) + (<u64>lanes(earlier) << 4) + <u64>lanes(weighted)) % 65521)
    s1 = (s1 + lanes(sums)) % 65521
  }
  for (; at < n; at++) {
    s1 = (s1 + load<u8>(from + at)) % 65521
    s2 = (s2 + s1) % 65521
  }
  return (s2 << 16) | s1
}

// @ts-ignore: decorator
@inline
function lanes(v: v128): u32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3)
}

/**
 * Packs `n` bytes at `from` to `to`, which has room for n + n / 8 + 4096 bytes; returns the length of the stream.
 * `work` has WORK bytes. Up to 8 bytes behind the input may be read.
 */
export function zlib(from: usize, n: u32, to: usize, work: usize): u32 {
  const head = work
  const previous = work + 4 * <usize>WINDOW
  const tokens = work + 8 * <usize>WINDOW
  const tables = tokens + 4 * BLOCK
  memory.fill(head, 0, 4 * <usize>WINDOW)
  store<u16>(to, 0x9c78)
  writeTo(to + 2)
  const literalFreq = tables + LITERAL_FREQ
  const distanceFreq = tables + DISTANCE_FREQ
  const searchable: u32 = n > 8 ? n - 8 : 0
  let i: u32 = 0
  do {
    let count = 0
    let misses: u32 = 0
    memory.fill(tables, 0, FREQUENCIES)
    while (i < n && count < BLOCK - 512) {
      let match: u32 = i < searchable ? seek(from, i, n, head, previous, 3) : 0
      if (match == 0) {
        // where nothing matches for long, fewer places are tried
        const step = min<u32>(1 + (misses >> 5), min<u32>(n - i, 64))
        misses += step
        for (let s: u32 = 0; s < step; s++) {
          const byte = <u32>load<u8>(from + i + s)
          store<u32>(tokens + (<usize>(count++) << 2), byte)
          bump(literalFreq + (<usize>byte << 2))
        }
        i += step
        continue
      }
      misses = 0
      if (match >>> 16 < LAZY && i + 1 < searchable) {
        const later = seek(from, i + 1, n, head, previous, match >>> 16)
        if (later) {
          const byte = <u32>load<u8>(from + i)
          store<u32>(tokens + (<usize>(count++) << 2), byte)
          bump(literalFreq + (<usize>byte << 2))
          match = later
          i++
        }
      }
      const length = match >>> 16
      store<u32>(tokens + (<usize>(count++) << 2), match)
      bump(literalFreq + (<usize>lengthSymbol(length) << 2))
      bump(distanceFreq + (<usize>distanceSymbol((match & 65535) + 1) << 2))
      const end = i + length
      // of a long match only the last places can begin the next
      let inner = length > 32 ? end - 16 : i + 1
      for (const stop = min(end, searchable); inner < stop; inner++) enter(from, inner, head, previous)
      i = end
    }
    writeBlock(tokens, count, tables, i >= n)
  } while (i < n)
  const end = wholeByte()
  store<u32>(end, bswap<u32>(adler(from, n)))
  return <u32>(end + 4 - to)
}
