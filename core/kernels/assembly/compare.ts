// One delivered frame against the one due, both RGBA of 16 bits: codes counted, colour compared as it is seen over five backdrops.
// The caller lays out a block of parameters and takes the results from it (see wasm.ts, which names each place).

import { difference, toLab } from './difference'

// How samples are stored: 0 straight, 1 premultiplied on a matte, 2 without alpha.
// block, in f32 from `block`: 0 mode e, 1..3 matte e; 4 mode f, 5..7 matte f; 8..10 the backdrop opposite the picture's mean, all in codes
// results, in f64 from `out`: 0 changed, 1 changed under clear, 2 alpha max, 3 alpha sum, 4 alpha squares, 5 alpha changed, 6 clear lost,
// 7 solid lost, 8 clear, 9 solid, 10 found least, 11 found most, 12 colour max, 13 colour sum, 14 visible, 15 edge max, 16 edge sum, 17 edge pixels,
// 18 and 19 pixels of the first and second frame with a code that is none of 8 bits

// Room for the L*a*b* of both frames: six vectors.
const labs = memory.data(96, 16)

// @ts-ignore: decorator
@inline
function put(out: usize, place: i32, value: f64): void {
  store<f64>(out + (<usize>place << 3), value)
}

/** Marks bytes within two pixels of partial alpha. `rows` and `map` take width * height bytes each, both zeroed. */
function markEdges(e: usize, rows: usize, map: usize, width: i32, height: i32): f64 {
  for (let y = 0; y < height; y++) {
    const row = rows + y * width
    for (let x = 0; x < width; x++) {
      const a = <u32>load<u16>(e + ((<usize>(y * width + x)) << 3), 6)
      if (a != 0 && a != 65535) {
        const to = min(width - 1, x + 2)
        for (let u = max(0, x - 2); u <= to; u++) store<u8>(row + u, 1)
      }
    }
  }
  let pixels: f64 = 0
  for (let y = 0; y < height; y++) {
    const to = map + y * width
    const last = min(height - 1, y + 2)
    const first = max(0, y - 2)
    let x = 0
    for (; x + 16 <= width; x += 16) {
      let any = i8x16.splat(0)
      for (let v = first; v <= last; v++) any = v128.or(any, v128.load(rows + v * width + x))
      v128.store(to + x, any)
      pixels += <f64>popcnt(i8x16.bitmask(i8x16.ne(any, i8x16.splat(0))))
    }
    for (; x < width; x++) {
      let any: u8 = 0
      for (let v = first; v <= last; v++) any |= load<u8>(rows + v * width + x)
      store<u8>(to + x, any)
      pixels += <f64>any
    }
  }
  return pixels
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

/** Largest difference over the backdrops of the four pixels at list places `at`; over black alone where all are solid. */
// @ts-ignore: decorator
@inline
function worstOfFour(e: usize, f: usize, i0: u32, i1: u32, i2: u32, i3: u32, solid: bool, block: usize, waves: usize, width: i32, height: i32, table: usize): v128 {
  const one = f32x4.splat(1)
  const scale = f32x4.splat(1.0 / 65535.0)
  let c: usize = e
  let er = one
  let eg = one
  let eb = one
  let ea = one
  let fr = one
  let fg = one
  let fb = one
  let fa = one
  for (let n = 0; n < 2; n++) {
    const p0 = pixel(c + ((<usize>i0) << 3))
    const p1 = pixel(c + ((<usize>i1) << 3))
    const p2 = pixel(c + ((<usize>i2) << 3))
    const p3 = pixel(c + ((<usize>i3) << 3))
    const t0 = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5)
    const t1 = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5)
    const t2 = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7)
    const t3 = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7)
    const r = v128.shuffle<f32>(t0, t1, 0, 1, 4, 5)
    const g = v128.shuffle<f32>(t0, t1, 2, 3, 6, 7)
    const b = v128.shuffle<f32>(t2, t3, 0, 1, 4, 5)
    const mode = load<f32>(block + 16 * n)
    const a = mode == 2 ? one : f32x4.mul(v128.shuffle<f32>(t2, t3, 2, 3, 6, 7), scale)
    const rest = f32x4.sub(one, a)
    const cr = premultiplied(r, a, rest, mode, load<f32>(block + 16 * n, 4))
    const cg = premultiplied(g, a, rest, mode, load<f32>(block + 16 * n, 8))
    const cb = premultiplied(b, a, rest, mode, load<f32>(block + 16 * n, 12))
    if (n == 0) {
      er = cr
      eg = cg
      eb = cb
      ea = rest
    } else {
      fr = cr
      fg = cg
      fb = cb
      fa = rest
    }
    c = f
  }
  toLab(er, eg, eb, table, labs)
  toLab(fr, fg, fb, table, labs + 48)
  let worst = difference(labs, labs + 48)
  if (solid) return worst
  const white = f32x4.splat(65535)
  const grey = f32x4.splat(32767.5)
  for (let backdrop = 0; backdrop < 4; backdrop++) {
    let br = backdrop == 0 ? white : grey
    let bg = br
    let bb = br
    if (backdrop == 2) {
      br = f32x4.splat(load<f32>(block, 32))
      bg = f32x4.splat(load<f32>(block, 36))
      bb = f32x4.splat(load<f32>(block, 40))
    } else if (backdrop == 3) {
      br = wave(i0, i1, i2, i3, 0, waves, width, height)
      bg = wave(i0, i1, i2, i3, 1, waves, width, height)
      bb = wave(i0, i1, i2, i3, 2, waves, width, height)
    }
    toLab(f32x4.add(er, f32x4.mul(ea, br)), f32x4.add(eg, f32x4.mul(ea, bg)), f32x4.add(eb, f32x4.mul(ea, bb)), table, labs)
    toLab(f32x4.add(fr, f32x4.mul(fa, br)), f32x4.add(fg, f32x4.mul(fa, bg)), f32x4.add(fb, f32x4.mul(fa, bb)), table, labs + 48)
    worst = f32x4.max(worst, difference(labs, labs + 48))
  }
  return worst
}

