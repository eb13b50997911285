// One delivered frame against the one due, both RGBA of 16 bits: codes counted, colour compared as it is seen over five
// backdrops. The caller goes through the frames in bands of rows that stay in the cache, lays out a block of
// parameters, and adds up the results of all bands (see wasm-compare.ts, which names each place).

import { labOfLight, squaredDifference, toLab } from './difference'

// How samples are stored: 0 straight, 1 premultiplied on a matte, 2 without alpha.
// block, in f32 from `block`: 0 mode e, 1..3 matte e; 4 mode f, 5..7 matte f; 8..10 the backdrop opposite the picture's
// mean, all in codes
// results, in f64 from `out`: 0 changed, 1 changed under clear, 2 alpha max, 3 alpha sum, 4 alpha squares, 5 alpha
// changed, 6 clear lost,
// 7 solid lost, 8 clear, 9 solid, 10 found least, 11 found most, 12 colour max, 13 colour sum, 14 visible, 15 edge max,
// 16 edge sum, 17 edge pixels,
// 18 and 19 pixels of the first and second frame with a code that is none of 8 bits

// Room for the L*a*b* of both frames: six vectors.
const labs = memory.data(96, 16)

// @ts-ignore: decorator
@inline
function put(out: usize, place: i32, value: f64): void {
  store<f64>(out + (<usize>place << 3), value)
}

/** Whether four pixels are all clear or all solid. */
// @ts-ignore: decorator
@inline
function isFlat(p: usize): bool {
  const a0 = <u32>load<u16>(p, 6)
  const a1 = <u32>load<u16>(p, 14)
  const a2 = <u32>load<u16>(p, 22)
  const a3 = <u32>load<u16>(p, 30)
  return (a0 | a1 | a2 | a3) == 0 || (a0 & a1 & a2 & a3) == 65535
}

/** Whether eight pixels, two a vector, are all solid. */
// @ts-ignore: decorator
@inline
function areSolid(p: v128, q: v128, r: v128, s: v128): bool {
  return i16x8.all_true(v128.or(i16x8.eq(v128.and(v128.and(p, q), v128.and(r, s)), i16x8.splat(-1)), i64x2.splat(0x0000ffffffffffff)))
}

/** How many of two pixels have a code that is none of 8 bits: an 8-bit code brought to 16 has the same byte twice. */
// @ts-ignore: decorator
@inline
function finePair(p: v128): i32 {
  const off = v128.and(v128.xor(p, i16x8.shr_u(p, 8)), i16x8.splat(0xff))
  return 2 - popcnt(i64x2.bitmask(i64x2.eq(off, i64x2.splat(0))))
}

/**
 * Marks, in `map`, pixels within two of partial alpha, and returns how many; `map` takes a byte a pixel of the band,
 * which begins at `e` and has `above` and `below` more rows about it; `rows` takes a byte a pixel of all these.
 */
export function markEdges(e: usize, rows: usize, map: usize, width: i32, height: i32, above: i32, below: i32): i32 {
  const all = above + height + below
  memory.fill(rows, 0, <usize>(all * width))
  for (let y = 0; y < all; y++) {
    const row = rows + y * width
    const line = e + ((<isize>((y - above) * width)) << 3)
    for (let x = 0; x < width; x++) {
      // most pixels are clear or solid, and so are their neighbours
      while (x + 4 <= width && isFlat(line + ((<usize>x) << 3))) x += 4
      if (x >= width) break
      const a = <u32>load<u16>(line + ((<usize>x) << 3), 6)
      if (a != 0 && a != 65535) {
        const to = min(width - 1, x + 2)
        for (let u = max(0, x - 2); u <= to; u++) store<u8>(row + u, 1)
      }
    }
  }
  let pixels = 0
  for (let y = 0; y < height; y++) {
    const to = map + y * width
    const last = min(all - 1, above + y + 2)
    const first = max(0, above + y - 2)
    let x = 0
    for (; x + 16 <= width; x += 16) {
      let any = i8x16.splat(0)
      for (let v = first; v <= last; v++) any = v128.or(any, v128.load(rows + v * width + x))
      v128.store(to + x, any)
      pixels += popcnt(i8x16.bitmask(i8x16.ne(any, i8x16.splat(0))))
    }
    for (; x < width; x++) {
      let any: u8 = 0
      for (let v = first; v <= last; v++) any |= load<u8>(rows + v * width + x)
      store<u8>(to + x, any)
      pixels += any
    }
  }
  return pixels
}

