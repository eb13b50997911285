// Key by the colour beside each edge; see core/kernels/plain-beside.ts, which defines it. Planes are f32 by rows; the
// screen's colour is a plate of four f32 a pixel, or where that is 0 three surfaces of six f64; see `termOf`. Pictures
// are codes of 8 bits (`kind` 0) or 16 (1), or floats (2).

const OWN: f32 = 0.72
const SURELY: f32 = 0.98
const WIDE_SHARE: f32 = 0.045
const THIN_SHARE: f32 = 0.012
const THIN_TOP: f32 = 0.97
const LEAST: f32 = 0.006
const INSIDE: f32 = 0.93
const INSIDE_LEAST: f32 = 0.8
const REACH: f32 = 60
const LUMA: f32 = 0.1
const BEYOND: f32 = 8
const FAR: f32 = 4.5
const FAR_MEAN: f32 = 0.9
const OWN_NOISE: f32 = 3
const THIN_NOISE: f32 = 1.5
const BLOCK: i32 = 4
const STRAYS: f32 = 0.08
const UNEVEN: f32 = 0.45
const TOP: f32 = 0.04
const NONE: i32 = 0x7fffffff

const KR: f32 = 0.2126
const KG: f32 = 0.7152
const KB: f32 = 0.0722
const CB: f32 = 1 / 1.8556
const CR: f32 = 1 / 1.5748

// @ts-ignore: decorator
@inline
function lumaOf(r: f32, g: f32, b: f32): f32 {
  return KR * r + KG * g + KB * b
}

const BYTES: i32 = 0
const WORDS: i32 = 1

/** Pixel `p` of a picture, 0 to 1. */
// @ts-ignore: decorator
@inline
function pixelOf(from: usize, kind: i32, p: usize): v128 {
  if (kind == BYTES) {
    const words = i16x8.extend_low_i8x16_u(v128.load32_zero(from + (p << 2)))
    return f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(words)), f32x4.splat(1.0 / 255.0))
  }
  if (kind == WORDS)
    return f32x4.mul(
      f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.load64_zero(from + (p << 3)))),
      f32x4.splat(1.0 / 65535.0)
    )
  return v128.load(from + (p << 4))
}

/** Puts a pixel of 0 to 1: as floats, or as codes of 16 bits where the picture came as codes. */
// @ts-ignore: decorator
@inline
function putPixel(to: usize, kind: i32, p: usize, pixel: v128): void {
  if (kind > WORDS) {
    v128.store(to + (p << 4), pixel)
    return
  }
  const codes = i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(pixel, f32x4.splat(65535)), f32x4.splat(0.5)))
  v128.store64_lane(to + (p << 3), i16x8.narrow_i32x4_u(codes, codes), 0)
}

// @ts-ignore: decorator
@inline
function held01(v: f32): f32 {
  return min<f32>(1, max<f32>(0, v))
}

// @ts-ignore: decorator
@inline
function hueOf(away: f32, cross: f32, across: f32): f32 {
  return 1 - held01(1 - away - abs(cross) * across)
}

/**
 * One term in x of the screen's colour along a row: red, green, blue and 0. `surfaces` has six f64 a channel: 1, x, y,
 * x * x, x * y, y * y; `v` is the row's place, 0 to 1.
 */
function termOf(surfaces: usize, term: i32, v: f64): v128 {
  let at = surfaces
  let result = f32x4.splat(0)
  for (let c = 0; c < 3; c++) {
    const value =
      term == 0
        ? load<f64>(at) + load<f64>(at, 16) * v + load<f64>(at, 40) * v * v
        : term == 1
          ? load<f64>(at, 8) + load<f64>(at, 32) * v
          : load<f64>(at, 24)
    if (c == 0) result = f32x4.replace_lane(result, 0, <f32>value)
    else if (c == 1) result = f32x4.replace_lane(result, 1, <f32>value)
    else result = f32x4.replace_lane(result, 2, <f32>value)
    at += 48
  }
  return result
}

// @ts-ignore: decorator
@inline
function held(v: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v))
}

// @ts-ignore: decorator
@inline
function alongRow(c0: v128, c1: v128, c2: v128, u: f32): v128 {
  const x = f32x4.splat(u)
  return held(f32x4.add(c0, f32x4.mul(x, f32x4.add(c1, f32x4.mul(x, c2)))))
}

/** The screen's colour along the row at `v`, four f32 a pixel. */
export function drawPlate(surfaces: usize, to: usize, width: i32, v: f64): void {
  const c0 = termOf(surfaces, 0, v)
  const c1 = termOf(surfaces, 1, v)
  const c2 = termOf(surfaces, 2, v)
  const per: f32 = 1 / <f32>width
  for (let x = 0; x < width; x++) v128.store(to + ((<usize>x) << 4), alongRow(c0, c1, c2, <f32>x * per))
}

