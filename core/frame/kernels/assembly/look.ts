// Looking at one frame, RGBA of 16 bits: counts by alpha, levels in use, excess, the colour under clear pixels.
// results, in f64 from `out`: 0 clear, 1 solid, 2 least, 3 most, 4 fine, 5 excess, 6 index of the first clear pixel or
// -1,
// 7 largest spread of colour under clear pixels

import { bytesOf, code, marked, markedOfFour, ownAlpha, ownAlphaOfFour, pixelAt, total, totalOfFour } from './pixels'

// @ts-ignore: decorator
@inline
function put(out: usize, place: i32, value: f64): void {
  store<f64>(out + (<usize>place << 3), value)
}

// @ts-ignore: decorator
@inline
function fine(code: u32): bool {
  return (code >> 8) != (code & 255)
}

// @ts-ignore: decorator
@inline
function got(out: usize, place: i32): f64 {
  return load<f64>(out + (<usize>place << 3))
}

/** Alpha of eight pixels. */
// @ts-ignore: decorator
@inline
function alphaOfEight(v0: v128, v1: v128, v2: v128, v3: v128): v128 {
  const low = v128.shuffle<u8>(v0, v1, 6, 7, 14, 15, 22, 23, 30, 31, 0, 0, 0, 0, 0, 0, 0, 0)
  const high = v128.shuffle<u8>(v2, v3, 6, 7, 14, 15, 22, 23, 30, 31, 0, 0, 0, 0, 0, 0, 0, 0)
  return v128.shuffle<u8>(low, high, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23)
}

/** Not zero in codes that are no 8-bit code times 257. */
// @ts-ignore: decorator
@inline
function uneven(v: v128): v128 {
  return v128.xor(v, v128.shuffle<u8>(v, v, 1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14))
}

/** -1 for each of two pixels with a colour beyond its alpha, by more than rounding to 8 bits leaves. */
// @ts-ignore: decorator
@inline
function over(v: v128): v128 {
  const beyond = i16x8.sub_sat_u(v, i16x8.add_sat_u(ownAlpha(v), i16x8.splat(257)))
  return marked(v128.and(beyond, i64x2.splat(0x0000ffffffffffff)))
}

/** The same of each of four pixels of 8 bits. */
// @ts-ignore: decorator
@inline
function overFour(v: v128): v128 {
  const beyond = i8x16.sub_sat_u(v, i8x16.add_sat_u(ownAlphaOfFour(v), i8x16.splat(1)))
  return markedOfFour(v128.and(beyond, i32x4.splat(0x00ffffff)))
}

/** How far the colours of those pixels that are clear are from those of `held`, where it is more than `most`. */
// @ts-ignore: decorator
@inline
function further<T>(most: v128, v: v128, held: v128): v128 {
  if (sizeof<T>() == 1) {
    const off = v128.or(i8x16.sub_sat_u(v, held), i8x16.sub_sat_u(held, v))
    return i8x16.max_u(most, v128.and(off, i32x4.eq(i32x4.shr_u(v, 24), i32x4.splat(0))))
  }
  const off = v128.or(i16x8.sub_sat_u(v, held), i16x8.sub_sat_u(held, v))
  return i16x8.max_u(most, v128.and(off, i16x8.eq(ownAlpha(v), i16x8.splat(0))))
}

/** A pixel in every lane, as samples of `T` hold it. */
// @ts-ignore: decorator
@inline
function inLanes<T>(p: u64): v128 {
  if (sizeof<T>() != 1) return i64x2.splat(p)
  const low = (<u32>p & 255) | ((<u32>(p >>> 16) & 255) << 8)
  const high = (<u32>(p >>> 32) & 255) | ((<u32>(p >>> 48) & 255) << 8)
  return i32x4.splat(low | (high << 16))
}

// @ts-ignore: decorator
@inline
function apart(one: u32, other: u32): u32 {
  return one > other ? one - other : other - one
}

/** Of pixels in a row each counts in a table of its own: alike ones would wait for each other. */
const TABLE: usize = 1024

// codes of the frame were of 8 bits: the counts by alpha say which levels are in use
let narrowed: bool = false

/**
 * Before the first stretch of a frame: nothing is counted. `histogram` has room for four tables, `levels` for a byte a
 * code. `was8`: all codes are those of 8 bits times 257.
 */
