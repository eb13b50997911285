// Codes to floats of 0 to 1 and back, rounded to nearest. Rounding is done in f64, where the product is exact: adding
// 2^52 leaves the nearest whole number in the low bits. (A half occurs for the value 1/2 only, and its nearest even
// code is the higher one.)

/** 16-bit codes; reads and writes up to 7 samples beyond the end. */
export function floatsOf16(from: usize, to: usize, n: i32): void {
  const full = f32x4.splat(65535)
  for (let i = 0; i < n; i += 8) {
    const codes = v128.load(from)
    v128.store(to, f32x4.div(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(codes)), full))
    v128.store(to, f32x4.div(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(codes)), full), 16)
    from += 16
    to += 32
  }
}

/** 8-bit codes. */
export function floatsOf8(from: usize, to: usize, n: i32): void {
  const full = f32x4.splat(255)
  for (let i = 0; i < n; i += 8) {
    const codes = i16x8.extend_low_i8x16_u(v128.load64_zero(from))
    v128.store(to, f32x4.div(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(codes)), full))
    v128.store(to, f32x4.div(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(codes)), full), 16)
    from += 8
    to += 32
  }
}

// @ts-ignore: decorator
@inline
function rounded(values: v128, full: v128): v128 {
  const zero = f64x2.splat(0)
  const one = f64x2.splat(1)
  const magic = f64x2.splat(4503599627370496)
  // in this order what is not a number becomes zero
  const low = f64x2.mul(f64x2.pmin(one, f64x2.pmax(zero, f64x2.promote_low_f32x4(values))), full)
  const high = f64x2.mul(f64x2.pmin(one, f64x2.pmax(zero, f64x2.promote_low_f32x4(v128.shuffle<u64>(values, values, 1, 0)))), full)
  return v128.shuffle<u32>(f64x2.add(low, magic), f64x2.add(high, magic), 0, 2, 4, 6)
}

export function codes16Of(from: usize, to: usize, n: i32): void {
  const full = f64x2.splat(65535)
  for (let i = 0; i < n; i += 8) {
    v128.store(to, i16x8.narrow_i32x4_u(rounded(v128.load(from), full), rounded(v128.load(from, 16), full)))
    from += 32
    to += 16
  }
}

export function codes8Of(from: usize, to: usize, n: i32): void {
  const full = f64x2.splat(255)
  for (let i = 0; i < n; i += 8) {
    const words = i16x8.narrow_i32x4_u(rounded(v128.load(from), full), rounded(v128.load(from, 16), full))
    v128.store64_lane(to, i8x16.narrow_i16x8_u(words, words), 0)
    from += 32
    to += 8
  }
}