// @ts-ignore: decorator
@inline
function channelAlong(c0: v128, c1: v128, c2: v128, u: v128): v128 {
  return held(f32x4.add(c0, f32x4.mul(u, f32x4.add(c1, f32x4.mul(u, c2)))))
}

/**
 * Along the screen's chroma and across it, four pixels at a time; reads and writes up to three beyond the end of each
 * row. The screen is `plate`, four f32 a pixel, or the surfaces where that is 0.
 */
export function besideMeasure(
  from: usize,
  kind: i32,
  plate: usize,
  surfaces: usize,
  width: i32,
  height: i32,
  away: usize,
  cross: usize
): void {
  const one = f32x4.splat(1)
  const red = f32x4.splat(KR)
  const green = f32x4.splat(KG)
  const blue = f32x4.splat(KB)
  const cb = f32x4.splat(CB)
  const cr = f32x4.splat(CR)
  const per1 = f32x4.splat(1 / <f32>width)
  for (let y = 0; y < height; y++) {
    const v = <f64>y / <f64>height
    const c0 = termOf(surfaces, 0, v)
    const c1 = termOf(surfaces, 1, v)
    const c2 = termOf(surfaces, 2, v)
    const r0 = v128.shuffle<u32>(c0, c0, 0, 0, 0, 0)
    const r1 = v128.shuffle<u32>(c1, c1, 0, 0, 0, 0)
    const r2 = v128.shuffle<u32>(c2, c2, 0, 0, 0, 0)
    const g0 = v128.shuffle<u32>(c0, c0, 1, 1, 1, 1)
    const g1 = v128.shuffle<u32>(c1, c1, 1, 1, 1, 1)
    const g2 = v128.shuffle<u32>(c2, c2, 1, 1, 1, 1)
    const b0 = v128.shuffle<u32>(c0, c0, 2, 2, 2, 2)
    const b1 = v128.shuffle<u32>(c1, c1, 2, 2, 2, 2)
    const b2 = v128.shuffle<u32>(c2, c2, 2, 2, 2, 2)
    let column = f32x4(0, 1, 2, 3)
    const row = <usize>(y * width)
    for (let x: usize = 0; x < <usize>width; x += 4) {
      let p: v128
      let q: v128
      let s: v128
      let t: v128
      let m: v128
      let k: v128
      let r: v128
      let g: v128
      let b: v128
      if (kind == BYTES) {
        // four pixels are one vector, whose bytes lie apart in each of its four lanes
        const codes = v128.load(from + ((row + x) << 2))
        const low = i32x4.splat(255)
        const share = f32x4.splat(1.0 / 255.0)
        r = f32x4.mul(f32x4.convert_i32x4_u(v128.and(codes, low)), share)
        g = f32x4.mul(f32x4.convert_i32x4_u(v128.and(i32x4.shr_u(codes, 8), low)), share)
        b = f32x4.mul(f32x4.convert_i32x4_u(v128.and(i32x4.shr_u(codes, 16), low)), share)
      } else {
        p = pixelOf(from, kind, row + x)
        q = pixelOf(from, kind, row + x + 1)
        s = pixelOf(from, kind, row + x + 2)
        t = pixelOf(from, kind, row + x + 3)
        m = v128.shuffle<u32>(p, q, 0, 4, 1, 5)
        k = v128.shuffle<u32>(s, t, 0, 4, 1, 5)
        r = v128.shuffle<u32>(m, k, 0, 1, 4, 5)
        g = v128.shuffle<u32>(m, k, 2, 3, 6, 7)
        b = v128.shuffle<u32>(v128.shuffle<u32>(p, q, 2, 6, 3, 7), v128.shuffle<u32>(s, t, 2, 6, 3, 7), 0, 1, 4, 5)
      }
      let kr: v128
      let kg: v128
      let kb: v128
      if (plate) {
        const under = plate + ((row + x) << 4)
        p = v128.load(under)
        q = v128.load(under, 16)
        s = v128.load(under, 32)
        t = v128.load(under, 48)
        m = v128.shuffle<u32>(p, q, 0, 4, 1, 5)
        k = v128.shuffle<u32>(s, t, 0, 4, 1, 5)
        kr = v128.shuffle<u32>(m, k, 0, 1, 4, 5)
        kg = v128.shuffle<u32>(m, k, 2, 3, 6, 7)
        kb = v128.shuffle<u32>(v128.shuffle<u32>(p, q, 2, 6, 3, 7), v128.shuffle<u32>(s, t, 2, 6, 3, 7), 0, 1, 4, 5)
      } else {
        const u = f32x4.mul(column, per1)
        kr = channelAlong(r0, r1, r2, u)
        kg = channelAlong(g0, g1, g2, u)
        kb = channelAlong(b0, b1, b2, u)
        column = f32x4.add(column, f32x4.splat(4))
      }
      const ky = f32x4.add(f32x4.add(f32x4.mul(red, kr), f32x4.mul(green, kg)), f32x4.mul(blue, kb))
      const ku = f32x4.mul(f32x4.sub(kb, ky), cb)
      const kv = f32x4.mul(f32x4.sub(kr, ky), cr)
      const strength = f32x4.add(f32x4.mul(ku, ku), f32x4.mul(kv, kv))
      const l = f32x4.add(f32x4.add(f32x4.mul(red, r), f32x4.mul(green, g)), f32x4.mul(blue, b))
      const cu = f32x4.mul(f32x4.sub(b, l), cb)
      const cv = f32x4.mul(f32x4.sub(r, l), cr)
      // a screen without a hue tells nothing
      const none = f32x4.lt(strength, f32x4.splat(1e-8))
      const per = f32x4.div(one, strength)
      const along = f32x4.mul(f32x4.add(f32x4.mul(cu, ku), f32x4.mul(cv, kv)), per)
      const aside = f32x4.mul(f32x4.sub(f32x4.mul(cu, kv), f32x4.mul(cv, ku)), per)
      v128.store(away + ((row + x) << 2), f32x4.sub(one, v128.andnot(along, none)))
      v128.store(cross + ((row + x) << 2), v128.andnot(aside, none))
    }
  }
}

