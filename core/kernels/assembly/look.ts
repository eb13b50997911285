// Looking at one frame, RGBA of 16 bits: counts by alpha, levels in use, excess, the colour under clear pixels.
// results, in f64 from `out`: 0 clear, 1 solid, 2 least, 3 most, 4 fine, 5 excess, 6 index of the first clear pixel or
// -1,
// 7 largest spread of colour under clear pixels

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
export function alphaOfEight(v0: v128, v1: v128, v2: v128, v3: v128): v128 {
  const low = v128.shuffle<u8>(v0, v1, 6, 7, 14, 15, 22, 23, 30, 31, 0, 0, 0, 0, 0, 0, 0, 0)
  const high = v128.shuffle<u8>(v2, v3, 6, 7, 14, 15, 22, 23, 30, 31, 0, 0, 0, 0, 0, 0, 0, 0)
  return v128.shuffle<u8>(low, high, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23)
}

/** -1 for each of two pixels that is not all zero. */
// @ts-ignore: decorator
@inline
export function marked(pixels: v128): v128 {
  return i64x2.ne(pixels, i64x2.splat(0))
}

// @ts-ignore: decorator
@inline
export function total(pair: v128): i32 {
  return <i32>(i64x2.extract_lane(pair, 0) + i64x2.extract_lane(pair, 1))
}

/** Not zero in codes that are no 8-bit code times 257. */
// @ts-ignore: decorator
@inline
function uneven(v: v128): v128 {
  return v128.xor(v, v128.shuffle<u8>(v, v, 1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14))
}

/** Each of two pixels' own alpha in all of its places. */
// @ts-ignore: decorator
@inline
function ownAlpha(v: v128): v128 {
  return v128.shuffle<u8>(v, v, 6, 7, 6, 7, 6, 7, 6, 7, 14, 15, 14, 15, 14, 15, 14, 15)
}

