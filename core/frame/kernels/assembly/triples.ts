// Triples of pixels along a line and how they vote; see tests/oracles/triples.ts, whose every count this must give.
// `out`, in i32: 0 straight, 1 premultiplied, 2 twice, 3-4 rims, 5-6 slopes on the matte, 7-8 on black, 9-10 on white,
// 11 above, 12 below, 20 alike, 22 torn, 23 joined, 24 asked; for the rest see clears.ts. `intercepts` and `bins`: 768
// i32, zeroed. Eight pixels are passed over at a time where none of them can vote.

import { countClear, partials } from './clears'
import { bytesOf, code, countAt, marked, markedOfFour, ownAlpha, ownAlphaOfFour, total, totalOfFour } from './pixels'

const FULL: i32 = 65535
// 0.12 of full alpha, as codes
const SPAN: i32 = 7865
const INNER: f64 = 0.12
const APART: f64 = 8
const ROUNDING: f64 = 1.2
const STEADY: f64 = 2.5
const BEYOND: i32 = 12 * 257
const ALIKE: i32 = 8 * 257
const FAINT: i16 = 6553
const NEAR: i32 = 2
const FARTHEST: i32 = 64
// a code of 255 in one of 65535
const CODE: f64 = 1 / 257.0
// frames of so many pixels are asked at every fourth, another in each of four rows; of so many partial ones in
// every fourth row
const MANY: i32 = 1 << 20
const CROWD: i32 = 1 << 17
// in every eighth row
const THRONG: i32 = 1 << 19
// at every eighth as long as more than so many of a frame, by the share of its rows, have voted; at every sixteenth
// from twice as many
const ENOUGH: f64 = 2048

const STRAIGHT: i32 = 1
const PREMULTIPLIED: i32 = 2
const NEITHER: i32 = 3

let samples: usize = 0
let alphas: usize = 0
let results: usize = 0
let crossings: usize = 0
let anyClear: bool = false
let crowded: i32 = 1
let thinned: i32 = 0
let matteR: f64 = 0
let matteG: f64 = 0
let matteB: f64 = 0

function scale(place: i32): void {
  const at = results + (<usize>place << 2)
  store<i32>(at, crowded * load<i32>(at))
}

function countImpossible<T>(at: usize, a: i32, mr: i32, mg: i32, mb: i32): void {
  const rest = FULL - a
  let above = false
  let below = false
  let alike = anyClear
  for (let c = 0; c < 3; c++) {
    const m = c == 0 ? mr : c == 1 ? mg : mb
    if (abs(code<T>(at, c) - 257 * m) > ALIKE) alike = false
    // 257 m rest / 65535, which is m rest / 255
    const own = anyClear ? (m * rest) / 255 : 0
    if (code<T>(at, c) > a + own + BEYOND) above = true
    const least = anyClear ? own : rest
    if (code<T>(at, c) + BEYOND < least) below = true
  }
  if (alike) countAt(results, 20)
  if (below) countAt(results, 12)
  if (above && !(below && anyClear)) countAt(results, 11)
}

function countRim<T>(at: usize, a: i32, x: i32, y: i32, width: i32, height: i32): void {
  const row = bytesOf<T>(width)
  const one = bytesOf<T>(1)
  let beside: usize = 0
  if (x > 0 && code<T>(at - one, 3) == 0) beside = at - one
  else if (x < width - 1 && code<T>(at + one, 3) == 0) beside = at + one
  else if (y > 0 && code<T>(at - row, 3) == 0) beside = at - row
  else if (y < height - 1 && code<T>(at + row, 3) == 0) beside = at + row
  if (!beside) return
  let step = 0
  for (let c = 0; c < 3; c++) step = max(step, abs(code<T>(at, c) - code<T>(beside, c)))
  countAt(results, step > a + BEYOND ? 22 : 23)
}

// @ts-ignore: decorator
@inline
function alphaAt(pixel: i32): i32 {
  return <i32>load<u16>(alphas + ((<usize>pixel) << 1))
}

