// Clear pixels of a frame: how many, of what colour most are, those of another, and those deep within clear areas.
// Part of what triples count, at the same places of `out`: 13 clear, 14-16 matte, 17 deep, 18 deep above, 19 deep
// below, 21 clear pixels of another colour; see tests/oracles/triples.ts, whose every count this must give.

import { blackOfEight, bytesOf, code, countAt, isBlack, pixelAt } from './pixels'

const FULL: i32 = 65535
const OFF: i32 = 24 * 257
const STRAY: i32 = 6
const DEEP: i32 = 12
// clear pixels with a colour that are kept to be looked at again, at most; the work has room for one in eight
const KEPT: i32 = 1 << 14

let results: usize = 0
let known: bool = false
let blanks: i32 = 0
let coloured: i32 = 0
let roomFor: i32 = 0
let anyPartial: i32 = 0

// @ts-ignore: decorator
@inline
function binClear(p: u64, bins: usize): void {
  for (let c = 0; c < 3; c++) {
    const bin = bins + (<usize>(256 * c + <i32>((p >>> (16 * c + 8)) & 255)) << 2)
    store<i32>(bin, load<i32>(bin) + 1)
  }
}

/**
 * What is known of clear pixels beforehand: how many there are, how many partial ones, and the one colour of all clear
 * ones, as a pixel; called before `triples`, which then need not count them.
 */
export function clearsKnown(clear: i32, partial: i32, colour: u64, out: usize): void {
  known = true
  anyPartial = partial
  blanks = colour == 0 ? clear : 0
  store<i32>(out, clear, 13 * 4)
  for (let c = 0; c < 3; c++) store<i32>(out + (<usize>(14 + c) << 2), <i32>((colour >>> (16 * c + 8)) & 255))
}

// @ts-ignore: decorator
@inline
function keepColoured(p: u64, work: usize): void {
  if (coloured < roomFor) store<u64>(work + (<usize>coloured << 3), p)
  coloured++
}

/**
 * Counts clear and partial pixels, all but those from `first` to `end` being clear and black; puts the median of the
 * clear in place, and the first clear ones that have a colour into `work`.
 */
