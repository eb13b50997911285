// Triples of pixels along a line and how they vote; see plain-triples.ts, whose every count this must give.
// `out`, in i32: 0 straight, 1 premultiplied, 2 twice, 3-4 rims, 5-6 slopes on the matte, 7-8 on black, 9-10 on white,
// 11 above, 12 below, 13 clear, 14-16 matte, 17 deep, 18 deep above, 19 deep below, 20 alike, 21 clear pixels of another colour,
// 22 torn, 23 joined. `intercepts` and `bins`: 768 i32, zeroed.

const FULL: i32 = 65535
const SPAN: f64 = 0.12 * 65535
const INNER: f64 = 0.12
const APART: f64 = 8
const ROUNDING: f64 = 1.2
const STEADY: f64 = 2.5
const BEYOND: i32 = 12 * 257
const ALIKE: i32 = 8 * 257
const OFF: i32 = 24 * 257
const FAINT: f64 = 0.1 * 65535
const STRAY: i32 = 6
const DEEP: i32 = 12
const NEAR: i32 = 2
const FARTHEST: i32 = 64

const STRAIGHT: i32 = 1
const PREMULTIPLIED: i32 = 2
const NEITHER: i32 = 3

let samples: usize = 0
let results: usize = 0
let crossings: usize = 0
let anyClear: bool = false
let matteR: f64 = 0
let matteG: f64 = 0
let matteB: f64 = 0

// @ts-ignore: decorator
@inline
function code(at: usize, channel: i32): i32 {
  return <i32>load<u16>(at + (<usize>channel << 1))
}

// @ts-ignore: decorator
@inline
function count(place: i32): void {
  const at = results + (<usize>place << 2)
  store<i32>(at, load<i32>(at) + 1)
}

function medianOfClear(from: usize, pixels: i32, bins: usize): void {
  let clear = 0
  // most of an animation is clear and black: such pixels are counted apart
  let blank = 0
  for (let i = 0; i < pixels; i++) {
    const p = load<u64>(from + ((<usize>i) << 3))
    if (p == 0) {
      blank++
      continue
    }
    if (p >>> 48 != 0) continue
    clear++
    for (let c = 0; c < 3; c++) {
      const bin = bins + (<usize>(256 * c + <i32>((p >>> (16 * c + 8)) & 255)) << 2)
      store<i32>(bin, load<i32>(bin) + 1)
    }
  }
  clear += blank
  for (let c = 0; c < 3; c++) store<i32>(bins + (<usize>(256 * c) << 2), load<i32>(bins + (<usize>(256 * c) << 2)) + blank)
  store<i32>(results, clear, 13 * 4)
  for (let c = 0; c < 3; c++) {
    let seen = 0
    for (let n = 0; n < 256; n++) {
      seen += load<i32>(bins + (<usize>(256 * c + n) << 2))
      if (2 * seen >= clear) {
        store<i32>(results + (<usize>(14 + c) << 2), n)
        break
      }
    }
  }
}

function isDeep(from: usize, width: i32, height: i32, x: i32, y: i32): bool {
  for (let v = -DEEP; v <= DEEP; v += DEEP / 2) {
    const row = y + v
    if (row < 0 || row >= height) continue
    for (let u = -DEEP; u <= DEEP; u += DEEP / 2) {
      const column = x + u
      if (column < 0 || column >= width) continue
      if (load<u16>(from + ((<usize>(row * width + column)) << 3), 6) != 0) return false
    }
  }
  return true
}

function countDeep(at: usize, mr: i32, mg: i32, mb: i32): void {
  count(17)
  let above = false
  let below = false
  for (let c = 0; c < 3; c++) {
    const m = c == 0 ? mr : c == 1 ? mg : mb
    if (code(at, c) > 257 * (m + STRAY)) above = true
    if (code(at, c) + 257 * STRAY < 257 * m) below = true
  }
  if (below) count(19)
  else if (above) count(18)
}