/** -1 for each of two pixels with a colour beyond its alpha, by more than rounding to 8 bits leaves. */
// @ts-ignore: decorator
@inline
function over(v: v128): v128 {
  return marked(v128.and(i16x8.sub_sat_u(v, i16x8.add_sat_u(ownAlpha(v), i16x8.splat(257))), i64x2.splat(0x0000ffffffffffff)))
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

/** After the last stretch: one table, and a bit for each code in the first 8192 bytes at `levels`. */
export function lookEnd(histogram: usize, levels: usize): void {
  for (let n: usize = 0; n < TABLE; n += 16) {
    const at = histogram + n
    const one = i32x4.add(v128.load(at), v128.load(at, TABLE))
    v128.store(at, i32x4.add(one, i32x4.add(v128.load(at, 2 * TABLE), v128.load(at, 3 * TABLE))))
  }
  if (narrowed) for (let n = 1; n < 256; n++) if (load<u32>(histogram + (<usize>n << 2))) store<u8>(levels + 257 * n, 1)
  const zero = i8x16.splat(0)
  for (let n: usize = 0; n < 65536; n += 16)
    store<u16>(levels + (n >> 3), <u16>i8x16.bitmask(i8x16.ne(v128.load(levels + n), zero)))
}

/** Adds `pixels` of the frame at `from` that are clear and black, the first of them at `first`. */
export function lookBlank(from: usize, first: i32, pixels: i32, histogram: usize, levels: usize, out: usize): void {
  const known = <i32>got(out, 6)
  if (known >= 0) {
    const at = from + ((<usize>known) << 3)
    const most = max(load<u16>(at), max(load<u16>(at, 2), load<u16>(at, 4)))
    if (<f64>most > got(out, 7)) put(out, 7, <f64>most)
  }
  put(out, 0, got(out, 0) + <f64>pixels)
  put(out, 2, 0)
  if (got(out, 6) < 0) put(out, 6, <f64>first)
  store<u32>(histogram, load<u32>(histogram) + pixels)
  store<u8>(levels, 1)
}

/** Adds pixels `first` to `end` of the frame at `from` to what was counted of those before them. */
export function look(from: usize, first: i32, end: i32, histogram: usize, levels: usize, out: usize): void {
  const pixels = end
  let clear = <i32>got(out, 0)
  let solid = <i32>got(out, 1)
  let least = <u32>got(out, 2)
  let most = <u32>got(out, 3)
  let deep = <i32>got(out, 4)
  let excess = <i32>got(out, 5)
  let firstClear = <i32>got(out, 6)
  let spread = <u32>got(out, 7)
  let cr: u32 = 0
  let cg: u32 = 0
  let cb: u32 = 0
  if (firstClear >= 0) {
    const known = load<u64>(from + ((<usize>firstClear) << 3))
    cr = <u32>(known & 65535)
    cg = <u32>((known >>> 16) & 65535)
    cb = <u32>((known >>> 32) & 65535)
  }
  // pixels of runs that are clear and black
  let blackRuns = 0
  const solids = i16x8.splat(-1)
  const eight = narrowed
  let overs = i64x2.splat(0)
  let unevens = i64x2.splat(0)
  let scalars = 0
  let lows = i16x8.splat(-1)
  let highs = i16x8.splat(0)
  for (let i = first; i < pixels; i++) {
    // eight at a time where they are alike in what matters: all clear and black (once the first clear one is known to
    // be so), or none clear; what follows looks at single ones
    while (scalars == 0 && i + 8 <= pixels) {
      const at = from + ((<usize>i) << 3)
      const v0 = v128.load(at)
      const v1 = v128.load(at, 16)
      const v2 = v128.load(at, 32)
      const v3 = v128.load(at, 48)
      if (firstClear >= 0 && (cr | cg | cb) == 0 && !v128.any_true(v128.or(v128.or(v0, v1), v128.or(v2, v3)))) {
        i += 8
        blackRuns += 8
        continue
      }
      const alphas = alphaOfEight(v0, v1, v2, v3)
      if (!i16x8.all_true(alphas)) {
        // clear ones among them are like the rest if all of them are black, as the first of all was
        const zero = i64x2.splat(0)
        const blank = i64x2.add(
          i64x2.add(i64x2.eq(v0, zero), i64x2.eq(v1, zero)),
          i64x2.add(i64x2.eq(v2, zero), i64x2.eq(v3, zero))
        )
        const black = -total(blank)
        if (firstClear < 0 || (cr | cg | cb) != 0 || black != popcnt(i16x8.bitmask(i16x8.eq(alphas, zero)))) {
          scalars = 8
          break
        }
        clear += black
      }
      if (i16x8.all_true(i16x8.eq(alphas, solids))) {
        const bin = histogram + 255 * 4
        store<u32>(bin, load<u32>(bin) + 8)
        store<u8>(levels + 65535, 1)
        solid += 8
        most = 65535
      } else {
        const first = <u32>i16x8.extract_lane_u(alphas, 0)
        if (i16x8.all_true(i16x8.eq(alphas, i16x8.splat(<i16>first)))) {
          const bin = histogram + ((<usize>(first >> 8)) << 2)
          store<u32>(bin, load<u32>(bin) + 8)
          store<u8>(levels + first, 1)
        } else if (eight) {
          for (let n = 0; n < 8; n++) {
            const a = <usize>load<u8>(at + ((<usize>n) << 3), 6)
            const bin = histogram + ((<usize>(n & 3)) << 10) + (a << 2)
            store<u32>(bin, load<u32>(bin) + 1)
          }
        } else for (let n = 0; n < 8; n++) {
          const a = <u32>load<u16>(at + ((<usize>n) << 3), 6)
          const bin = histogram + ((<usize>(n & 3)) << 10) + ((<usize>(a >> 8)) << 2)
          store<u32>(bin, load<u32>(bin) + 1)
          store<u8>(levels + a, 1)
        }
        solid += popcnt(i16x8.bitmask(i16x8.eq(alphas, solids)))
        lows = i16x8.min_u(lows, alphas)
        highs = i16x8.max_u(highs, alphas)
        overs = i64x2.add(overs, i64x2.add(i64x2.add(over(v0), over(v1)), i64x2.add(over(v2), over(v3))))
      }
      if (!eight) {
        const low = i64x2.add(marked(uneven(v0)), marked(uneven(v1)))
        unevens = i64x2.add(unevens, i64x2.add(low, i64x2.add(marked(uneven(v2)), marked(uneven(v3)))))
      }
      i += 8
    }
    if (i >= pixels) break
    if (scalars > 0) scalars--
    const p = load<u64>(from + ((<usize>i) << 3))
    const r = <u32>(p & 65535)
    const g = <u32>((p >>> 16) & 65535)
    const b = <u32>((p >>> 32) & 65535)
    const a = <u32>(p >>> 48)
    const bin = histogram + ((<usize>(a >> 8)) << 2)
    store<u32>(bin, load<u32>(bin) + 1)
    if (a == 0) {
      least = 0
      clear++
      if (firstClear < 0) {
        firstClear = i
        cr = r
        cg = g
        cb = b
      } else if (r != cr || g != cg || b != cb) {
        const dr = r > cr ? r - cr : cr - r
        const dg = g > cg ? g - cg : cg - g
        const db = b > cb ? b - cb : cb - b
        spread = max(spread, max(dr, max(dg, db)))
      }
      if (r > 257 || g > 257 || b > 257) excess++
      if (p != 0 && (fine(r) || fine(g) || fine(b))) deep++
      continue
    }
    if (a < least) least = a
    if (a > most) most = a
    store<u8>(levels + a, 1)
    if (a == 65535) solid++
    else {
      if (r > a + 257 || g > a + 257 || b > a + 257) excess++
    }
    if (fine(a) || fine(r) || fine(g) || fine(b)) deep++
  }
  excess -= total(overs)
  deep -= total(unevens)
  clear += blackRuns
  store<u32>(histogram, load<u32>(histogram) + blackRuns)
  if (clear) {
    store<u8>(levels, 1)
    least = 0
  }
  for (let n: usize = 0; n < 16; n += 2) {
    store<v128>(out + 80, lows)
    least = min<u32>(least, load<u16>(out + 80 + n))
    store<v128>(out + 80, highs)
    most = max<u32>(most, load<u16>(out + 80 + n))
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

/** Pixels whose four codes are exactly those of `wanted`. */
export function countSame(from: usize, pixels: i32, wanted: u64): i32 {
  let pairs = i64x2.splat(0)
  const both = i64x2.splat(wanted)
  let i = 0
  for (; i + 4 <= pixels; i += 4) {
    const at = from + ((<usize>i) << 3)
    pairs = i64x2.add(pairs, i64x2.add(i64x2.eq(v128.load(at), both), i64x2.eq(v128.load(at, 16), both)))
  }
  let count = -total(pairs)
  for (; i < pixels; i++) if (load<u64>(from + ((<usize>i) << 3)) == wanted) count++
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

/** The same of `pixels` of RGBA, and their alpha by itself at `plane`; writes up to eight bytes beyond its last. */
export function widenApart(from: usize, to: usize, plane: usize, pixels: i32): void {
  for (let i = 0; i < pixels; i += 4) {
    const bytes = v128.load(from)
    v128.store(to, v128.shuffle<u8>(bytes, bytes, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7))
    v128.store(to, v128.shuffle<u8>(bytes, bytes, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13, 14, 14, 15, 15), 16)
    const alpha = v128.shuffle<u8>(bytes, bytes, 3, 3, 7, 7, 11, 11, 15, 15, 3, 3, 7, 7, 11, 11, 15, 15)
    store<u64>(plane, i64x2.extract_lane(alpha, 0))
    from += 16
    to += 32
    plane += 8
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