/** Means of 5x5 values, the outermost going on at the rim; `row` takes width + 8 f32, `across` a plane. */
export function mean5(from: usize, across: usize, to: usize, width: i32, height: i32, row: usize): void {
  const stride = (<usize>width) << 2
  for (let y = 0; y < height; y++) {
    const at = from + <usize>y * stride
    const out = across + <usize>y * stride
    memory.copy(row + 8, at, stride)
    const last = load<f32>(at + stride - 4)
    store<f32>(row, load<f32>(at))
    store<f32>(row + 4, load<f32>(at))
    for (let k: usize = 0; k < 6; k++) store<f32>(row + 8 + stride + (k << 2), last)
    let x = 0
    for (; x < width; x += 4) {
      const p = row + ((<usize>x) << 2)
      const sum = f32x4.add(
        f32x4.add(f32x4.add(v128.load(p), v128.load(p + 4)), f32x4.add(v128.load(p + 8), v128.load(p + 12))),
        v128.load(p + 16)
      )
      if (x + 4 <= width) v128.store(out + ((<usize>x) << 2), sum)
      else
        for (let k = x; k < width; k++) {
          const q = row + ((<usize>k) << 2)
          store<f32>(
            out + ((<usize>k) << 2),
            load<f32>(q) + load<f32>(q + 4) + (load<f32>(q + 8) + load<f32>(q + 12)) + load<f32>(q + 16)
          )
        }
    }
  }
  const share = f32x4.splat(1.0 / 25.0)
  for (let y = 0; y < height; y++) {
    const a = across + <usize>max(0, y - 2) * stride
    const b = across + <usize>max(0, y - 1) * stride
    const c = across + <usize>y * stride
    const d = across + <usize>min(height - 1, y + 1) * stride
    const e = across + <usize>min(height - 1, y + 2) * stride
    const out = to + <usize>y * stride
    let x = 0
    for (; x + 4 <= width; x += 4) {
      const o = (<usize>x) << 2
      const sum = f32x4.add(
        f32x4.add(f32x4.add(v128.load(a + o), v128.load(b + o)), f32x4.add(v128.load(c + o), v128.load(d + o))),
        v128.load(e + o)
      )
      v128.store(out + o, f32x4.mul(sum, share))
    }
    for (; x < width; x++) {
      const o = (<usize>x) << 2
      store<f32>(
        out + o,
        (load<f32>(a + o) + load<f32>(b + o) + (load<f32>(c + o) + load<f32>(d + o)) + load<f32>(e + o)) *
          <f32>(1.0 / 25.0)
      )
    }
  }
}

/** What is left of `BEYOND` by each value, and nothing below. */
export function besideRest(from: usize, to: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    v128.store(to, f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(BEYOND), v128.load(from))))
    from += 16
    to += 16
  }
}

/**
 * The largest of 2 * reach + 1 rows, nothing beyond the rim; `room` takes height + 2 * reach rows and is spoilt, its
 * middle being the rows given.
 */
