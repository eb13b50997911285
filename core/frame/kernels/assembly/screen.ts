// A screen's colour, and how pixels lie to its chroma; tests/oracles/beside.ts and core/frame/kernels/plate.ts define
// it. Pictures are codes of 8 bits (`kind` 0) or 16 (1), or floats (2). A screen's colour is a plate of four f32 a
// pixel, or where that is 0 three surfaces of six f64; see `termOf`.

export const KR: f32 = 0.2126
export const KG: f32 = 0.7152
export const KB: f32 = 0.0722
export const CB: f32 = 1 / 1.8556
export const CR: f32 = 1 / 1.5748

// @ts-ignore: decorator
@inline
export function lumaOf(r: f32, g: f32, b: f32): f32 {
  return KR * r + KG * g + KB * b
}

const BYTES: i32 = 0
const WORDS: i32 = 1
const FLOATS: i32 = 2

/** Pixel `p` of a picture, 0 to 1. */
// @ts-ignore: decorator
@inline
export function pixelOf(from: usize, kind: i32, p: usize): v128 {
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

/** One channel of four pixels from `p` on, 0 to 1; `c` is known when this is compiled, and 3 for codes alone. */
// @ts-ignore: decorator
@inline
export function channelOf(from: usize, kind: i32, p: usize, c: i32): v128 {
  if (kind == BYTES) {
    // four pixels are one vector, whose bytes lie apart in each of its four lanes
    const codes = v128.and(i32x4.shr_u(v128.load(from + (p << 2)), c << 3), i32x4.splat(255))
    return f32x4.mul(f32x4.convert_i32x4_u(codes), f32x4.splat(1.0 / 255.0))
  }
  if (kind == WORDS) {
    const two = i64x2.shr_u(v128.load(from + (p << 3)), c << 4)
    const next = i64x2.shr_u(v128.load(from + (p << 3), 16), c << 4)
    const codes = v128.and(v128.shuffle<u32>(two, next, 0, 2, 4, 6), i32x4.splat(0xffff))
    return f32x4.mul(f32x4.convert_i32x4_u(codes), f32x4.splat(1.0 / 65535.0))
  }
  const at = from + (p << 4)
  const q = v128.load(at)
  const r = v128.load(at, 16)
  const s = v128.load(at, 32)
  const t = v128.load(at, 48)
  if (c == 0) return v128.shuffle<u32>(v128.shuffle<u32>(q, r, 0, 4, 0, 4), v128.shuffle<u32>(s, t, 0, 4, 0, 4), 0, 1, 4, 5)
  if (c == 1) return v128.shuffle<u32>(v128.shuffle<u32>(q, r, 1, 5, 1, 5), v128.shuffle<u32>(s, t, 1, 5, 1, 5), 0, 1, 4, 5)
  return v128.shuffle<u32>(v128.shuffle<u32>(q, r, 2, 6, 2, 6), v128.shuffle<u32>(s, t, 2, 6, 2, 6), 0, 1, 4, 5)
}

/** Puts a pixel of 0 to 1: as floats, or as codes of 16 bits where the picture came as codes. */
// @ts-ignore: decorator
@inline
export function putPixel(to: usize, kind: i32, p: usize, pixel: v128): void {
  if (kind > WORDS) {
    v128.store(to + (p << 4), pixel)
    return
  }
  const codes = i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(pixel, f32x4.splat(65535)), f32x4.splat(0.5)))
  v128.store64_lane(to + (p << 3), i16x8.narrow_i32x4_u(codes, codes), 0)
}

// @ts-ignore: decorator
@inline
export function held01(v: f32): f32 {
  return min<f32>(1, max<f32>(0, v))
}

// @ts-ignore: decorator
@inline
export function hueOf(away: f32, cross: f32, across: f32): f32 {
  return 1 - held01(1 - away - abs(cross) * across)
}

/**
 * One term in x of the screen's colour along a row: red, green, blue and 0. `surfaces` has six f64 a channel: 1, x, y,
 * x * x, x * y, y * y; `v` is the row's place, 0 to 1.
 */
export function termOf(surfaces: usize, term: i32, v: f64): v128 {
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
export function held(v: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v))
}

// @ts-ignore: decorator
@inline
export function alongRow(c0: v128, c1: v128, c2: v128, u: f32): v128 {
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
      const r = channelOf(from, kind, row + x, 0)
      const g = channelOf(from, kind, row + x, 1)
      const b = channelOf(from, kind, row + x, 2)
      let kr: v128
      let kg: v128
      let kb: v128
      if (plate) {
        kr = channelOf(plate, FLOATS, row + x, 0)
        kg = channelOf(plate, FLOATS, row + x, 1)
        kb = channelOf(plate, FLOATS, row + x, 2)
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

// @ts-ignore: decorator
@inline
export function sum3(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2)
}