/** The picture backdrop at one pixel: 1/2 + wave of x times wave of y, from tables of three channels each. */
// @ts-ignore: decorator
@inline
function waveAt(i: u32, channel: i32, waves: usize, width: i32, height: i32): f32 {
  const x = i % <u32>width
  const y = i / <u32>width
  return 32767.5 + load<f32>(waves + ((<usize>(channel * width) + x) << 2)) * load<f32>(waves + ((<usize>(3 * width + channel * height) + y) << 2))
}

function wave(i0: u32, i1: u32, i2: u32, i3: u32, channel: i32, waves: usize, width: i32, height: i32): v128 {
  let value = f32x4.splat(waveAt(i0, channel, waves, width, height))
  value = f32x4.replace_lane(value, 1, waveAt(i1, channel, waves, width, height))
  value = f32x4.replace_lane(value, 2, waveAt(i2, channel, waves, width, height))
  return f32x4.replace_lane(value, 3, waveAt(i3, channel, waves, width, height))
}

/**
 * Compares. `list` takes 4 * width * height bytes, `rows` and `map` one byte a pixel each, zeroed; `bins` 1001 u32, zeroed; `levels` 2 * 256
 * u32, zeroed, for the alpha of either frame; `waves` holds the tables of the picture backdrop.
 */
export function compare(e: usize, f: usize, width: i32, height: i32, block: usize, out: usize, bins: usize, list: usize, rows: usize, map: usize, waves: usize, table: usize, levels: usize): void {
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
  for (let i = 0; i < pixels; i++) {
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
  let colourMax: f32 = 0
  let colourSum: f64 = 0
  let edgeMax: f32 = 0
  let edgeSum: f64 = 0
  let edgePixels: f64 = 0
  if (front > 0 || back < pixels) {
    edgePixels = markEdges(e, rows, map, width, height)
    for (let part = 0; part < 2; part++) {
      const from = part == 0 ? 0 : back
      const to = part == 0 ? front : pixels
      for (let n = from; n < to; n += 4) {
        const last = to - 1
        const i0 = load<u32>(list + ((<usize>n) << 2))
        const i1 = load<u32>(list + ((<usize>min(n + 1, last)) << 2))
        const i2 = load<u32>(list + ((<usize>min(n + 2, last)) << 2))
        const i3 = load<u32>(list + ((<usize>min(n + 3, last)) << 2))
        const worst = worstOfFour(e, f, i0, i1, i2, i3, part == 0, block, waves, width, height, table)
        v128.store(labs, worst)
        const count = min(4, to - n)
        for (let lane = 0; lane < count; lane++) {
          const d = load<f32>(labs + ((<usize>lane) << 2))
          colourSum += <f64>d
          if (d > colourMax) colourMax = d
          const bin = bins + ((<usize>min(1000, <i32>(d * 50))) << 2)
          store<u32>(bin, load<u32>(bin) + 1)
          if (load<u8>(map + load<u32>(list + ((<usize>(n + lane)) << 2)))) {
            edgeSum += <f64>d
            if (d > edgeMax) edgeMax = d
          }
        }
      }
    }
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
}