function countImpossible(at: usize, a: i32, mr: i32, mg: i32, mb: i32): void {
  const rest = FULL - a
  let above = false
  let below = false
  let alike = anyClear
  for (let c = 0; c < 3; c++) {
    const m = c == 0 ? mr : c == 1 ? mg : mb
    if (abs(code(at, c) - 257 * m) > ALIKE) alike = false
    const own = anyClear ? <i32>((<i64>(257 * m) * <i64>rest) / <i64>FULL) : 0
    if (code(at, c) > a + own + BEYOND) above = true
    const least = anyClear ? own : rest
    if (code(at, c) + BEYOND < least) below = true
  }
  if (alike) count(20)
  if (below) count(12)
  if (above && !(below && anyClear)) count(11)
}

function countRim(at: usize, a: i32, x: i32, y: i32, width: i32, height: i32): void {
  const row = (<usize>width) << 3
  let beside: usize = 0
  if (x > 0 && code(at - 8, 3) == 0) beside = at - 8
  else if (x < width - 1 && code(at + 8, 3) == 0) beside = at + 8
  else if (y > 0 && code(at - row, 3) == 0) beside = at - row
  else if (y < height - 1 && code(at + row, 3) == 0) beside = at + row
  if (!beside) return
  let step = 0
  for (let c = 0; c < 3; c++) step = max(step, abs(code(at, c) - code(beside, c)))
  count(step > a + BEYOND ? 22 : 23)
}

function smooth(low: usize, middle: usize, high: usize, half: usize): bool {
  const before = low < middle ? middle - half : middle + half
  const after = low < middle ? middle + half : middle - half
  const a0 = code(low, 3)
  const h0 = code(before, 3)
  const a = code(middle, 3)
  const h1 = code(after, 3)
  const a1 = code(high, 3)
  const most: f64 = 0.6 * <f64>(a1 - a0)
  return (
    a0 <= h0 && h0 <= a && a <= h1 && h1 <= a1 &&
    <f64>(h0 - a0) < most && <f64>(a - h0) < most && <f64>(h1 - a) < most && <f64>(a1 - h1) < most
  )
}

function slopeOn(low: usize, middle: usize, high: usize, r: f64, g: f64, b: f64, votes: i32): i32 {
  const a0 = <f64>code(low, 3)
  const a = <f64>code(middle, 3)
  const a1 = <f64>code(high, 3)
  let moves: f64 = 0
  let missStraight: f64 = 0
  let missPremultiplied: f64 = 0
  for (let c = 0; c < 3; c++) {
    const m = c == 0 ? r : c == 1 ? g : b
    const c0 = <f64>code(low, c) / 257
    const cm = <f64>code(middle, c) / 257
    const c1 = <f64>code(high, c) / 257
    moves = Math.max(moves, Math.abs((1 - a0 / a1) * (c1 - m)))
    missStraight = Math.max(missStraight, Math.max(Math.abs(cm - c1), Math.abs(c0 - c1)))
    missPremultiplied = Math.max(
      missPremultiplied,
      Math.max(Math.abs(cm - (m + (a / a1) * (c1 - m))), Math.abs(c0 - (m + (a0 / a1) * (c1 - m))))
    )
  }
  if (moves <= Math.max(APART, 3 * STEADY)) return NEITHER
  if (missStraight <= STEADY) {
    count(votes)
    return STRAIGHT
  }
  if (missPremultiplied <= STEADY) {
    count(votes + 1)
    return PREMULTIPLIED
  }
  return NEITHER
}

function slope(low: usize, middle: usize, high: usize): i32 {
  if (code(low, 3) == 0) return NEITHER
  if (!anyClear) {
    slopeOn(low, middle, high, 255, 255, 255, 9)
    return slopeOn(low, middle, high, 0, 0, 0, 7)
  }
  return slopeOn(low, middle, high, matteR, matteG, matteB, 5)
}