// @ts-ignore: decorator
@inline
function count32(at: usize): void {
  store<u32>(at, load<u32>(at) + 1)
}

// @ts-ignore: decorator
@inline
function pixel(at: usize): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.load64_zero(at)))
}

// @ts-ignore: decorator
@inline
function premultiplied(c: v128, a: v128, rest: v128, mode: f32, matte: f32): v128 {
  if (mode == 0) return f32x4.mul(c, a)
  if (mode == 1) return f32x4.sub(c, f32x4.mul(rest, f32x4.splat(matte)))
  return c
}

/** Linear light of the codes at four places. */
// @ts-ignore: decorator
@inline
function lightOfFour(p0: usize, p1: usize, p2: usize, p3: usize, table: usize): v128 {
  let value = v128.load32_zero(table + ((<usize>load<u16>(p0)) << 2))
  value = v128.load32_lane(table + ((<usize>load<u16>(p1)) << 2), value, 1)
  value = v128.load32_lane(table + ((<usize>load<u16>(p2)) << 2), value, 2)
  return v128.load32_lane(table + ((<usize>load<u16>(p3)) << 2), value, 3)
}

/** L*a*b* of four pixels of frame `f` as their codes stand, at `out`. */
// @ts-ignore: decorator
@inline
function labOfCodes(f: usize, i0: u32, i1: u32, i2: u32, i3: u32, table: usize, out: usize): void {
  const p0 = f + ((<usize>i0) << 3)
  const p1 = f + ((<usize>i1) << 3)
  const p2 = f + ((<usize>i2) << 3)
  const p3 = f + ((<usize>i3) << 3)
  labOfLight(lightOfFour(p0, p1, p2, p3, table), lightOfFour(p0 + 2, p1 + 2, p2 + 2, p3 + 2, table), lightOfFour(p0 + 4, p1 + 4, p2 + 4, p3 + 4, table), out)
}

/**
 * Difference of four pixels that are solid in both frames: every backdrop shows the same, and codes are colour in every
 * mode.
 */
function differenceOfSolids(e: usize, f: usize, i0: u32, i1: u32, i2: u32, i3: u32, table: usize): v128 {
  labOfCodes(e, i0, i1, i2, i3, table, labs)
  labOfCodes(f, i0, i1, i2, i3, table, labs + 48)
  return f32x4.sqrt(squaredDifference(labs, labs + 48))
}

// Four pixels of a frame made ready for backdrops: red, green and blue premultiplied on black, and what the backdrop
// adds.
const readyDue = memory.data(64, 16)
const readyFound = memory.data(64, 16)

/** `how`: mode and matte of the frame; see the head of the file. */
function makeReady(f: usize, i0: u32, i1: u32, i2: u32, i3: u32, how: usize, ready: usize): void {
  const p0 = pixel(f + ((<usize>i0) << 3))
  const p1 = pixel(f + ((<usize>i1) << 3))
  const p2 = pixel(f + ((<usize>i2) << 3))
  const p3 = pixel(f + ((<usize>i3) << 3))
  const t0 = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5)
  const t1 = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5)
  const t2 = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7)
  const t3 = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7)
  const mode = load<f32>(how)
  const one = f32x4.splat(1)
  const a = mode == 2 ? one : f32x4.mul(v128.shuffle<f32>(t2, t3, 2, 3, 6, 7), f32x4.splat(1.0 / 65535.0))
  const rest = f32x4.sub(one, a)
  v128.store(ready, premultiplied(v128.shuffle<f32>(t0, t1, 0, 1, 4, 5), a, rest, mode, load<f32>(how, 4)))
  v128.store(ready, premultiplied(v128.shuffle<f32>(t0, t1, 2, 3, 6, 7), a, rest, mode, load<f32>(how, 8)), 16)
  v128.store(ready, premultiplied(v128.shuffle<f32>(t2, t3, 0, 1, 4, 5), a, rest, mode, load<f32>(how, 12)), 32)
  v128.store(ready, rest, 48)
}

