// A picture as the bands of a wavelet picture, and their codes: what `wavelet.ts` undoes, across before down. What is
// taken from a picture is exact until it is divided by the quantisers.
import { alphas, blues, greens, narrowed, reds } from './lanes'
import { bandLine } from './wavelet'

/** Alpha of 12 bits in its coded form: from 256 on, in fewer steps. */
// @ts-ignore: decorator
@inline
function codeOfAlpha(v: v128): v128 {
  return i16x8.add(i16x8.q15mulr_sat_s(v, i16x8.splat(28557)), i16x8.splat(256))
}

/**
 * Green, red, blue and, where there is a plane for it, alpha, of 12 bits from RGBA of 16; `pixels` is a multiple of 8.
 */
export function waveletUnpack(from: usize, pixels: i32, green: usize, red: usize, blue: usize, alpha: usize): void {
  const most = i16x8.splat(4095)
  for (let x: usize = 0; x < <usize>pixels; x += 8) {
    const at = from + (x << 3)
    const a = v128.load(at)
    const b = v128.load(at, 16)
    const c = v128.load(at, 32)
    const d = v128.load(at, 48)
    const to = x << 1
    v128.store(red + to, narrowed(reds(a, b, c, d), most))
    v128.store(green + to, narrowed(greens(a, b, c, d), most))
    v128.store(blue + to, narrowed(blues(a, b, c, d), most))
    if (alpha) v128.store(alpha + to, codeOfAlpha(narrowed(alphas(a, b, c, d), most)))
  }
}

/** What two neighbours at a rim differ by from what low values from the rim inwards foretell; `high` is 2 a - low. */
// @ts-ignore: decorator
@inline
function offRim(a: i32, b: i32, c: i32, twice: i32): i16 {
  return <i16>(twice - ((11 * a - 4 * b + c + 4) >> 3))
}

/** A line across: sums of neighbours, and their differences from what the sums beside them foretell. */
function across(from: usize, width: i32, low: usize, high: usize): void {
  const bytes = (<usize>width) << 1
  for (let x: usize = 0; x < bytes; x += 16) {
    const a = v128.load(from + 2 * x)
    const b = v128.load(from + 2 * x, 16)
    const even = v128.shuffle<u16>(a, b, 0, 2, 4, 6, 8, 10, 12, 14)
    const odd = v128.shuffle<u16>(a, b, 1, 3, 5, 7, 9, 11, 13, 15)
    v128.store(low + x, i16x8.add(even, odd))
    v128.store(high + x, i16x8.sub(even, odd))
  }
  const last = bytes - 2
  const firstTwice = <i32>load<i16>(low) + <i32>load<i16>(high)
  const lastTwice = <i32>load<i16>(low + last) - <i32>load<i16>(high + last)
  const four = i16x8.splat(4)
  for (let x: usize = 0; x < bytes; x += 16) {
    const slope = i16x8.sub(v128.load(low + x - 2), v128.load(low + x + 2))
    v128.store(high + x, i16x8.sub(v128.load(high + x), i16x8.shr_s(i16x8.add(slope, four), 3)))
  }
  store<i16>(high, offRim(load<i16>(low), load<i16>(low + 2), load<i16>(low + 4), firstTwice))
  store<i16>(
    high + last,
    -offRim(load<i16>(low + last), load<i16>(low + last - 2), load<i16>(low + last - 4), lastTwice)
  )
}

/**
 * A high line down, which is the difference of two lines, less what the low lines above and below foretell, which lie
 * `stride` bytes apart.
 */
function offLine(low: usize, stride: usize, high: usize, bytes: usize, y: i32, height: i32): void {
  if (y > 0 && y < height - 1) {
    const four = i16x8.splat(4)
    for (let x: usize = 0; x < bytes; x += 16) {
      const slope = i16x8.sub(v128.load(low - stride + x), v128.load(low + stride + x))
      v128.store(high + x, i16x8.sub(v128.load(high + x), i16x8.shr_s(i16x8.add(slope, four), 3)))
    }
    return
  }
  const inwards = y == 0 ? <isize>stride : -(<isize>stride)
  const sign = y == 0 ? 1 : -1
  for (let x: usize = 0; x < bytes; x += 2) {
    const at = low + x
    const a = <i32>load<i16>(at)
    const twice = a + sign * <i32>load<i16>(high + x)
    store<i16>(high + x, <i16>(sign * <i32>offRim(a, load<i16>(at + inwards), load<i16>(at + 2 * inwards), twice)))
  }
}

/** Low values made smaller by bits, rounded. */
function reduce(at: usize, bytes: usize, bits: i32): void {
  if (!bits) return
  const half = i16x8.splat(<i16>(<i32>1 << (bits - 1)))
  for (let x: usize = 0; x < bytes; x += 16)
    v128.store(at + x, i16x8.shr_s(i16x8.add(v128.load(at + x), half), bits))
}

/**
 * Four bands of half the width and height: low, made smaller by `shift` bits; high across, high down and high both
 * ways, their lines filled with zeros to whole vectors. `lines` has room for four lines of the bands and a vector at each
 * end of each. Bands are written in the order of their lines, and a vector beyond their ends.
 */