function smooth(low: i32, middle: i32, high: i32, half: i32): bool {
  const before = low < middle ? middle - half : middle + half
  const after = low < middle ? middle + half : middle - half
  const a0 = alphaAt(low)
  const h0 = alphaAt(before)
  const a = alphaAt(middle)
  const h1 = alphaAt(after)
  const a1 = alphaAt(high)
  const most: f64 = 0.6 * <f64>(a1 - a0)
  return (
    a0 <= h0 && h0 <= a && a <= h1 && h1 <= a1 &&
    <f64>(h0 - a0) < most && <f64>(a - h0) < most && <f64>(h1 - a) < most && <f64>(a1 - h1) < most
  )
}

function slopeOn<T>(low: usize, middle: usize, high: usize, r: f64, g: f64, b: f64, votes: i32): i32 {
  const a0 = <f64>code<T>(low, 3)
  const a = <f64>code<T>(middle, 3)
  const a1 = <f64>code<T>(high, 3)
  let moves: f64 = 0
  let missStraight: f64 = 0
  let missPremultiplied: f64 = 0
  for (let c = 0; c < 3; c++) {
    const m = c == 0 ? r : c == 1 ? g : b
    const c0 = <f64>code<T>(low, c) * CODE
    const cm = <f64>code<T>(middle, c) * CODE
    const c1 = <f64>code<T>(high, c) * CODE
    moves = Math.max(moves, Math.abs((1 - a0 / a1) * (c1 - m)))
    missStraight = Math.max(missStraight, Math.max(Math.abs(cm - c1), Math.abs(c0 - c1)))
    missPremultiplied = Math.max(
      missPremultiplied,
      Math.max(Math.abs(cm - (m + (a / a1) * (c1 - m))), Math.abs(c0 - (m + (a0 / a1) * (c1 - m))))
    )
  }
  if (moves <= Math.max(APART, 3 * STEADY)) return NEITHER
  if (missStraight <= STEADY) {
    countAt(results, votes)
    return STRAIGHT
  }
  if (missPremultiplied <= STEADY) {
    countAt(results, votes + 1)
    return PREMULTIPLIED
  }
  return NEITHER
}

function slope<T>(low: usize, middle: usize, high: usize): i32 {
  if (code<T>(low, 3) == 0) return NEITHER
  if (!anyClear) {
    slopeOn<T>(low, middle, high, 255, 255, 255, 9)
    return slopeOn<T>(low, middle, high, 0, 0, 0, 7)
  }
  return slopeOn<T>(low, middle, high, matteR, matteG, matteB, 5)
}

function judge<T>(low: usize, middle: usize, high: usize, t: f64): i32 {
  const a0 = <f64>code<T>(low, 3)
  const a = <f64>code<T>(middle, 3)
  const a1 = <f64>code<T>(high, 3)
  const k1 = (t * a1) / a
  const need = Math.max(APART, 3 * (ROUNDING * (1 + <f64>FULL / a)))
  let apart: f64 = 0
  let missStraight: f64 = 0
  let missPremultiplied: f64 = 0
  let missTwice: f64 = 0
  let apartTwice: f64 = 0
  let missStay: f64 = 0
  let luma0: f64 = 0
  let lumaC: f64 = 0
  let lumaS: f64 = 0
  let lumaP: f64 = 0
  let lumaT: f64 = 0
  const r0 = a0 > 0 ? a / a0 : 0
  const r1 = a / a1
  for (let c = 0; c < 3; c++) {
    const c0 = <f64>code<T>(low, c) * CODE
    const cm = <f64>code<T>(middle, c) * CODE
    const c1 = <f64>code<T>(high, c) * CODE
    const straight = (1 - k1) * c0 + k1 * c1
    const premultiplied = (1 - t) * c0 + t * c1
    const twice = (1 - t) * c0 * r0 + t * c1 * r1
    const between = Math.abs(straight - premultiplied)
    if (between > apart) {
      apart = between
      missStraight = Math.abs(cm - straight)
      missPremultiplied = Math.abs(cm - premultiplied)
      missTwice = Math.abs(cm - twice)
      apartTwice = Math.abs(premultiplied - twice)
      missStay = Math.abs(cm - c0)
    }
    const share: f64 = c == 0 ? 0.2126 : c == 1 ? 0.7152 : 0.0722
    lumaC += share * cm
    luma0 += share * c0
    lumaS += share * straight
    lumaP += share * premultiplied
    lumaT += share * twice
  }
  const lumaApart = Math.abs(lumaS - lumaP)
  if (lumaApart > need) {
    apart = lumaApart
    missStraight = Math.abs(lumaC - lumaS)
    missPremultiplied = Math.abs(lumaC - lumaP)
    missTwice = Math.abs(lumaC - lumaT)
    apartTwice = Math.abs(lumaP - lumaT)
    missStay = Math.abs(lumaC - luma0)
  }
  if (apart <= need) return slope<T>(low, middle, high)
  if (apartTwice > need && 3 * missTwice < apartTwice && 3 * missTwice < missPremultiplied) {
    countAt(results, 2)
    return NEITHER
  }
  if (3 * missStraight < apart) {
    countAt(results, 0)
    if (a0 == 0) countAt(results, 3)
    return STRAIGHT
  }
  // a middle that keeps the colour of the lower side is no mixture: a layer fades out beneath another's hard edge
  if (3 * missPremultiplied < apart && missPremultiplied <= missStay) {
    countAt(results, 1)
    if (a0 == 0) countAt(results, 4)
    for (let c = 0; c < 3; c++) {
      const at = (<f64>code<T>(low, c) * a1 - <f64>code<T>(high, c) * a0) / (a1 - a0) * CODE
      if (at > -0.5 && at < 255.5) {
        const bin = crossings + (<usize>(256 * c + <i32>Math.floor(at + 0.5)) << 2)
        store<i32>(bin, load<i32>(bin) + 1)
      }
    }
    return PREMULTIPLIED
  }
  return NEITHER
}