// @ts-ignore: decorator
@inline
function labOver(ready: usize, r: v128, g: v128, b: v128, table: usize, clamps: bool, out: usize): void {
  const rest = v128.load(ready, 48)
  toLab(f32x4.add(v128.load(ready), f32x4.mul(rest, r)), f32x4.add(v128.load(ready, 16), f32x4.mul(rest, g)), f32x4.add(v128.load(ready, 32), f32x4.mul(rest, b)), table, clamps, out)
}

/**
 * Square of the difference of four pixels made ready, over one backdrop. Only what was premultiplied can lie beyond
 * black and white.
 */
function squaredOver(r: v128, g: v128, b: v128, table: usize, clamps: bool): v128 {
  if (clamps) {
    labOver(readyDue, r, g, b, table, true, labs)
    labOver(readyFound, r, g, b, table, true, labs + 48)
  } else {
    labOver(readyDue, r, g, b, table, false, labs)
    labOver(readyFound, r, g, b, table, false, labs + 48)
  }
  return squaredDifference(labs, labs + 48)
}

/** Largest difference of four pixels over the five backdrops. */
function differenceOverBackdrops(e: usize, f: usize, i0: u32, i1: u32, i2: u32, i3: u32, block: usize, waves: usize, width: i32, height: i32, top: i32, table: usize): v128 {
  makeReady(e, i0, i1, i2, i3, block, readyDue)
  makeReady(f, i0, i1, i2, i3, block + 16, readyFound)
  const black = f32x4.splat(0)
  const white = f32x4.splat(65535)
  const grey = f32x4.splat(32767.5)
  const clamps = load<f32>(block) == 1 || load<f32>(block, 16) == 1
  let worst = squaredOver(black, black, black, table, clamps)
  worst = f32x4.pmax(worst, squaredOver(white, white, white, table, clamps))
  worst = f32x4.pmax(worst, squaredOver(grey, grey, grey, table, clamps))
  worst = f32x4.pmax(worst, squaredOver(v128.load32_splat(block, 32), v128.load32_splat(block, 36), v128.load32_splat(block, 40), table, clamps))
  // the picture backdrop: 1/2 and a wave of x times a wave of y, from tables of three channels each
  const y0 = i0 / <u32>width
  const y1 = i1 / <u32>width
  const y2 = i2 / <u32>width
  const y3 = i3 / <u32>width
  const across = i32x4(i0 - y0 * width, i1 - y1 * width, i2 - y2 * width, i3 - y3 * width)
  const down = i32x4.add(i32x4(y0, y1, y2, y3), i32x4.splat(top))
  const alongY = waves + ((<usize>width * 3) << 2)
  const r = f32x4.add(grey, f32x4.mul(floatsAt(waves, across), floatsAt(alongY, down)))
  const g = f32x4.add(grey, f32x4.mul(floatsAt(waves + ((<usize>width) << 2), across), floatsAt(alongY + ((<usize>height) << 2), down)))
  const b = f32x4.add(grey, f32x4.mul(floatsAt(waves + ((<usize>width) << 3), across), floatsAt(alongY + ((<usize>height) << 3), down)))
  return f32x4.sqrt(f32x4.pmax(worst, squaredOver(r, g, b, table, clamps)))
}

// @ts-ignore: decorator
@inline
function floatsAt(table: usize, at: v128): v128 {
  let value = v128.load32_zero(table + ((<usize>i32x4.extract_lane(at, 0)) << 2))
  value = v128.load32_lane(table + ((<usize>i32x4.extract_lane(at, 1)) << 2), value, 1)
  value = v128.load32_lane(table + ((<usize>i32x4.extract_lane(at, 2)) << 2), value, 2)
  return v128.load32_lane(table + ((<usize>i32x4.extract_lane(at, 3)) << 2), value, 3)
}

/**
 * Compares a band of `height` rows, the first of them row `top` of pictures `whole` rows high; of the first frame,
 * `above` and `below` more rows lie about the band. `list` takes 4 bytes a pixel of the band; `map` and `rows` as for
 * `markEdges`; `bins` 1001 u32 and `levels` 2 * 256 u32, for the alpha of either frame, are added to; `waves` holds the
 * tables of the picture backdrop. Returns whether edges were counted, which they are when colour differs.
 */