export function lookBegin(histogram: usize, levels: usize, out: usize, was8: bool): void {
  narrowed = was8
  memory.fill(histogram, 0, 4 * TABLE)
  memory.fill(levels, 0, 65536)
  memory.fill(out, 0, 64)
  put(out, 2, 65535)
  put(out, 6, -1)
}

/** Of samples of 8 bits the counts by alpha say which levels are in use, the lowest and the highest. */
function levelsOf8(histogram: usize, levels: usize, out: usize): void {
  let least = 65535
  let most = 0
  for (let n = 0; n < 256; n++) {
    if (!load<u32>(histogram + (<usize>n << 2))) continue
    store<u8>(levels + 257 * n, 1)
    least = min(least, 257 * n)
    most = 257 * n
  }
  put(out, 2, least)
  put(out, 3, most)
}

/** After the last stretch: one table, and a bit for each code in the first 8192 bytes at `levels`. */
export function lookEnd(histogram: usize, levels: usize, out: usize): void {
  for (let n: usize = 0; n < TABLE; n += 16) {
    const at = histogram + n
    const one = i32x4.add(v128.load(at), v128.load(at, TABLE))
    v128.store(at, i32x4.add(one, i32x4.add(v128.load(at, 2 * TABLE), v128.load(at, 3 * TABLE))))
  }
  if (narrowed) levelsOf8(histogram, levels, out)
  const zero = i8x16.splat(0)
  for (let n: usize = 0; n < 65536; n += 16)
    store<u16>(levels + (n >> 3), <u16>i8x16.bitmask(i8x16.ne(v128.load(levels + n), zero)))
}

/** Adds `pixels` of the frame at `from` that are clear and black, the first of them at `first`. */
export function lookBlank(from: usize, first: i32, pixels: i32, histogram: usize, levels: usize, out: usize): void {
  const known = <i32>got(out, 6)
  if (known >= 0) {
    const at = narrowed ? from + bytesOf<u8>(known) : from + bytesOf<u16>(known)
    const p = narrowed ? pixelAt<u8>(at) : pixelAt<u16>(at)
    const most = <f64>max(p & 65535, max((p >>> 16) & 65535, (p >>> 32) & 65535))
    if (most > got(out, 7)) put(out, 7, most)
  }
  put(out, 0, got(out, 0) + <f64>pixels)
  put(out, 2, 0)
  if (got(out, 6) < 0) put(out, 6, <f64>first)
  store<u32>(histogram, load<u32>(histogram) + pixels)
  store<u8>(levels, 1)
}

/**
 * Adds one to the count by alpha of the pixel at place `n` of eight, in a table that its neighbours do not wait for.
 */
// @ts-ignore: decorator
@inline
function countAlpha(histogram: usize, n: usize, bin: usize): void {
  const at = histogram + (n & 3) * TABLE + (bin << 2)
  store<u32>(at, load<u32>(at) + 1)
}