export function largestDown(room: usize, to: usize, width: i32, height: i32, reach: i32): void {
  const stride = (<usize>width) << 2
  const rows = height + 2 * reach
  const window = 2 * reach + 1
  memory.fill(room, 0, <usize>reach * stride)
  memory.fill(room + <usize>(height + reach) * stride, 0, <usize>reach * stride)
  let span = 1
  while (span << 1 <= window) {
    const count = <usize>(rows - span) * stride
    const step = <usize>span * stride
    let o: usize = 0
    for (; o + 16 <= count; o += 16)
      v128.store(room + o, f32x4.pmax(v128.load(room + o), v128.load(room + o + step)))
    for (; o < count; o += 4) store<f32>(room + o, max(load<f32>(room + o), load<f32>(room + o + step)))
    span <<= 1
  }
  const rest = <usize>(window - span) * stride
  const count = <usize>height * stride
  let o: usize = 0
  for (; o + 16 <= count; o += 16)
    v128.store(to + o, f32x4.pmax(v128.load(room + o), v128.load(room + o + rest)))
  for (; o < count; o += 4) store<f32>(to + o, max(load<f32>(room + o), load<f32>(room + o + rest)))
}

// @ts-ignore: decorator
@inline
function steady(value: f32, share: f32, least: f32, more: f32): bool {
  return least >= value - max(max(share * value, LEAST), more)
}

/**
 * Marks cores, a byte a pixel. `wideAway` and `wideCross` are the planes themselves where nothing is smoothed, which
 * `noise` of 0 says; `wideRest` and `most` are squares' largest of what is left and of the plane.
 */
export function besideCores(
  away: usize,
  cross: usize,
  wideAway: usize,
  wideCross: usize,
  wideRest: usize,
  most: usize,
  width: i32,
  height: i32,
  across: f32,
  noise: f32,
  smooth: i32,
  cores: usize
): void {
  const stride = (<usize>width) << 2
  const wideNoise: f32 = smooth ? FAR_MEAN * noise : 0
  const thinNoise: f32 = smooth ? THIN_NOISE * noise : 0
  const wide = f32x4.splat(across)
  const least = f32x4.splat(OWN)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const o = (<usize>(y * width + x)) << 2
      if (!(x & 3) && x + 4 <= width) {
        // most of a picture is screen, and passed over four pixels at a time
        const any = v128.or(
          f32x4.ge(hues(v128.load(away + o), v128.load(cross + o), wide), least),
          f32x4.ge(hues(v128.load(wideAway + o), v128.load(wideCross + o), wide), least)
        )
        if (!v128.any_true(any)) {
          store<u32>(cores + <usize>(y * width + x), 0)
          x += 3
          continue
        }
      }
      const value = load<f32>(away + o)
      const even = load<f32>(wideAway + o)
      let core = 0
      const evenOwn = hueOf(even, load<f32>(wideCross + o), across) >= OWN
      const valueOwn = hueOf(value, load<f32>(cross + o), across) >= OWN
      if (evenOwn || valueOwn) {
        let beside = value
        if (x > 0) beside = min(beside, load<f32>(away + o - 4))
        if (x < width - 1) beside = min(beside, load<f32>(away + o + 4))
        if (y > 0) beside = min(beside, load<f32>(away + o - stride))
        if (y < height - 1) beside = min(beside, load<f32>(away + o + stride))
        if (
          evenOwn &&
          steady(even, WIDE_SHARE, BEYOND - load<f32>(wideRest + o), wideNoise) &&
          (!smooth || steady(even, WIDE_SHARE, beside, OWN_NOISE * noise))
        )
          core = 1
        else if (
          valueOwn &&
          value >= THIN_TOP * load<f32>(most + o) - thinNoise &&
          steady(value, THIN_SHARE, beside, thinNoise)
        )
          core = 1
      }
      store<u8>(cores + <usize>(y * width + x), <u8>core)
    }
  }
}

// @ts-ignore: decorator
@inline
function hues(away: v128, cross: v128, across: v128): v128 {
  const one = f32x4.splat(1)
  return f32x4.sub(one, held(f32x4.sub(f32x4.sub(one, away), f32x4.mul(f32x4.abs(cross), across))))
}

/** Lanes that are set as bytes of 1, lowest first. */
// @ts-ignore: decorator
@inline
function bytesOf(mask: i32): u32 {
  return (mask & 1) | ((mask & 2) << 7) | ((mask & 4) << 14) | ((mask & 8) << 21)
}

/** Marks what is nothing but screen; `smooth` is 0 where there is no noise. Writes up to three bytes beyond the end. */
export function besideBares(
  away: usize,
  cross: usize,
  meanAway: usize,
  meanCross: usize,
  n: i32,
  across: f32,
  clear: f32,
  noiseAway: f32,
  noiseHue: f32,
  smooth: i32,
  bares: usize
): void {
  const wide = f32x4.splat(across)
  const own = f32x4.splat(clear)
  const farAway = f32x4.splat(clear + FAR * noiseAway)
  const farHue = f32x4.splat(clear + FAR * noiseHue)
  const mostAway = f32x4.splat(max(clear, FAR_MEAN * noiseAway))
  const mostHue = f32x4.splat(max(clear, FAR_MEAN * noiseHue))
  for (let p: usize = 0; p < <usize>n; p += 4) {
    const o = p << 2
    const value = v128.load(away + o)
    const hue = hues(value, v128.load(cross + o), wide)
    let bare = v128.and(f32x4.lt(hue, own), f32x4.lt(value, own))
    if (smooth) {
      const even = v128.load(meanAway + o)
      const near = v128.and(f32x4.lt(hue, farHue), f32x4.lt(value, farAway))
      const mean = hues(even, v128.load(meanCross + o), wide)
      bare = v128.or(bare, v128.and(near, v128.and(f32x4.lt(even, mostAway), f32x4.lt(mean, mostHue))))
    }
    store<u32>(bares + p, bytesOf(i32x4.bitmask(bare)))
  }
}

