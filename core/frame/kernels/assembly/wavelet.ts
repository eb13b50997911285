// A wavelet picture's bands from their codes, and the picture from its bands. Each level is the transform of two taps
// low and six high: a low value is the sum of two neighbours, a high one their difference less what the low values
// beside them foretell. Down is undone before across. Codes and tables are those of `wavelet-codes.ts`.

/** Kinds of what is looked up. */
const LEVEL: u32 = 1
const DEEPER: u32 = 2
const END: u32 = 3

/** What became of a band: all is well, it says too much, it ends early. */
const GOOD: i32 = 0
const TOO_MUCH: i32 = 1
const EARLY: i32 = 2

/** Bits from the place `bit` on, the first at the top; 57 of them hold. */
// @ts-ignore: decorator
@inline
function bitsAt(from: usize, bit: u64): u64 {
  return bswap<u64>(load<u64>(from + <usize>(bit >> 3))) << (bit & 7)
}

/**
 * Reads the codes of a band into `count` coefficients, which are zero before. `sizes` has what each of 512 sizes stands
 * for, zero at 256. Eight bytes behind the codes may be read.
 */
export function waveletBand(from: usize, bytes: i32, to: usize, count: i32, table: usize, sizes: usize): i32 {
  const end = to + ((<usize>count) << 1)
  const bits = (<u64>bytes) << 3
  let bit: u64 = 0
  while (bit < bits) {
    let word = bitsAt(from, bit)
    let used: u32 = 0
    let entry: u32 = 0
    // the first table takes twelve bits, and 57 are at hand
    do {
      entry = load<u32>(table + ((<usize>(word >> 52)) << 2))
      if (entry >> 31) break
      const takes = (entry >> 25) & 31
      const level = entry >> 30
      word <<= <u64>takes
      used += takes
      to += ((<usize>(entry >> 14)) & 2047) << 1
      if (to + ((<usize>level) << 1) > end) return TOO_MUCH
      // after a run alone it is the zero behind it, which the next code overwrites
      store<i16>(to, load<i16>(sizes + (((<usize>entry) & 16383) << 1)))
      to += (<usize>level) << 1
    } while (used <= 45)
    bit += <u64>used
    if (entry >> 31 == 0) continue
    word = bitsAt(from, bit)
    entry = load<u32>(table + ((<usize>(word >> 52)) << 2))
    if (entry >> 30 == DEEPER) {
      entry = load<u32>(table + ((((<usize>entry) & 16383) + ((<usize>(word >> 44)) & 255)) << 2))
      if (entry >> 30 == DEEPER)
        entry = load<u32>(table + ((((<usize>entry) & 16383) + ((<usize>(word >> 37)) & 127)) << 2))
    }
    bit += <u64>((entry >> 25) & 31)
    const kind = entry >> 30
    if (kind == END) return bit > bits ? EARLY : GOOD
    to += ((<usize>(entry >> 14)) & 2047) << 1
    if (to + (kind == LEVEL ? 2 : 0) > end) return TOO_MUCH
    if (kind == LEVEL) {
      store<i16>(to, load<i16>(sizes + (((<usize>entry) & 16383) << 1)))
      to += 2
    }
  }
  return EARLY
}

/** Each coefficient of a line plus those before it. */
export function waveletSum(at: usize, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    let sum: i32 = 0
    for (let x = 0; x < width; x++, at += 2) {
      sum += <i32>load<i16>(at)
      store<i16>(at, <i16>sum)
    }
  }
}

/** Values of 16 bits from the high byte on. */
export function waveletLow(from: usize, to: usize, count: i32): void {
  for (let i: usize = 0; i < <usize>count; i += 8)
    v128.store(
      to + (i << 1),
      v128.swizzle(v128.load(from + (i << 1)), i8x16(1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14))
    )
}

/** The first of two neighbours at a rim: its low value, those behind it, and the high one. */
// @ts-ignore: decorator
@inline
function rimFar(a: i32, b: i32, c: i32, high: i32): i32 {
  return (((11 * a - 4 * b + c + 4) >> 3) + high) >> 1
}

/** The second of them. */
// @ts-ignore: decorator
@inline
function rimNear(a: i32, b: i32, c: i32, high: i32): i32 {
  return (((5 * a + 4 * b - c + 4) >> 3) + high) >> 1
}