function addPixels<T>(from: usize, first: i32, end: i32, histogram: usize, levels: usize, out: usize): void {
  const narrow = sizeof<T>() == 1
  let clear = <i32>got(out, 0)
  let solid = <i32>got(out, 1)
  let least = <u32>got(out, 2)
  let most = <u32>got(out, 3)
  let deep = <i32>got(out, 4)
  let excess = <i32>got(out, 5)
  let firstClear = <i32>got(out, 6)
  let spread = <u32>got(out, 7)
  // the first clear pixel of all, which others are held against: once, and in every lane
  let known: u64 = firstClear < 0 ? 0 : pixelAt<T>(from + bytesOf<T>(firstClear))
  let held = inLanes<T>(known)
  let farthest = i64x2.splat(0)
  // pixels of runs that are clear and black
  let blackRuns = 0
  let overs = i64x2.splat(0)
  let unevens = i64x2.splat(0)
  let scalars = 0
  let lows = i16x8.splat(-1)
  let highs = i16x8.splat(0)
  for (let i = first; i < end; i++) {
    // eight at a time, once the first clear one of all is known; what follows looks at single ones
    while (scalars == 0 && i + 8 <= end) {
      const at = from + bytesOf<T>(i)
      const v0 = v128.load(at)
      const v1 = v128.load(at, 16)
      // the second half of eight pixels of 16 bits
      const v2 = narrow ? v0 : v128.load(at, 32)
      const v3 = narrow ? v1 : v128.load(at, 48)
      if (firstClear >= 0 && known == 0 && !v128.any_true(v128.or(v128.or(v0, v1), v128.or(v2, v3)))) {
        i += 8
        blackRuns += 8
        continue
      }
      let none = 0
      let full = 0
      let even = false
      if (narrow) {
        const low = i32x4.shr_u(v0, 24)
        const high = i32x4.shr_u(v1, 24)
        const zero = i32x4.splat(0)
        const whole = i32x4.splat(255)
        none = i32x4.bitmask(i32x4.eq(low, zero)) | (i32x4.bitmask(i32x4.eq(high, zero)) << 4)
        full = i32x4.bitmask(i32x4.eq(low, whole)) | (i32x4.bitmask(i32x4.eq(high, whole)) << 4)
        even = i32x4.all_true(v128.and(i32x4.eq(low, high), i32x4.eq(low, i32x4.splat(i32x4.extract_lane(low, 0)))))
      } else {
        const alphas = alphaOfEight(v0, v1, v2, v3)
        none = i16x8.bitmask(i16x8.eq(alphas, i16x8.splat(0)))
        full = i16x8.bitmask(i16x8.eq(alphas, i16x8.splat(-1)))
        even = i16x8.all_true(i16x8.eq(alphas, i16x8.splat(<i16>i16x8.extract_lane_u(alphas, 0))))
        lows = i16x8.min_u(lows, alphas)
        highs = i16x8.max_u(highs, alphas)
      }
      if (none != 0) {
        if (firstClear < 0) {
          scalars = 8
          break
        }
        farthest = further<T>(further<T>(farthest, v0, held), v1, held)
        if (!narrow) farthest = further<T>(further<T>(farthest, v2, held), v3, held)
        const counted = popcnt(none)
        clear += counted
        store<u32>(histogram, load<u32>(histogram) + counted)
      }
      if (full != 0) {
        const counted = popcnt(full)
        solid += counted
        store<u32>(histogram, load<u32>(histogram, 255 * 4) + counted, 255 * 4)
        store<u8>(levels + 65535, 1)
      }
      let between = 255 & ~(none | full)
      if (between == 255 && even) {
        const a = code<T>(at, 3)
        const bin = histogram + ((<usize>(a >> 8)) << 2)
        store<u32>(bin, load<u32>(bin) + 8)
        store<u8>(levels + a, 1)
      } else for (; between != 0; between &= between - 1) {
        const n = <usize>ctz(between)
        if (narrow) countAlpha(histogram, n, load<u8>(at + (n << 2), 3))
        else {
          const a = <usize>load<u16>(at + (n << 3), 6)
          countAlpha(histogram, n, a >> 8)
          store<u8>(levels + a, 1)
        }
      }
      if (full != 255) {
        if (narrow) overs = i32x4.add(overs, i32x4.add(overFour(v0), overFour(v1)))
        else overs = i64x2.add(overs, i64x2.add(i64x2.add(over(v0), over(v1)), i64x2.add(over(v2), over(v3))))
      }
      if (!narrow) {
        const fines = i64x2.add(marked(uneven(v0)), marked(uneven(v1)))
        unevens = i64x2.add(unevens, i64x2.add(fines, i64x2.add(marked(uneven(v2)), marked(uneven(v3)))))
      }
      i += 8
    }
    if (i >= end) break
    if (scalars > 0) scalars--
    const p = pixelAt<T>(from + bytesOf<T>(i))
    const r = <u32>(p & 65535)
    const g = <u32>((p >>> 16) & 65535)
    const b = <u32>((p >>> 32) & 65535)
    const a = <u32>(p >>> 48)
    const bin = histogram + ((<usize>(a >> 8)) << 2)
    store<u32>(bin, load<u32>(bin) + 1)
    store<u8>(levels + a, 1)
    if (a < least) least = a
    if (a > most) most = a
    if (a == 65535) solid++
    else if (r > a + 257 || g > a + 257 || b > a + 257) excess++
    if (!narrow && (fine(a) || fine(r) || fine(g) || fine(b))) deep++
    if (a != 0) continue
    clear++
    if (firstClear < 0) {
      firstClear = i
      known = p
      held = inLanes<T>(p)
    } else {
      const dr = apart(r, <u32>(known & 65535))
      const dg = apart(g, <u32>((known >>> 16) & 65535))
      const db = apart(b, <u32>((known >>> 32) & 65535))
      spread = max(spread, max(dr, max(dg, db)))
    }
  }
  excess -= narrow ? totalOfFour(overs) : total(overs)
  deep -= total(unevens)
  clear += blackRuns
  store<u32>(histogram, load<u32>(histogram) + blackRuns)
  if (clear) {
    store<u8>(levels, 1)
    least = 0
  }
  if (solid) most = 65535
  for (let n: usize = 0; n < 16; n += 2) {
    if (!narrow) {
      store<v128>(out + 80, lows)
      least = min<u32>(least, load<u16>(out + 80 + n))
      store<v128>(out + 80, highs)
      most = max<u32>(most, load<u16>(out + 80 + n))
    }
    store<v128>(out + 80, farthest)
    const pair = <u32>load<u16>(out + 80 + n)
    spread = max<u32>(spread, narrow ? 257 * max(pair & 255, pair >> 8) : pair)
  }
  put(out, 0, clear)
  put(out, 1, solid)
  put(out, 2, least)
  put(out, 3, most)
  put(out, 4, deep)
  put(out, 5, excess)
  put(out, 6, firstClear)
  put(out, 7, spread)
}

