// Eight pixels of RGBA of 16 bits, two to a vector, as eight codes of one component.

// @ts-ignore: decorator
@inline
export function reds(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<u64>(
    v128.shuffle<u16>(a, b, 0, 4, 8, 12, 1, 5, 9, 13),
    v128.shuffle<u16>(c, d, 0, 4, 8, 12, 1, 5, 9, 13),
    0, 2
  )
}

// @ts-ignore: decorator
@inline
export function greens(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<u64>(
    v128.shuffle<u16>(a, b, 0, 4, 8, 12, 1, 5, 9, 13),
    v128.shuffle<u16>(c, d, 0, 4, 8, 12, 1, 5, 9, 13),
    1, 3
  )
}

// @ts-ignore: decorator
@inline
export function blues(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<u64>(
    v128.shuffle<u16>(a, b, 2, 6, 10, 14, 3, 7, 11, 15),
    v128.shuffle<u16>(c, d, 2, 6, 10, 14, 3, 7, 11, 15),
    0, 2
  )
}

// @ts-ignore: decorator
@inline
export function alphas(a: v128, b: v128, c: v128, d: v128): v128 {
  return v128.shuffle<u64>(
    v128.shuffle<u16>(a, b, 2, 6, 10, 14, 3, 7, 11, 15),
    v128.shuffle<u16>(c, d, 2, 6, 10, 14, 3, 7, 11, 15),
    1, 3
  )
}

/** Eight codes of 16 bits as those of fewer, whose largest is `most`: times most / 65535, rounded. */
// @ts-ignore: decorator
@inline
export function narrowed(v: v128, most: v128): v128 {
  const half = i32x4.splat(32768)
  const low = i32x4.add(i32x4.extmul_low_i16x8_u(v, most), half)
  const high = i32x4.add(i32x4.extmul_high_i16x8_u(v, most), half)
  return i16x8.narrow_i32x4_u(
    i32x4.shr_u(i32x4.add(low, i32x4.shr_u(low, 16)), 16),
    i32x4.shr_u(i32x4.add(high, i32x4.shr_u(high, 16)), 16)
  )
}
