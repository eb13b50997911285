// Premultiplying and un-premultiplying of interleaved RGBA.
//
// Division by 255 and 65535 with rounding is exact through t = x + half + 1, (t + (t >> n)) >> n, for all x up to full
// * full.

const ALPHA_LANE8: v128 = i8x16(3, 3, 3, 3, 7, 7, 7, 7, 11, 11, 11, 11, 15, 15, 15, 15)

/** 1 if any of `pixels` RGBA pixels at `from` has alpha. */
export function seen(from: usize, pixels: i32, sampleBytes: i32): i32 {
  const bytes = <usize>pixels << (sampleBytes == 2 ? 3 : 2)
  const mask = sampleBytes == 2 ? i64x2.splat(0xffff000000000000) : i32x4.splat(0xff000000)
  let at: usize = 0
  for (; at + 64 <= bytes; at += 64) {
    const any = v128.or(v128.or(v128.load(from + at), v128.load(from + at, 16)), v128.or(v128.load(from + at, 32), v128.load(from + at, 48)))
    if (v128.any_true(v128.and(any, mask))) return 1
  }
  for (; at < bytes; at += <usize>(4 * sampleBytes)) {
    if ((sampleBytes == 2 ? <u32>load<u16>(from + at, 6) : <u32>load<u8>(from + at, 3)) != 0) return 1
  }
  return 0
}

/** Straight to premultiplied, 8 bits: `pixels` pixels at `from` to `to`, matte codes 0 to 255. */
export function premultiply8(from: usize, to: usize, pixels: i32, mr: i32, mg: i32, mb: i32): void {
  const matte = i16x8(<i16>mr, <i16>mg, <i16>mb, 0, <i16>mr, <i16>mg, <i16>mb, 0)
  const full = i16x8.splat(255)
  const round = i16x8.splat(128)
  const alphaMask = i32x4.splat(0xff000000)
  let i = 0
  for (; i + 4 <= pixels; i += 4) {
    const p = v128.load(from)
    const a = v128.swizzle(p, ALPHA_LANE8)
    let low = i16x8.mul(i16x8.extend_low_i8x16_u(p), i16x8.extend_low_i8x16_u(a))
    let high = i16x8.mul(i16x8.extend_high_i8x16_u(p), i16x8.extend_high_i8x16_u(a))
    low = i16x8.add(low, i16x8.mul(matte, i16x8.sub(full, i16x8.extend_low_i8x16_u(a))))
    high = i16x8.add(high, i16x8.mul(matte, i16x8.sub(full, i16x8.extend_high_i8x16_u(a))))
    low = i16x8.add(low, round)
    high = i16x8.add(high, round)
    low = i16x8.shr_u(i16x8.add(low, i16x8.shr_u(low, 8)), 8)
    high = i16x8.shr_u(i16x8.add(high, i16x8.shr_u(high, 8)), 8)
    v128.store(to, v128.bitselect(p, i8x16.narrow_i16x8_u(low, high), alphaMask))
    from += 16
    to += 16
  }
  for (; i < pixels; i++) {
    const a: u32 = load<u8>(from, 3)
    const rest: u32 = 255 - a
    store<u8>(to, divide255(<u32>load<u8>(from) * a + <u32>mr * rest))
    store<u8>(to, divide255(<u32>load<u8>(from, 1) * a + <u32>mg * rest), 1)
    store<u8>(to, divide255(<u32>load<u8>(from, 2) * a + <u32>mb * rest), 2)
    store<u8>(to, a, 3)
    from += 4
    to += 4
  }
}

// @ts-ignore: decorator
@inline
function divide255(x: u32): u32 {
  const t = x + 128
  return (t + (t >> 8)) >> 8
}

const ALPHA_LANE16: v128 = i8x16(6, 7, 6, 7, 6, 7, 6, 7, 14, 15, 14, 15, 14, 15, 14, 15)

// @ts-ignore: decorator
@inline
function divide65535(x: v128): v128 {
  const t = i32x4.add(x, i32x4.splat(32768))
  return i32x4.shr_u(i32x4.add(t, i32x4.shr_u(t, 16)), 16)
}