export function waveletDown(
  from: usize,
  width: i32,
  height: i32,
  low: usize,
  highAcross: usize,
  highDown: usize,
  highBoth: usize,
  lines: usize,
  shift: i32
): void {
  const bytes = (<usize>width) << 1
  const room = bytes + 64
  const l0 = lines + 16
  const l1 = l0 + room
  const h0 = l1 + room
  const h1 = h0 + room
  const line = bandLine(width)
  // a line's high values down stand on the low ones below it: the line above is ended when one is there
  for (let y = 0; y < height; y++) {
    across(from, width, l0, h0)
    across(from + 2 * bytes, width, l1, h1)
    from += 4 * bytes
    const row = <usize>y * bytes
    const band = <usize>y * line
    for (let x: usize = 0; x < bytes; x += 16) {
      const a = v128.load(l0 + x)
      const b = v128.load(l1 + x)
      const c = v128.load(h0 + x)
      const d = v128.load(h1 + x)
      v128.store(low + row + x, i16x8.add(a, b))
      v128.store(highDown + band + x, i16x8.sub(a, b))
      v128.store(highAcross + band + x, i16x8.add(c, d))
      v128.store(highBoth + band + x, i16x8.sub(c, d))
    }
  }
  for (let y = 0; y < height; y++) {
    const band = <usize>y * line
    offLine(low + <usize>y * bytes, bytes, highDown + band, bytes, y, height)
    offLine(highAcross + band, line, highBoth + band, bytes, y, height)
  }
  reduce(low, bytes * <usize>height, shift)
  if (bytes == line) return
  for (let y = 0; y < height; y++) {
    const end = <usize>y * line + bytes
    memory.fill(highAcross + end, 0, line - bytes)
    memory.fill(highDown + end, 0, line - bytes)
    memory.fill(highBoth + end, 0, line - bytes)
  }
}

/** The largest size among the coefficients of a band, whose bytes are whole vectors. */
export function waveletLargest(from: usize, bytes: usize): i32 {
  let largest = i16x8.splat(0)
  for (let x: usize = 0; x < bytes; x += 16) largest = i16x8.max_u(largest, i16x8.abs(v128.load(from + x)))
  let most: u32 = 0
  for (let lane = 0; lane < 8; lane++) {
    most = max(most, <u32>i16x8.extract_lane_u(largest, 0))
    largest = v128.shuffle<u16>(largest, largest, 1, 2, 3, 4, 5, 6, 7, 0)
  }
  return <i32>most
}

/** Coefficients divided by a quantiser, as a part of 32768, rounded; as large as a size can stand for. */
export function waveletQuantise(at: usize, bytes: usize, part: i32): void {
  const times = i16x8.splat(<i16>part)
  const most = i16x8.splat(1014)
  for (let x: usize = 0; x < bytes; x += 16) {
    const v = v128.load(at + x)
    const size = i16x8.min_s(i16x8.q15mulr_sat_s(i16x8.abs(v), times), most)
    const sign = i16x8.shr_s(v, 15)
    v128.store(at + x, i16x8.sub(v128.xor(size, sign), sign))
  }
}

/** Bits that wait to be written, how many, and where they go. */
let waiting: u64 = 0
let count: u32 = 0
let out: usize = 0

/** Writes up to 32 bits of a code, the highest first. */
// @ts-ignore: decorator
@inline
function put(bits: u32, code: u64): void {
  waiting = (waiting << <u64>bits) | code
  count += bits
  if (count < 32) return
  count -= 32
  store<u32>(out, bswap<u32>(<u32>(waiting >> <u64>count)))
  out += 4
}

/** Writes a run of zeros. */
// @ts-ignore: decorator
@inline
function putZeros(zeros: i32, runs: usize): void {
  while (zeros > 0) {
    const entry = load<u64>(runs + ((<usize>min(zeros, 320)) << 3))
    put((<u32>(entry >> 32)) & 63, entry & 0xffffffff)
    zeros -= <i32>(entry >> 48)
  }
}

/**
 * Codes a band and returns the bytes that it takes, a multiple of four. `table` begins with 2048 coefficients from
 * -1024 on, and runs of zeros follow; see `wavelet-codes.ts`. A coefficient takes 27 bits at most.
 */
export function waveletCode(from: usize, coefficients: i32, to: usize, table: usize): usize {
  waiting = 0
  count = 0
  out = to
  const middle = table + (1024 << 3)
  const runs = table + (2048 << 3)
  const nothing = i16x8.splat(0)
  let zeros: i32 = 0
  for (let i = 0; i < coefficients; i += 8) {
    const at = from + ((<usize>i) << 1)
    let found = i16x8.bitmask(i16x8.ne(v128.load(at), nothing))
    const rest = coefficients - i
    if (rest < 8) found &= (1 << rest) - 1
    let lane: i32 = 0
    while (found) {
      const next = ctz(found)
      found &= found - 1
      zeros += next - lane
      lane = next + 1
      if (zeros) {
        putZeros(zeros, runs)
        zeros = 0
      }
      const entry = load<u64>(middle + ((<usize>(<isize>load<i16>(at + ((<usize>next) << 1)))) << 3))
      put(<u32>(entry >> 32), entry & 0xffffffff)
    }
    zeros += min(8, rest) - lane
  }
  putZeros(zeros, runs)
  put(26, 0x3114ba3)
  if (count) put(32 - count, 0)
  return out - to
}