export function compare(e: usize, f: usize, width: i32, height: i32, top: i32, whole: i32, above: i32, below: i32, block: usize, out: usize, bins: usize, list: usize, rows: usize, map: usize, waves: usize, table: usize, levels: usize): bool {
  const pixels = width * height
  // colour under clear pixels has a meaning unless both frames are straight
  const clearMatters = load<f32>(block) != 0 || load<f32>(block, 16) != 0
  let changed = 0
  let under = 0
  let alphaMax: u32 = 0
  let alphaSum: f64 = 0
  let alphaSquares: f64 = 0
  let alphaChanged = 0
  let clearLost = 0
  let solidLost = 0
  let clear = 0
  let solid = 0
  let least: u32 = 65535
  let most: u32 = 0
  let visible = 0
  let front = 0
  let back = pixels
  let fineDue = 0
  let fineFound = 0
  // pixels of runs that are black and clear in both frames, or solid in both
  let clearRuns = 0
  let solidRuns = 0
  for (let i = 0; i < pixels; i++) {
    while (i + 4 <= pixels) {
      const at = (<usize>i) << 3
      const e0 = v128.load(e + at)
      const e1 = v128.load(e + at, 16)
      const f0 = v128.load(f + at)
      const f1 = v128.load(f + at, 16)
      if (!v128.any_true(v128.or(v128.or(e0, e1), v128.or(f0, f1)))) clearRuns += 4
      else if (areSolid(e0, e1, f0, f1)) {
        solidRuns += 4
        fineDue += finePair(e0) + finePair(e1)
        fineFound += finePair(f0) + finePair(f1)
        const same = i64x2.bitmask(i64x2.eq(e0, f0)) | (i64x2.bitmask(i64x2.eq(e1, f1)) << 2)
        if (same == 0) {
          v128.store(list + ((<usize>front) << 2), i32x4.add(i32x4.splat(i), i32x4(0, 1, 2, 3)))
          front += 4
          changed += 4
        } else if (same != 15) {
          for (let lane = 0; lane < 4; lane++) {
            if (same & (1 << lane)) continue
            store<u32>(list + ((<usize>front) << 2), i + lane)
            front++
            changed++
          }
        }
      } else break
      i += 4
    }
    if (i >= pixels) break
    const pe = load<u64>(e + ((<usize>i) << 3))
    const pf = load<u64>(f + ((<usize>i) << 3))
    const ae = <u32>(pe >>> 48)
    const af = <u32>(pf >>> 48)
    const binDue = levels + (<usize>(ae >> 8) << 2)
    const binFound = levels + 1024 + (<usize>(af >> 8) << 2)
    store<u32>(binDue, load<u32>(binDue) + 1)
    store<u32>(binFound, load<u32>(binFound) + 1)
    // an 8-bit code brought to 16 has the same byte twice
    if (((pe ^ (pe >>> 8)) & 0x00ff00ff00ff00ff) != 0) fineDue++
    if (((pf ^ (pf >>> 8)) & 0x00ff00ff00ff00ff) != 0) fineFound++
    if (ae == 0) clear++
    else if (ae == 65535) solid++
    if (af < least) least = af
    if (af > most) most = af
    const seen = (ae | af) != 0
    if (seen) visible++
    if (pe == pf) continue
    changed++
    if (ae != af) {
      const error = ae > af ? ae - af : af - ae
      alphaChanged++
      alphaSum += <f64>error
      alphaSquares += <f64>error * <f64>error
      if (error > alphaMax) alphaMax = error
      if (ae == 0) clearLost++
      if (ae == 65535) solidLost++
    }
    if (!seen && !clearMatters) {
      under++
      continue
    }
    // solid pixels from the front of the list, all others from its back
    if (ae == 65535 && af == 65535) {
      store<u32>(list + ((<usize>front) << 2), i)
      front++
    } else {
      back--
      store<u32>(list + ((<usize>back) << 2), i)
    }
  }
  clear += clearRuns
  solid += solidRuns
  visible += solidRuns
  store<u32>(levels, load<u32>(levels) + clearRuns)
  store<u32>(levels, load<u32>(levels, 1024) + clearRuns, 1024)
  store<u32>(levels, load<u32>(levels, 1020) + solidRuns, 1020)
  store<u32>(levels, load<u32>(levels, 2044) + solidRuns, 2044)
  if (clearRuns > 0) least = 0
  if (solidRuns > 0) most = 65535
  let colourMax: f32 = 0
  let colourSum: f64 = 0
  let edgeMax: f32 = 0
  let edgeSum: f64 = 0
  let edgePixels: f64 = 0
  const differs = front > 0 || back < pixels
  if (differs) {
    edgePixels = <f64>markEdges(e, rows, map, width, height, above, below)
    const to50 = f32x4.splat(50)
    let most4 = f32x4.splat(0)
    let sum0 = f64x2.splat(0)
    let sum1 = f64x2.splat(0)
    for (let part = 0; part < 2; part++) {
      const from = part == 0 ? 0 : back
      const to = part == 0 ? front : pixels
      for (let n = from; n < to; n += 4) {
        const last = to - 1
        const i0 = load<u32>(list + ((<usize>n) << 2))
        const i1 = load<u32>(list + ((<usize>min(n + 1, last)) << 2))
        const i2 = load<u32>(list + ((<usize>min(n + 2, last)) << 2))
        const i3 = load<u32>(list + ((<usize>min(n + 3, last)) << 2))
        let worst = part == 0 ? differenceOfSolids(e, f, i0, i1, i2, i3, table) : differenceOverBackdrops(e, f, i0, i1, i2, i3, block, waves, width, whole, top, table)
        most4 = f32x4.pmax(most4, worst)
        const count = min(4, to - n)
        // lanes beyond the last pixel repeat it and are not counted
        if (count < 4) worst = v128.and(worst, i32x4.gt_s(i32x4.splat(count), i32x4(0, 1, 2, 3)))
        sum0 = f64x2.add(sum0, f64x2.promote_low_f32x4(worst))
        sum1 = f64x2.add(sum1, f64x2.promote_low_f32x4(v128.shuffle<u64>(worst, worst, 1, 0)))
        // floor and then 2^23 leave the bin in the low bits
        const bin = v128.and(f32x4.add(f32x4.floor(f32x4.pmin(f32x4.mul(worst, to50), f32x4.splat(1000))), f32x4.splat(8388608)), i32x4.splat(0x7fffff))
        count32(bins + ((<usize>i32x4.extract_lane(bin, 0)) << 2))
        if (count > 1) count32(bins + ((<usize>i32x4.extract_lane(bin, 1)) << 2))
        if (count > 2) count32(bins + ((<usize>i32x4.extract_lane(bin, 2)) << 2))
        if (count > 3) count32(bins + ((<usize>i32x4.extract_lane(bin, 3)) << 2))
        const near = <u32>load<u8>(map + i0) | (<u32>load<u8>(map + i1) << 8) | (<u32>load<u8>(map + i2) << 16) | (<u32>load<u8>(map + i3) << 24)
        if (near == 0) continue
        v128.store(labs, worst)
        for (let lane = 0; lane < count; lane++) {
          if (((near >> (8 * lane)) & 1) == 0) continue
          const d = load<f32>(labs + ((<usize>lane) << 2))
          edgeSum += <f64>d
          if (d > edgeMax) edgeMax = d
        }
      }
    }
    most4 = f32x4.pmax(most4, v128.shuffle<u32>(most4, most4, 2, 3, 0, 1))
    colourMax = max(f32x4.extract_lane(most4, 0), f32x4.extract_lane(most4, 1))
    const sum = f64x2.add(sum0, sum1)
    colourSum = f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1)
  }
  put(out, 0, changed)
  put(out, 1, under)
  put(out, 2, alphaMax)
  put(out, 3, alphaSum)
  put(out, 4, alphaSquares)
  put(out, 5, alphaChanged)
  put(out, 6, clearLost)
  put(out, 7, solidLost)
  put(out, 8, clear)
  put(out, 9, solid)
  put(out, 10, least)
  put(out, 11, most)
  put(out, 12, colourMax)
  put(out, 13, colourSum)
  put(out, 14, visible)
  put(out, 15, edgeMax)
  put(out, 16, edgeSum)
  put(out, 17, edgePixels)
  put(out, 18, fineDue)
  put(out, 19, fineFound)
  return differs
}