/** Straight to premultiplied, 16 bits. */
export function premultiply16(from: usize, to: usize, pixels: i32, mr: i32, mg: i32, mb: i32): void {
  const matte = i16x8(<i16>mr, <i16>mg, <i16>mb, 0, <i16>mr, <i16>mg, <i16>mb, 0)
  const onBlack = (mr | mg | mb) == 0
  const alphaMask = i64x2.splat(0xffff000000000000)
  const full = i16x8.splat(-1)
  let i = 0
  for (; i + 2 <= pixels; i += 2) {
    const p = v128.load(from)
    const first = <u32>load<u16>(from, 6)
    const second = <u32>load<u16>(from, 14)
    // most of an animation is solid or clear, in runs: those need no arithmetic
    if ((first & second) == 65535) v128.store(to, p)
    else if (onBlack && (first | second) == 0) v128.store(to, i16x8.splat(0))
    else {
      const a = v128.shuffle<u16>(p, p, 3, 3, 3, 3, 7, 7, 7, 7)
      let low = i32x4.extmul_low_i16x8_u(p, a)
      let high = i32x4.extmul_high_i16x8_u(p, a)
      if (!onBlack) {
        const rest = i16x8.sub(full, a)
        low = i32x4.add(low, i32x4.extmul_low_i16x8_u(matte, rest))
        high = i32x4.add(high, i32x4.extmul_high_i16x8_u(matte, rest))
      }
      v128.store(to, v128.bitselect(p, i16x8.narrow_i32x4_u(divide65535(low), divide65535(high)), alphaMask))
    }
    from += 16
    to += 16
  }
  for (; i < pixels; i++) {
    const p = v128.load64_zero(from)
    const a = v128.swizzle(p, ALPHA_LANE16)
    const low = i32x4.add(i32x4.extmul_low_i16x8_u(p, a), i32x4.extmul_low_i16x8_u(matte, i16x8.sub(full, a)))
    const codes = divide65535(low)
    v128.store64_lane(to, v128.bitselect(p, i16x8.narrow_i32x4_u(codes, codes), alphaMask), 0)
    from += 8
    to += 8
  }
}

/**
 * Premultiplied to straight, 8 bits. f32 is exact here: |x / a - (k + 1/2)| is 0 or at least 1/510, far above its error
 * below 256.
 */
export function unpremultiply8(from: usize, to: usize, pixels: i32, mr: i32, mg: i32, mb: i32): void {
  const matte = f32x4(<f32>mr, <f32>mg, <f32>mb, 0)
  const full = f32x4.splat(255)
  const half = f32x4.splat(0.5)
  const zero = f32x4.splat(0)
  for (let i = 0; i < pixels; i++) {
    const pixel = load<u32>(from)
    const alpha = pixel >>> 24
    if (alpha == 255) {
      store<u32>(to, pixel)
    } else if (alpha == 0) {
      store<u32>(to, 0)
    } else {
      const p = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(from))))
      const a = f32x4.splat(<f32>alpha)
      let t = f32x4.div(f32x4.sub(f32x4.mul(p, full), f32x4.mul(matte, f32x4.sub(full, a))), a)
      t = f32x4.min(f32x4.max(f32x4.floor(f32x4.add(t, half)), zero), full)
      let codes = i32x4.trunc_sat_f32x4_u(t)
      codes = i32x4.replace_lane(codes, 3, alpha)
      const words = i16x8.narrow_i32x4_u(codes, codes)
      v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0)
    }
    from += 4
    to += 4
  }
}

// in memory, from where one instruction spreads each over a vector: full, the nudge, zero, and 2^52
const F = memory.data<f64>([65535, 1e-7, 0, 4503599627370496])

/**
 * One channel pair of a pixel to straight. Numerators are whole and exact in f64; the product with 1/a errs by less
 * than 1e-10. A quotient lies on a half or at least 1/131070 off one, so a nudge of 1e-7 sends halves up and moves
 * nothing else. Adding 2^52 leaves the rounded whole number in the low bits.
 */
// @ts-ignore: decorator
@inline
function quotient(codes: v128, laid: v128, one: v128): v128 {
  const full = v128.load64_splat(F)
  const t = f64x2.add(f64x2.mul(f64x2.sub(f64x2.mul(codes, full), laid), one), v128.load64_splat(F, 8))
  return f64x2.add(f64x2.pmin(f64x2.pmax(t, v128.load64_splat(F, 16)), full), v128.load64_splat(F, 24))
}

/** Premultiplied to straight, 16 bits. */
export function unpremultiply16(from: usize, to: usize, pixels: i32, mr: i32, mg: i32, mb: i32): void {
  const matteLow = f64x2(<f64>mr, <f64>mg)
  const matteHigh = f64x2(<f64>mb, 0)
  const end = from + (<usize>pixels << 3)
  while (from < end) {
    // runs of solid pixels go over in pairs
    while (from + 16 <= end && (<u32>load<u16>(from, 6) & <u32>load<u16>(from, 14)) == 65535) {
      v128.store(to, v128.load(from))
      from += 16
      to += 16
    }
    if (from >= end) break
    const alpha = <u32>load<u16>(from, 6)
    if (alpha == 65535) {
      store<u64>(to, load<u64>(from))
    } else if (alpha == 0) {
      store<u64>(to, 0)
    } else {
      const p = i32x4.extend_low_i16x8_u(v128.load64_zero(from))
      const one = f64x2.splat(1.0 / <f64>alpha)
      const rest = f64x2.splat(<f64>(65535 - alpha))
      const low = quotient(f64x2.convert_low_i32x4_s(p), f64x2.mul(matteLow, rest), one)
      const high = quotient(f64x2.convert_low_i32x4_s(v128.shuffle<u64>(p, p, 1, 0)), f64x2.mul(matteHigh, rest), one)
      const codes = v128.shuffle<u32>(low, high, 0, 2, 4, 6)
      v128.store64_lane(to, i16x8.narrow_i32x4_u(codes, codes), 0)
      store<u16>(to, <u16>alpha, 6)
    }
    from += 8
    to += 8
  }
}