/** Mean colours of blocks and the screen in their middle, four f32 each, and whether a block has a core. */
export function besideBlocks(
  from: usize,
  kind: i32,
  plate: usize,
  surfaces: usize,
  cores: usize,
  width: i32,
  height: i32,
  columns: i32,
  rows: i32,
  colours: usize,
  screens: usize,
  any: usize
): void {
  const share = f32x4.splat(1.0 / 16.0)
  const per: f32 = 1 / <f32>width
  for (let y = 0; y < rows; y++) {
    const line = y * BLOCK + (BLOCK >> 1)
    const v = <f64>line / <f64>height
    const c0 = termOf(surfaces, 0, v)
    const c1 = termOf(surfaces, 1, v)
    const c2 = termOf(surfaces, 2, v)
    for (let x = 0; x < columns; x++) {
      const n = <usize>(y * columns + x)
      let colour = f32x4.splat(0)
      let core: u32 = 0
      for (let row = 0; row < BLOCK; row++) {
        const p = <usize>((y * BLOCK + row) * width + x * BLOCK)
        core |= load<u32>(cores + p)
        for (let column: usize = 0; column < <usize>BLOCK; column++)
          colour = f32x4.add(colour, pixelOf(from, kind, p + column))
      }
      const column = x * BLOCK + (BLOCK >> 1)
      const screen = plate
        ? v128.load(plate + ((<usize>(line * width + column)) << 4))
        : alongRow(c0, c1, c2, <f32>column * per)
      v128.store(colours + (n << 4), f32x4.replace_lane(f32x4.mul(colour, share), 3, 0))
      v128.store(screens + (n << 4), f32x4.replace_lane(screen, 3, 0))
      store<u8>(any + n, core ? 1 : 0)
    }
  }
}

// @ts-ignore: decorator
@inline
function sum3(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2)
}

function alongWay(colours: usize, screens: usize, block: i32, top: i32): f32 {
  const i = (<usize>block) << 4
  const k = (<usize>top) << 4
  const way = f32x4.sub(v128.load(colours + k), v128.load(screens + k))
  const gone = f32x4.sub(v128.load(colours + i), v128.load(screens + i))
  const span = sum3(f32x4.mul(way, way))
  if (span < 1e-4) return -1
  const dot = sum3(f32x4.mul(way, gone))
  const t = dot / span
  return sum3(f32x4.mul(gone, gone)) - t * dot > STRAYS * STRAYS * span ? -1 : t
}

// @ts-ignore: decorator
@inline
function unlike(own: v128, other: usize): bool {
  return v128.any_true(f32x4.gt(f32x4.abs(f32x4.sub(own, v128.load(other))), f32x4.splat(0.002)))
}

/** Whether the four blocks beside one are of its colour. */
function isFlat(colours: usize, columns: i32, rows: i32, x: i32, y: i32): bool {
  const at = colours + ((<usize>(y * columns + x)) << 4)
  const own = v128.load(at)
  const stride = (<usize>columns) << 4
  if (x > 0 && unlike(own, at - 16)) return false
  if (x < columns - 1 && unlike(own, at + 16)) return false
  if (y > 0 && unlike(own, at - stride)) return false
  return !(y < rows - 1 && unlike(own, at + stride))
}

function onRamp(colours: usize, screens: usize, any: usize, columns: i32, rows: i32, x: i32, y: i32, least: f32): bool {
  const at = y * columns + x
  for (let way = 0; way < 8; way++) {
    // eight ways round from the right
    const dx = way == 0 || way == 1 || way == 7 ? 1 : way == 2 || way == 6 ? 0 : -1
    const dy = way == 1 || way == 2 || way == 3 ? 1 : way == 0 || way == 4 ? 0 : -1
    for (let far = 3; far <= 24; far <<= 1) {
      const third = far / 3
      const u = x + dx * far
      const v = y + dy * far
      const bu = x - dx * third
      const bv = y - dy * third
      if (u < 0 || v < 0 || u >= columns || v >= rows || bu < 0 || bv < 0 || bu >= columns || bv >= rows) continue
      const top = v * columns + u
      if (!load<u8>(any + <usize>top)) continue
      const t = alongWay(colours, screens, at, top)
      if (t < 0 || t >= 1 - least) continue
      const rise: f32 = 1 - t
      const step = dy * third * columns + dx * third
      if (abs(alongWay(colours, screens, at + step, top) - t - rise / 3) > UNEVEN * rise) continue
      if (abs(alongWay(colours, screens, at + 2 * step, top) - t - (2 * rise) / 3) > UNEVEN * rise) continue
      const before = alongWay(colours, screens, at - step, top)
      if (before >= 0 && before <= t - rise / 8) return true
    }
  }
  return false
}