function voteOf<T>(x: i32, y: i32, width: i32, height: i32): i32 {
  const pixel = y * width + x
  const a = alphaAt(pixel)
  let vote = 0
  for (let axis = 0; axis < 2; axis++) {
    const place = axis == 0 ? x : y
    const length = axis == 0 ? width : height
    const step = axis == 0 ? 1 : width
    for (let d = 1; d <= FARTHEST; d <<= 1) {
      if (place < d || place + d >= length) break
      if (d > NEAR && ((x | y) & ((d >> 1) - 1)) != 0) break
      let low = pixel - d * step
      let high = pixel + d * step
      let a0 = alphaAt(low)
      let a1 = alphaAt(high)
      if (a0 > a1) {
        const swap = low
        low = high
        high = swap
        const other = a0
        a0 = a1
        a1 = other
      }
      if (a1 - a0 < SPAN || a <= a0 || a >= a1) continue
      const t = <f64>(a - a0) / <f64>(a1 - a0)
      if (!(t >= INNER && t <= 1 - INNER)) continue
      if (d > NEAR && !smooth(low, pixel, high, (d >> 1) * step)) continue
      const found = judge<T>(at<T>(low), at<T>(pixel), at<T>(high), t)
      if (found == STRAIGHT || found == PREMULTIPLIED || vote == 0) vote = found
    }
  }
  return vote
}

// @ts-ignore: decorator
@inline
function at<T>(pixel: i32): usize {
  return samples + bytesOf<T>(pixel)
}

/**
 * Of eight pixels of alpha `a` those that may lie between the alphas at `one` and at `other`, which are `SPAN` or more
 * apart: all that do by `INNER`, and some that do by less.
 */
// @ts-ignore: decorator
@inline
function spanning(a: v128, one: usize, other: usize): v128 {
  const low = i16x8.min_u(v128.load(one), v128.load(other))
  const high = i16x8.max_u(v128.load(one), v128.load(other))
  const span = i16x8.sub(high, low)
  const inner = i16x8.add(i16x8.shr_u(span, 4), i16x8.shr_u(span, 5))
  const within = v128.and(
    i16x8.ge_u(i16x8.sub_sat_u(a, low), inner),
    i16x8.ge_u(i16x8.sub_sat_u(high, a), inner)
  )
  return v128.and(within, i16x8.ge_u(span, i16x8.splat(<i16>SPAN)))
}

/** What the lanes of pixels counted, two or four of them. */
// @ts-ignore: decorator
@inline
function summed<T>(lanes: v128): i32 {
  return sizeof<T>() == 1 ? totalOfFour(lanes) : total(lanes)
}