/** Two lines at a rim of a picture, from low lines from the rim inwards; at the bottom the second comes first. */
function rimLines(a: usize, b: usize, c: usize, high: usize, first: usize, second: usize, bytes: usize, sign: i32): void {
  for (let x: usize = 0; x < bytes; x += 2) {
    const l = <i32>load<i16>(a + x)
    const m = <i32>load<i16>(b + x)
    const n = <i32>load<i16>(c + x)
    const h = sign * <i32>load<i16>(high + x)
    store<i16>(first + x, <i16>rimFar(l, m, n, h))
    store<i16>(second + x, <i16>rimNear(l, m, n, -h))
  }
}

/** Bytes of a band's line: whole vectors. */
// @ts-ignore: decorator
@inline
export function bandLine(width: i32): usize {
  return (<usize>((width + 7) & ~7)) << 1
}

/**
 * Undoes a step down of the line `y`: two lines from a low one, those above and below, and a high one. Lines of the low
 * ones lie `stride` bytes apart, of the high ones as those of bands do.
 */
function twoLines(
  low: usize,
  stride: usize,
  high: usize,
  width: i32,
  height: i32,
  y: i32,
  even: usize,
  odd: usize
): void {
  const bytes = (<usize>width) << 1
  const l = low + <usize>y * stride
  const h = high + <usize>y * bandLine(width)
  if (y == 0) return rimLines(l, l + stride, l + 2 * stride, h, even, odd, bytes, 1)
  if (y == height - 1) return rimLines(l, l - stride, l - 2 * stride, h, odd, even, bytes, -1)
  const four = i16x8.splat(4)
  for (let x: usize = 0; x < bytes; x += 16) {
    const slope = i16x8.sub(v128.load(l - stride + x), v128.load(l + stride + x))
    const centre = v128.load(l + x)
    const step = v128.load(h + x)
    const down = i16x8.shr_s(i16x8.add(slope, four), 3)
    const up = i16x8.shr_s(i16x8.sub(four, slope), 3)
    v128.store(even + x, i16x8.shr_s(i16x8.add(i16x8.add(centre, down), step), 1))
    v128.store(odd + x, i16x8.shr_s(i16x8.sub(i16x8.add(centre, up), step), 1))
  }
}

// @ts-ignore: decorator
@inline
function ended(v: i32, shift: i32, most: i32): i16 {
  return <i16>(most ? max(0, min(most, v)) : v << shift)
}

/**
 * Undoes a step across: a line of twice the width, made larger by `shift`, or, where there is a `most`, held from 0 to
 * it. Sixteen bytes before and behind the lines may be read, and behind the result written.
 */
function across(low: usize, high: usize, to: usize, width: i32, shift: i32, most: i32): void {
  const bytes = (<usize>width) << 1
  const four = i16x8.splat(4)
  const ceiling = i16x8.splat(<i16>most)
  const floor = i16x8.splat(0)
  for (let x: usize = 0; x < bytes; x += 16) {
    const slope = i16x8.sub(v128.load(low + x - 2), v128.load(low + x + 2))
    const centre = v128.load(low + x)
    const step = v128.load(high + x)
    const down = i16x8.shr_s(i16x8.add(slope, four), 3)
    const up = i16x8.shr_s(i16x8.sub(four, slope), 3)
    let even = i16x8.shr_s(i16x8.add(i16x8.add(centre, down), step), 1)
    let odd = i16x8.shr_s(i16x8.sub(i16x8.add(centre, up), step), 1)
    if (most) {
      even = i16x8.max_s(floor, i16x8.min_s(ceiling, even))
      odd = i16x8.max_s(floor, i16x8.min_s(ceiling, odd))
    } else {
      even = i16x8.shl(even, shift)
      odd = i16x8.shl(odd, shift)
    }
    v128.store(to + 2 * x, v128.shuffle<u16>(even, odd, 0, 8, 1, 9, 2, 10, 3, 11))
    v128.store(to + 2 * x + 16, v128.shuffle<u16>(even, odd, 4, 12, 5, 13, 6, 14, 7, 15))
  }
  let a = <i32>load<i16>(low)
  let b = <i32>load<i16>(low + 2)
  let c = <i32>load<i16>(low + 4)
  let h = <i32>load<i16>(high)
  store<i16>(to, ended(rimFar(a, b, c, h), shift, most))
  store<i16>(to + 2, ended(rimNear(a, b, c, -h), shift, most))
  const last = bytes - 2
  a = <i32>load<i16>(low + last)
  b = <i32>load<i16>(low + last - 2)
  c = <i32>load<i16>(low + last - 4)
  h = <i32>load<i16>(high + last)
  store<i16>(to + 2 * last, ended(rimNear(a, b, c, h), shift, most))
  store<i16>(to + 2 * last + 2, ended(rimFar(a, b, c, -h), shift, most))
}