/** Takes the cores of blocks that lie on a ramp. */
export function besideRamps(
  cores: usize,
  colours: usize,
  screens: usize,
  any: usize,
  width: i32,
  columns: i32,
  rows: i32,
  noise: f32
): void {
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      if (!load<u8>(any + <usize>(y * columns + x))) continue
      if (isFlat(colours, columns, rows, x, y)) continue
      if (!onRamp(colours, screens, any, columns, rows, x, y, TOP + noise)) continue
      for (let v = 0; v < BLOCK; v++) store<u32>(cores + <usize>((y * BLOCK + v) * width + x * BLOCK), 0)
    }
}

/**
 * The nearest marked row of each pixel's own column, two bytes a pixel, -1 where it has none; the one above of two as
 * near. `marked` has a byte a pixel. Goes through eight columns at a time and beyond the end of a row.
 */
export function nearestRows(marked: usize, width: i32, height: i32, rows: usize): void {
  const none = i16x8.splat(-1)
  const stride = (<usize>width) << 1
  for (let y = 0; y < height; y++) {
    const at = rows + <usize>y * stride
    const from = marked + <usize>(y * width)
    const here = i16x8.splat(<i16>y)
    for (let x = 0; x < width; x += 8) {
      const o = (<usize>x) << 1
      const is = i16x8.ne(i16x8.extend_low_i8x16_u(v128.load64_zero(from + <usize>x)), i16x8.splat(0))
      const above = y > 0 ? v128.load(at - stride + o) : none
      const found = v128.bitselect(here, above, is)
      if (x + 8 <= width) v128.store(at + o, found)
      else
        for (let k = x; k < width; k++)
          store<i16>(
            at + ((<usize>k) << 1),
            load<u8>(from + <usize>k) ? <i16>y : y > 0 ? load<i16>(at - stride + ((<usize>k) << 1)) : -1
          )
    }
  }
  for (let y = height - 2; y >= 0; y--) {
    const at = rows + <usize>y * stride
    const here = i16x8.splat(<i16>y)
    let x = 0
    for (; x + 8 <= width; x += 8) {
      const o = (<usize>x) << 1
      const above = v128.load(at + o)
      const below = v128.load(at + stride + o)
      const far = i16x8.sub(below, here)
      const nearer = v128.or(i16x8.lt_s(above, i16x8.splat(0)), i16x8.lt_s(far, i16x8.sub(here, above)))
      const use = v128.and(i16x8.ge_s(below, i16x8.splat(0)), nearer)
      v128.store(at + o, v128.bitselect(below, above, use))
    }
    for (; x < width; x++) {
      const o = (<usize>x) << 1
      const above = load<i16>(at + o)
      const below = load<i16>(at + stride + o)
      if (below >= 0 && (above < 0 || <i32>below - y < y - <i32>above)) store<i16>(at + o, below)
    }
  }
}

let best: i32 = NONE
let place: i32 = -1

/** Takes the nearest row of column `x + dx` where it is nearer than the best. */
// @ts-ignore: decorator
@inline
function tryColumn(line: usize, width: i32, x: i32, y: i32, dx: i32): void {
  const column = x + dx
  if (column < 0 || column >= width) return
  const row = <i32>load<i16>(line + ((<usize>column) << 1))
  if (row < 0) return
  const square = dx * dx + (row - y) * (row - y)
  if (square >= best) return
  best = square
  place = (row << 16) | column
}

/** Whether any of four columns has a row nearer than the best; `squares` are those of their distances. */
// @ts-ignore: decorator
@inline
function anyNearer(at: usize, y: v128, squares: v128): bool {
  const rows = i32x4.extend_low_i16x8_s(v128.load64_zero(at))
  const away = i32x4.sub(rows, y)
  const nearer = i32x4.lt_s(i32x4.add(i32x4.mul(away, away), squares), i32x4.splat(best))
  return v128.any_true(v128.andnot(nearer, i32x4.lt_s(rows, i32x4.splat(0))))
}

/**
 * The place of the marked pixel nearest to one, as row << 16 | column; -1 where there is none. Of several as near, the
 * one whose column is nearest, and the left of two.
 */