function judge(low: usize, middle: usize, high: usize, t: f64): i32 {
  const a0 = <f64>code(low, 3)
  const a = <f64>code(middle, 3)
  const a1 = <f64>code(high, 3)
  const k1 = (t * a1) / a
  const need = Math.max(APART, 3 * (ROUNDING * (1 + <f64>FULL / a)))
  let apart: f64 = 0
  let missStraight: f64 = 0
  let missPremultiplied: f64 = 0
  let missTwice: f64 = 0
  let apartTwice: f64 = 0
  let lumaC: f64 = 0
  let lumaS: f64 = 0
  let lumaP: f64 = 0
  let lumaT: f64 = 0
  const r0 = a0 > 0 ? a / a0 : 0
  const r1 = a / a1
  for (let c = 0; c < 3; c++) {
    const c0 = <f64>code(low, c) / 257
    const cm = <f64>code(middle, c) / 257
    const c1 = <f64>code(high, c) / 257
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
    }
    const share: f64 = c == 0 ? 0.2126 : c == 1 ? 0.7152 : 0.0722
    lumaC += share * cm
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
  }
  if (apart <= need) return slope(low, middle, high)
  if (apartTwice > need && 3 * missTwice < apartTwice && 3 * missTwice < missPremultiplied) {
    count(2)
    return NEITHER
  }
  if (3 * missStraight < apart) {
    count(0)
    if (a0 == 0) count(3)
    return STRAIGHT
  }
  if (3 * missPremultiplied < apart) {
    count(1)
    if (a0 == 0) count(4)
    for (let c = 0; c < 3; c++) {
      const at = (<f64>code(low, c) * a1 - <f64>code(high, c) * a0) / (a1 - a0) / 257
      if (at > -0.5 && at < 255.5) {
        const bin = crossings + (<usize>(256 * c + <i32>Math.floor(at + 0.5)) << 2)
        store<i32>(bin, load<i32>(bin) + 1)
      }
    }
    return PREMULTIPLIED
  }
  return NEITHER
}

/** `marks`: a byte a pixel, or 0 for none. */
export function triples(from: usize, width: i32, height: i32, out: usize, intercepts: usize, bins: usize, marks: usize): void {
  samples = from
  results = out
  crossings = intercepts
  const pixels = width * height
  medianOfClear(from, pixels, bins)
  anyClear = load<i32>(out, 13 * 4) > 0
  const mr = load<i32>(out, 14 * 4)
  const mg = load<i32>(out, 15 * 4)
  const mb = load<i32>(out, 16 * 4)
  matteR = <f64>mr
  matteG = <f64>mg
  matteB = <f64>mb
  // where clear pixels are black, those that are need no second look but for being deep
  const black = anyClear && (mr | mg | mb) == 0
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = from + ((<usize>(y * width + x)) << 3)
      const a = code(at, 3)
      if (a == FULL) continue
      if (black && ((x & 3) | (y & 3)) != 0 && load<u64>(at) == 0) continue
      if (a == 0) {
        if (abs(code(at, 0) - 257 * mr) > OFF || abs(code(at, 1) - 257 * mg) > OFF || abs(code(at, 2) - 257 * mb) > OFF)
          count(21)
        if ((x & 3) == 0 && (y & 3) == 0 && isDeep(from, width, height, x, y)) countDeep(at, mr, mg, mb)
        continue
      }
      countImpossible(at, a, mr, mg, mb)
      if (<f64>a < FAINT) countRim(at, a, x, y, width, height)
      let vote = 0
      for (let axis = 0; axis < 2; axis++) {
        const place = axis == 0 ? x : y
        const length = axis == 0 ? width : height
        const step: usize = axis == 0 ? 8 : (<usize>width) << 3
        for (let d = 1; d <= FARTHEST; d <<= 1) {
          if (place < d || place + d >= length) break
          if (d > NEAR && ((x | y) & ((d >> 1) - 1)) != 0) break
          let low = at - <usize>d * step
          let high = at + <usize>d * step
          if (code(low, 3) > code(high, 3)) {
            const swap = low
            low = high
            high = swap
          }
          const a0 = code(low, 3)
          const a1 = code(high, 3)
          if (<f64>(a1 - a0) < SPAN) continue
          const t = <f64>(a - a0) / <f64>(a1 - a0)
          if (!(t >= INNER && t <= 1 - INNER)) continue
          if (d > NEAR && !smooth(low, at, high, (<usize>(d >> 1)) * step)) continue
          const found = judge(low, at, high, t)
          if (found == STRAIGHT || found == PREMULTIPLIED || vote == 0) vote = found
        }
      }
      if (marks && vote) store<u8>(marks + <usize>(y * width + x), <u8>vote)
    }
  }
}