/**
 * A picture of twice the width and height from its four bands: low, high across, high down, high both ways; lines of
 * the high ones are whole vectors. It is made larger by `shift` bits, or held from 0 to `most` where that is not 0. `lines` has room for four lines of the bands
 * and a vector at each end of each.
 */
export function waveletUp(
  low: usize,
  highAcross: usize,
  highDown: usize,
  highBoth: usize,
  to: usize,
  width: i32,
  height: i32,
  lines: usize,
  shift: i32,
  most: i32
): void {
  const room = ((<usize>width) << 1) + 64
  const l0 = lines + 16
  const l1 = l0 + room
  const h0 = l1 + room
  const h1 = h0 + room
  const line = (<usize>width) << 2
  for (let y = 0; y < height; y++) {
    twoLines(low, (<usize>width) << 1, highDown, width, height, y, l0, l1)
    twoLines(highAcross, bandLine(width), highBoth, width, height, y, h0, h1)
    across(l0, h0, to, width, shift, most)
    across(l1, h1, to + line, width, shift, most)
    to += 2 * line
  }
}

/** Codes of 12 bits as those of 16: times 65535 / 4095, rounded. */
// @ts-ignore: decorator
@inline
function widened(v: v128): v128 {
  const times = i16x8.splat(3841)
  const half = i32x4.splat(1 << 19)
  const low = i32x4.shr_u(i32x4.add(i32x4.extmul_low_i16x8_u(v, times), half), 20)
  const high = i32x4.shr_u(i32x4.add(i32x4.extmul_high_i16x8_u(v, times), half), 20)
  return i16x8.add(i16x8.shl(v, 4), i16x8.narrow_i32x4_u(low, high))
}

/** Alpha from its coded form, which begins at 256 and has fewer steps. */
// @ts-ignore: decorator
@inline
function alphaOfCode(v: v128): v128 {
  const steps = i16x8.max_s(i16x8.splat(0), i16x8.sub(v, i16x8.splat(256)))
  const gain = i16x8.splat(9400)
  const low = i32x4.shr_s(i32x4.extmul_low_i16x8_s(steps, gain), 13)
  const high = i32x4.shr_s(i32x4.extmul_high_i16x8_s(steps, gain), 13)
  return i16x8.min_s(i16x8.narrow_i32x4_s(low, high), i16x8.splat(4095))
}

/**
 * RGBA of 16 bits from planes of 12 bits with `stride` codes a line; alpha is solid where there is no plane (0).
 * Widths that are no multiple of eight write beyond a line, and the last beyond the end.
 */
export function waveletPack(
  green: usize,
  red: usize,
  blue: usize,
  alpha: usize,
  to: usize,
  stride: i32,
  width: i32,
  height: i32
): void {
  for (let y = 0; y < height; y++) {
    const row = (<usize>(y * stride)) << 1
    const out = to + ((<usize>y * <usize>width) << 3)
    for (let x = 0; x < width; x += 8) {
      const at = row + ((<usize>x) << 1)
      const r = widened(v128.load(red + at))
      const g = widened(v128.load(green + at))
      const b = widened(v128.load(blue + at))
      const a = alpha ? widened(alphaOfCode(v128.load(alpha + at))) : i16x8.splat(-1)
      const rg = v128.shuffle<u16>(r, g, 0, 8, 1, 9, 2, 10, 3, 11)
      const ba = v128.shuffle<u16>(b, a, 0, 8, 1, 9, 2, 10, 3, 11)
      const rgHigh = v128.shuffle<u16>(r, g, 4, 12, 5, 13, 6, 14, 7, 15)
      const baHigh = v128.shuffle<u16>(b, a, 4, 12, 5, 13, 6, 14, 7, 15)
      const pixel = out + ((<usize>x) << 3)
      v128.store(pixel, v128.shuffle<u32>(rg, ba, 0, 4, 1, 5))
      v128.store(pixel, v128.shuffle<u32>(rg, ba, 2, 6, 3, 7), 16)
      v128.store(pixel, v128.shuffle<u32>(rgHigh, baHigh, 0, 4, 1, 5), 32)
      v128.store(pixel, v128.shuffle<u32>(rgHigh, baHigh, 2, 6, 3, 7), 48)
    }
  }
}