function nearestTo(rows: usize, width: i32, x: i32, y: i32): i32 {
  const line = rows + ((<usize>(y * width)) << 1)
  best = NONE
  place = -1
  tryColumn(line, width, x, y, 0)
  const here = i32x4.splat(y)
  for (let d = 1; d < width; d += 4) {
    if (d * d >= best || (x - d < 0 && x + d >= width)) break
    // four columns on either side are passed over at a time where none of them is nearer
    if (x - d - 3 >= 0 && x + d + 3 < width) {
      const out = i32x4.add(i32x4.splat(d), i32x4(0, 1, 2, 3))
      const back = i32x4.add(i32x4.splat(d), i32x4(3, 2, 1, 0))
      if (
        !anyNearer(line + ((<usize>(x + d)) << 1), here, i32x4.mul(out, out)) &&
        !anyNearer(line + ((<usize>(x - d - 3)) << 1), here, i32x4.mul(back, back))
      )
        continue
    }
    for (let k = d; k < d + 4; k++) {
      tryColumn(line, width, x, y, -k)
      tryColumn(line, width, x, y, k)
    }
  }
  return place
}

// @ts-ignore: decorator
@inline
function distanceTo(place: i32, x: i32, y: i32): f32 {
  const dx = x - (place & 0xffff)
  const dy = y - (place >>> 16)
  return sqrt(<f32>(dx * dx + dy * dy))
}

function liesBetween(cores: usize, width: i32, x0: i32, y0: i32, place: i32): bool {
  const x1 = place & 0xffff
  const y1 = place >>> 16
  const steps = <i32>Math.ceil(<f64>max(abs(x1 - x0), abs(y1 - y0)) / 1.5)
  for (let n = 1; n < steps; n++) {
    const x = <i32>Math.floor(<f64>x0 + <f64>((x1 - x0) * n) / <f64>steps + 0.5)
    const y = <i32>Math.floor(<f64>y0 + <f64>((y1 - y0) * n) / <f64>steps + 0.5)
    if (load<u8>(cores + <usize>(y * width + x))) return true
  }
  return false
}

/** The mean of colours near the one at `p` in 5x5 pixels, of those marked `only` where that is not 0. */
function colourNear(from: usize, kind: i32, p: i32, width: i32, height: i32, noise: f32, only: usize): v128 {
  const own = pixelOf(from, kind, <usize>p)
  if (noise == 0) return own
  const y = p / width
  const x = p - y * width
  const far = f32x4.splat(3 * noise)
  let sum = f32x4.splat(0)
  let count: f32 = 0
  for (let row = max(0, y - 2); row <= min(height - 1, y + 2); row++)
    for (let column = max(0, x - 2); column <= min(width - 1, x + 2); column++) {
      const q = row * width + column
      if (only && !load<u8>(only + <usize>q)) continue
      const colour = pixelOf(from, kind, <usize>q)
      // alpha has no part in it
      if (i32x4.bitmask(f32x4.gt(f32x4.abs(f32x4.sub(colour, own)), far)) & 7) continue
      sum = f32x4.add(sum, colour)
      count += 1
    }
  return f32x4.div(sum, f32x4.splat(count))
}

/** Alpha of the way from the screen to the subject's own colour; no number where the two are alike. */
function shareOfWay(colour: v128, own: v128, screen: v128): f32 {
  const sr = f32x4.extract_lane(screen, 0)
  const sg = f32x4.extract_lane(screen, 1)
  const sb = f32x4.extract_lane(screen, 2)
  const sy = lumaOf(sr, sg, sb)
  const su = (sb - sy) * CB
  const sv = (sr - sy) * CR
  const fr = f32x4.extract_lane(own, 0)
  const fb = f32x4.extract_lane(own, 2)
  const fy = lumaOf(fr, f32x4.extract_lane(own, 1), fb)
  const r = f32x4.extract_lane(colour, 0)
  const b = f32x4.extract_lane(colour, 2)
  const y = lumaOf(r, f32x4.extract_lane(colour, 1), b)
  const du = (fb - fy) * CB - su
  const dv = (fr - fy) * CR - sv
  const dy = LUMA * (fy - sy)
  const span = du * du + dv * dv + dy * dy
  if (span < 1e-4) return <f32>NaN
  return (((b - y) * CB - su) * du + ((r - y) * CR - sv) * dv + LUMA * (y - sy) * dy) / span
}

function surenessOf(colour: v128, own: v128, screen: v128, a: f32, toCore: f32): f32 {
  const whole = f32x4.splat(a)
  const rest = f32x4.splat(1 - a)
  const miss = f32x4.sub(f32x4.sub(colour, f32x4.mul(whole, own)), f32x4.mul(rest, screen))
  const span = f32x4.sub(own, screen)
  const far = sum3(f32x4.mul(span, span))
  if (far < 1e-4) return 0
  return held01(1 - 4 * sqrt(sum3(f32x4.mul(miss, miss)) / far)) * held01(<f32>1.5 - toCore / REACH)
}