/**
 * Adds pixels `first` to `end` of the frame at `from`, of as many bits as were told before the first stretch, to what
 * was counted of those before them.
 */
export function look(from: usize, first: i32, end: i32, histogram: usize, levels: usize, out: usize): void {
  if (narrowed) addPixels<u8>(from, first, end, histogram, levels, out)
  else addPixels<u16>(from, first, end, histogram, levels, out)
}

/** Whether all of `bytes` are zero. */
export function isBlank(from: usize, bytes: i32): bool {
  let i = 0
  for (; i + 64 <= bytes; i += 64) {
    const at = from + i
    const one = v128.or(v128.load(at), v128.load(at, 16))
    if (v128.any_true(v128.or(one, v128.or(v128.load(at, 32), v128.load(at, 48))))) return false
  }
  for (; i < bytes; i++) if (load<u8>(from + i)) return false
  return true
}

/** Pixels, of as many bits as were told, whose four codes are exactly those of `wanted`, which has 16. */
export function countSame(from: usize, pixels: i32, wanted: u64): i32 {
  if (!narrowed) return samePixels<u16>(from, pixels, i64x2.splat(wanted), wanted)
  const bytes = wanted & 0x00ff00ff00ff00ff
  // a colour between two codes of 8 bits is none that such samples hold
  return bytes * 257 == wanted ? samePixels<u8>(from, pixels, inLanes<u8>(wanted), wanted) : 0
}

function samePixels<T>(from: usize, pixels: i32, every: v128, wanted: u64): i32 {
  const narrow = sizeof<T>() == 1
  const together = narrow ? 8 : 4
  let lanes = i64x2.splat(0)
  let i = 0
  for (; i + together <= pixels; i += together) {
    const at = from + bytesOf<T>(i)
    const one = v128.load(at)
    const other = v128.load(at, 16)
    lanes = narrow
      ? i32x4.sub(lanes, i32x4.add(i32x4.eq(one, every), i32x4.eq(other, every)))
      : i64x2.sub(lanes, i64x2.add(i64x2.eq(one, every), i64x2.eq(other, every)))
  }
  let count = narrow ? totalOfFour(lanes) : total(lanes)
  for (; i < pixels; i++) if (pixelAt<T>(from + bytesOf<T>(i)) == wanted) count++
  return count
}

/** 8-bit codes to 16: code * 257. `codes` is rounded up to sixteen; the caller keeps that much room. */
export function widen(from: usize, to: usize, codes: i32): void {
  for (let i = 0; i < codes; i += 16) {
    const bytes = v128.load(from + i)
    v128.store(to + 2 * i, v128.shuffle<u8>(bytes, bytes, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7))
    v128.store(to + 2 * i, v128.shuffle<u8>(bytes, bytes, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13, 14, 14, 15, 15), 16)
  }
}

/** 16-bit codes to 8, rounded to nearest: floor((code + 128) / 257), as t - (t >> 8) >> 8 with t = code + 128. */
export function narrow(from: usize, to: usize, codes: i32): void {
  const round = i16x8.splat(128)
  for (let i = 0; i < codes; i += 16) {
    // saturating: the last codes would run over, and all of them become 255
    const low = i16x8.add_sat_u(v128.load(from + 2 * i), round)
    const high = i16x8.add_sat_u(v128.load(from + 2 * i, 16), round)
    v128.store(to + i, i8x16.narrow_i16x8_u(i16x8.shr_u(i16x8.sub(low, i16x8.shr_u(low, 8)), 8), i16x8.shr_u(i16x8.sub(high, i16x8.shr_u(high, 8)), 8)))
  }
}