/** Of eight columns from `first` on those that are asked in a row of a large frame, a bit each. */
// @ts-ignore: decorator
@inline
function askedIn(first: i32, y: i32): i32 {
  if (thinned > 1 && (((first ^ y) >> 3) & 1) != 0) return 0
  const column = (y & 4) == 0 ? y & 3 : -y & 3
  return thinned > 0 ? 1 << (column + ((y >> 2) & 4)) : 0x11 << column
}

/**
 * `plane` has the alpha of the samples by itself; pixels of rows before `top` and from `bottom` on are clear and
 * black. `marks`: a byte
 * a pixel, or 0 for none. `work`: room for `width + 40` and `(width + 8) * (height / 2 + 1)` u16.
 */
function countTriples<T>(
  from: usize,
  plane: usize,
  width: i32,
  height: i32,
  top: i32,
  bottom: i32,
  out: usize,
  intercepts: usize,
  bins: usize,
  marks: usize,
  work: usize
): void {
  samples = from
  alphas = plane
  results = out
  crossings = intercepts
  const pixels = width * height
  countClear<T>(from, plane, width, height, top, bottom, out, bins, work)
  const many = pixels >= MANY
  crowded = !many || partials() < CROWD ? 1 : partials() < THRONG ? 4 : 8
  let voted: f64 = 0
  let askedAll = 0
  const clear = load<i32>(out, 13 * 4)
  anyClear = clear > 0
  const mr = load<i32>(out, 14 * 4)
  const mg = load<i32>(out, 15 * 4)
  const mb = load<i32>(out, 16 * 4)
  matteR = <f64>mr
  matteG = <f64>mg
  matteB = <f64>mb
  const black = (mr | mg | mb) == 0
  // what is impossible among eight pixels where clear ones are black, or where there are none
  let above = i64x2.splat(0)
  let below = i64x2.splat(0)
  let alike = i64x2.splat(0)
  const colour = i64x2.splat(0x0000ffffffffffff)
  const beyond = i16x8.splat(<i16>BEYOND)
  const near = i16x8.splat(<i16>ALIKE)
  const colour8 = i32x4.splat(0x00ffffff)
  const beyond8 = i8x16.splat(<i8>(BEYOND / 257))
  const near8 = i8x16.splat(<i8>(ALIKE / 257))
  const zero = i16x8.splat(0)
  const row = (<usize>width) << 1
  for (let y = top; y < bottom; y++) {
    const counted = ((y ^ (y >> 3)) & (crowded - 1)) == 0
    const ahead = voted * <f64>height
    const due = ENOUGH * <f64>y
    thinned = ahead > 2 * due ? 2 : ahead > due ? 1 : 0
    // where few have voted, every second row is asked that is not counted
    if (!counted && (thinned > 0 || ((y ^ (y >> 3)) & 1) != 0)) continue
    for (let first = 0; first < width; first += 8) {
      const pixel = y * width + first
      const here = plane + ((<usize>pixel) << 1)
      const lanes = min(8, width - first)
      const eight = v128.load(here)
      const inside = (1 << lanes) - 1
      // those that are neither clear nor solid
      const partial = inside & ~i16x8.bitmask(i16x8.eq(eight, zero)) & ~i16x8.bitmask(i16x8.eq(eight, i16x8.splat(-1)))
      if (partial == 0) continue
      if (!counted) {
        // nothing but votes
      } else if (black && lanes == 8) {
        const begin = at<T>(pixel)
        if (sizeof<T>() == 1) {
          for (let n: usize = 0; n < 32; n += 16) {
            const v = v128.load(begin + n)
            const a = ownAlphaOfFour(v)
            const kept = v128.and(v128.and(markedOfFour(a), markedOfFour(v128.not(a))), colour8)
            const over = v128.and(i8x16.sub_sat_u(v, i8x16.add_sat_u(a, beyond8)), kept)
            above = i32x4.sub(above, markedOfFour(over))
            if (anyClear) {
              const light = v128.and(i8x16.sub_sat_u(v, near8), kept)
              alike = i32x4.sub(alike, v128.andnot(markedOfFour(kept), markedOfFour(light)))
            } else {
              const under = v128.and(i8x16.sub_sat_u(v128.not(a), i8x16.add_sat_u(v, beyond8)), kept)
              below = i32x4.sub(below, markedOfFour(under))
            }
          }
        } else for (let n: usize = 0; n < 64; n += 16) {
          const v = v128.load(begin + n)
          const a = ownAlpha(v)
          const kept = v128.and(v128.and(marked(a), marked(v128.not(a))), colour)
          above = i64x2.sub(above, marked(v128.and(i16x8.sub_sat_u(v, i16x8.add_sat_u(a, beyond)), kept)))
          if (anyClear) alike = i64x2.sub(alike, v128.andnot(marked(kept), marked(v128.and(i16x8.sub_sat_u(v, near), kept))))
          else below = i64x2.sub(below, marked(v128.and(i16x8.sub_sat_u(v128.not(a), i16x8.add_sat_u(v, beyond)), kept)))
        }
      } else for (let n = 0; n < lanes; n++) {
        const one = pixel + n
        if (partial & (1 << n)) countImpossible<T>(at<T>(one), alphaAt(one), mr, mg, mb)
      }
      const amid = first >= 4 && first + 12 <= width && y >= 4 && y + 4 < height
      let faint = !counted ? 0 : partial & i16x8.bitmask(i16x8.le_u(eight, i16x8.splat(FAINT)))
      // only one beside a clear pixel is at a rim
      if (faint != 0 && amid) {
        const across = v128.or(i16x8.eq(v128.load(here - 2), zero), i16x8.eq(v128.load(here + 2), zero))
        const down = v128.or(i16x8.eq(v128.load(here - row), zero), i16x8.eq(v128.load(here + row), zero))
        faint &= i16x8.bitmask(v128.or(across, down))
      }
      for (; faint != 0; faint &= faint - 1) {
        const n = ctz(faint)
        countRim<T>(at<T>(pixel + n), alphaAt(pixel + n), first + n, y, width, height)
      }
      let asked = many ? partial & askedIn(first, y) : partial
      askedAll += popcnt(asked)
      if (asked != 0 && amid) {
        const close = v128.or(
          v128.or(spanning(eight, here - 2, here + 2), spanning(eight, here - 4, here + 4)),
          v128.or(spanning(eight, here - row, here + row), spanning(eight, here - 2 * row, here + 2 * row))
        )
        let may = i16x8.bitmask(close)
        // further ones lie on lattices: those at 4 on the even rows and columns, all others on every fourth
        if ((y & 1) == 0) {
          may |= 0x55 & i16x8.bitmask(v128.or(spanning(eight, here - 8, here + 8), spanning(eight, here - 4 * row, here + 4 * row)))
          if ((y & 3) == 0) may |= 0x11
        }
        asked &= may
      }
      for (; asked != 0; asked &= asked - 1) {
        const n = ctz(asked)
        const vote = voteOf<T>(first + n, y, width, height)
        if (vote) voted += 1
        if (marks && vote) store<u8>(marks + <usize>(pixel + n), <u8>vote)
      }
    }
  }
  store<i32>(results, load<i32>(results, 11 * 4) + summed<T>(above), 11 * 4)
  store<i32>(results, load<i32>(results, 12 * 4) + summed<T>(below), 12 * 4)
  store<i32>(results, load<i32>(results, 20 * 4) + summed<T>(alike), 20 * 4)
  store<i32>(results, askedAll, 24 * 4)
  // a row stands for those that were passed over
  scale(11)
  scale(12)
  scale(20)
  scale(22)
  scale(23)
}

/** `narrow`: samples are of 8 bits, else of 16. For the rest see `countTriples`. */
export function triples(
  from: usize,
  plane: usize,
  width: i32,
  height: i32,
  top: i32,
  bottom: i32,
  out: usize,
  intercepts: usize,
  bins: usize,
  marks: usize,
  work: usize,
  narrow: bool
): void {
  if (narrow) countTriples<u8>(from, plane, width, height, top, bottom, out, intercepts, bins, marks, work)
  else countTriples<u16>(from, plane, width, height, top, bottom, out, intercepts, bins, marks, work)
}