// @ts-ignore: decorator
@inline
function withoutSpill(pixel: v128, channel: i32, amount: f32, lean: f32): v128 {
  const r = f32x4.extract_lane(pixel, 0)
  const g = f32x4.extract_lane(pixel, 1)
  const b = f32x4.extract_lane(pixel, 2)
  const main = channel == 0 ? r : channel == 1 ? g : b
  const one = channel == 0 ? g : r
  const other = channel == 2 ? g : b
  const bound = max(one, other) * lean + min(one, other) * (1 - lean)
  const excess = (main - bound) * amount
  if (!(excess > 0)) return pixel
  const lost = excess * (channel == 1 ? KG : channel == 0 ? KR : KB)
  return f32x4(
    held01((channel == 0 ? r - excess : r) + lost),
    held01((channel == 1 ? g - excess : g) + lost),
    held01((channel == 2 ? b - excess : b) + lost),
    f32x4.extract_lane(pixel, 3)
  )
}

/**
 * The key itself: `from` to `to`, straight, alpha multiplied into what there was; `sure` takes a f32 a pixel. Rows are
 * those that `nearestRows` gives for cores and bares.
 */
export function besideKey(
  from: usize,
  kind: i32,
  plate: usize,
  surfaces: usize,
  to: usize,
  sure: usize,
  away: usize,
  cross: usize,
  cores: usize,
  bares: usize,
  coreRows: usize,
  bareRows: usize,
  width: i32,
  height: i32,
  across: f32,
  clear: f32,
  solid: f32,
  noise: f32,
  noisy: i32,
  spill: f32,
  lean: f32,
  channel: i32
): void {
  const per: f32 = 1 / <f32>width
  // pixels beside each other mostly have one core
  let lastPlace = -1
  let lastOwn = f32x4.splat(0)
  for (let y = 0, p = 0; y < height; y++) {
    const v = <f64>y / <f64>height
    const c0 = termOf(surfaces, 0, v)
    const c1 = termOf(surfaces, 1, v)
    const c2 = termOf(surfaces, 2, v)
    for (let x = 0; x < width; x++, p++) {
      const wide = (<usize>p) << 4
      const o = (<usize>p) << 2
      let pixel = pixelOf(from, kind, <usize>p)
      const had = f32x4.extract_lane(pixel, 3)
      store<f32>(sure + o, 1)
      if (load<u8>(bares + <usize>p)) {
        putPixel(to, kind, <usize>p, f32x4.splat(0))
        continue
      }
      let a: f32 = 1
      const screen = plate ? v128.load(plate + wide) : alongRow(c0, c1, c2, <f32>x * per)
      if (!load<u8>(cores + <usize>p)) {
        const hue = hueOf(load<f32>(away + o), load<f32>(cross + o), across)
        const place = nearestTo(coreRows, width, x, y)
        const toCore: f32 = place < 0 ? 0 : distanceTo(place, x, y)
        const colour = colourNear(from, kind, p, width, height, noise, 0)
        let own = colour
        let share: f32 = <f32>NaN
        if (place >= 0) {
          if (place != lastPlace) {
            lastOwn = colourNear(from, kind, (place >>> 16) * width + (place & 0xffff), width, height, noise, cores)
            lastPlace = place
          }
          own = lastOwn
          share = shareOfWay(colour, own, screen)
        }
        a = held01(share == share ? share : hue)
        if (a < 1 && (hue >= SURELY || a > INSIDE_LEAST)) {
          const out = nearestTo(bareRows, width, x, y)
          if (hue >= SURELY && out >= 0 && liesBetween(cores, width, x, y, out)) a = 1
          else if (a > INSIDE_LEAST) {
            if (out < 0) a = 1
            else if (place >= 0) {
              const toBare = distanceTo(out, x, y)
              if (toBare > INSIDE * (toBare + toCore)) a = 1
            }
          }
        }
        if (a < solid && a > clear && a > 0 && a < 1)
          store<f32>(sure + o, place < 0 ? 0 : surenessOf(colour, own, screen, a, toCore))
        if (a < solid && noisy) pixel = colour
      }
      if (a >= solid) a = 1
      else if (a < clear) a = max<f32>(0, 2 * a - clear)
      if (a <= 0) pixel = f32x4.splat(0)
      else if (a < 1) {
        const left = f32x4.div(f32x4.sub(pixel, f32x4.mul(f32x4.splat(1 - a), screen)), f32x4.splat(a))
        pixel = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), left))
      }
      if (spill > 0) pixel = withoutSpill(pixel, channel, spill, lean)
      putPixel(to, kind, <usize>p, f32x4.replace_lane(pixel, 3, had * a))
    }
  }
}