function medianOfClear<T>(
  from: usize,
  plane: usize,
  first: i32,
  end: i32,
  pixels: i32,
  bins: usize,
  work: usize
): void {
  let clear = 0
  // most of an animation is clear and black: such pixels are counted apart
  let blank = pixels - (end - first)
  let partial = 0
  coloured = 0
  roomFor = min(KEPT, pixels >> 3)
  const zero = i64x2.splat(0)
  for (let i = first; i < end; ) {
    const at = from + bytesOf<T>(i)
    if (i + 8 > end) {
      const p = pixelAt<T>(at)
      const a = <i32>(p >>> 48)
      if (a == 0) {
        if (p == 0) blank++
        else {
          clear++
          binClear(p, bins)
          keepColoured(p, work)
        }
      } else if (a != FULL) partial++
      i++
      continue
    }
    const alpha = v128.load(plane + ((<usize>i) << 1))
    const none = popcnt(i16x8.bitmask(i16x8.eq(alpha, zero)))
    partial += 8 - none - popcnt(i16x8.bitmask(i16x8.eq(alpha, i16x8.splat(-1))))
    i += 8
    if (none == 0) continue
    const black = blackOfEight<T>(at)
    blank += black
    if (black == none) continue
    clear += none - black
    for (let n = 0; n < 8; n++) {
      const p = pixelAt<T>(at + bytesOf<T>(n))
      if (p != 0 && p >>> 48 == 0) {
        binClear(p, bins)
        keepColoured(p, work)
      }
    }
  }
  anyPartial = partial
  clear += blank
  blanks = blank
  for (let c = 0; c < 3; c++) {
    const bin = bins + (<usize>(256 * c) << 2)
    store<i32>(bin, load<i32>(bin) + blank)
  }
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

/**
 * Counts clear pixels of every fourth row and column that have only clear ones at steps of `DEEP / 2` around them.
 * `line` has room for a row with `DEEP` more on both sides and a vector, `across` for half as many values as the plane
 * has, and a row. Rows before `top` and from `bottom` on are clear.
 */
function deepOnes<T>(from: usize, plane: usize, width: i32, height: i32, top: i32, bottom: i32, work: usize): void {
  const line = work
  const across = work + ((<usize>(width + 40)) << 1)
  const half = DEEP / 2
  const mr = load<i32>(results, 14 * 4)
  const mg = load<i32>(results, 15 * 4)
  const mb = load<i32>(results, 16 * 4)
  const plain = blanks == load<i32>(results, 13 * 4)
  const black = (mr | mg | mb) == 0
  const rowBytes = (<usize>width) << 1
  const room = rowBytes + 16
  memory.fill(line, 0, rowBytes + 4 * DEEP + 16)
  const middle = line + 2 * DEEP
  top &= ~1
  for (let y = top; y < bottom; y += 2) {
    memory.copy(middle, plane + <usize>y * rowBytes, rowBytes)
    const to = across + <usize>(y >> 1) * room
    for (let x: usize = 0; x < rowBytes; x += 16) {
      const at = middle + x
      const outer = v128.or(v128.load(at - 2 * DEEP), v128.load(at + 2 * DEEP))
      const inner = v128.or(v128.load(at - DEEP), v128.load(at + DEEP))
      v128.store(to + x, v128.or(v128.or(outer, inner), v128.load(at)))
    }
  }
  let count17 = 0
  const zero = i16x8.splat(0)
  for (let y = 0; y < height; y += 4) {
    if (plain && (y + DEEP < top || y - DEEP >= bottom)) {
      count17 += (width + 3) >> 2
      continue
    }
    for (let x = 0; x < width; x += 8) {
      const at = across + ((<usize>x) << 1)
      let found = zero
      for (let v = -DEEP; v <= DEEP; v += half) {
        const row = y + v
        if (row >= top && row < bottom) found = v128.or(found, v128.load(at + <usize>(row >> 1) * room))
      }
      // of eight columns the first and the fifth
      let deep = i16x8.bitmask(i16x8.eq(found, zero)) & (x + 4 < width ? 0x11 : 1)
      if (plain) count17 += popcnt(deep)
      else
        for (; deep != 0; deep &= deep - 1) {
          const at = from + bytesOf<T>(y * width + x + ctz(deep))
          // a black one is at home on black
          if (black && isBlack<T>(at)) count17++
          else countDeep<T>(at, mr, mg, mb)
        }
    }
  }
  store<i32>(results, load<i32>(results, 17 * 4) + count17, 17 * 4)
}

// @ts-ignore: decorator
@inline
function countStray<T>(at: usize, mr: i32, mg: i32, mb: i32): void {
  const red = abs(code<T>(at, 0) - 257 * mr)
  const green = abs(code<T>(at, 1) - 257 * mg)
  const blue = abs(code<T>(at, 2) - 257 * mb)
  if (max(red, max(green, blue)) > OFF) countAt(results, 21)
}

/**
 * Clear pixels of another colour than most, from those that were kept, or from the samples where they were more than
 * that; there eight of which none has a colour are passed over.
 */
function strays<T>(from: usize, plane: usize, first: i32, end: i32, work: usize, mr: i32, mg: i32, mb: i32): void {
  if (max(mr, max(mg, mb)) * 257 > OFF) store<i32>(results, blanks, 21 * 4)
  if (coloured <= roomFor) {
    for (let n = 0; n < coloured; n++) countStray<u16>(work + (<usize>n << 3), mr, mg, mb)
    return
  }
  const zero = i64x2.splat(0)
  for (let i = first; i < end; ) {
    const at = from + bytesOf<T>(i)
    if (i + 8 > end) {
      if (!isBlack<T>(at) && code<T>(at, 3) == 0) countStray<T>(at, mr, mg, mb)
      i++
      continue
    }
    const none = popcnt(i16x8.bitmask(i16x8.eq(v128.load(plane + ((<usize>i) << 1)), zero)))
    i += 8
    if (none == 0) continue
    if (blackOfEight<T>(at) == none) continue
    for (let n = 0; n < 8; n++) {
      const one = at + bytesOf<T>(n)
      if (!isBlack<T>(one) && code<T>(one, 3) == 0) countStray<T>(one, mr, mg, mb)
    }
  }
}

function countDeep<T>(at: usize, mr: i32, mg: i32, mb: i32): void {
  countAt(results, 17)
  let above = false
  let below = false
  for (let c = 0; c < 3; c++) {
    const m = c == 0 ? mr : c == 1 ? mg : mb
    if (code<T>(at, c) > 257 * (m + STRAY)) above = true
    if (code<T>(at, c) + 257 * STRAY < 257 * m) below = true
  }
  if (below) countAt(results, 19)
  else if (above) countAt(results, 18)
}

/** Partial pixels of the frame that was counted last. */
export function partials(): i32 {
  return anyPartial
}

/**
 * Counts what of a frame is clear; pixels of rows before `top` and from `bottom` on are clear and black. What
 * `clearsKnown` told since the last frame is not counted again. `bins`: 768 i32, zeroed. `work` as for `triples`.
 */
export function countClear<T>(
  from: usize,
  plane: usize,
  width: i32,
  height: i32,
  top: i32,
  bottom: i32,
  out: usize,
  bins: usize,
  work: usize
): void {
  results = out
  // clear pixels of one colour have no strays
  const one = known
  known = false
  if (!one) medianOfClear<T>(from, plane, top * width, bottom * width, width * height, bins, work)
  const clear = load<i32>(out, 13 * 4)
  if (clear == 0) return
  const mr = load<i32>(out, 14 * 4)
  const mg = load<i32>(out, 15 * 4)
  const mb = load<i32>(out, 16 * 4)
  if (!one && blanks < clear) strays<T>(from, plane, top * width, bottom * width, work, mr, mg, mb)
  deepOnes<T>(from, plane, width, height, top, bottom, work)
}
