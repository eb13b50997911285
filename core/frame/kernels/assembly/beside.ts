// Key by the colour beside each edge; tests/oracles/beside.ts defines it. Places are row << 16 | column.
import {
  KR,
  KG,
  KB,
  CB,
  CR,
  lumaOf,
  channelOf,
  pixelOf,
  putPixel,
  held as held4,
  held01,
  hueOf,
  termOf,
  alongRow,
  sum3
} from './screen'

const SURELY: f32 = 0.98
const INSIDE: f32 = 0.93
const INSIDE_LEAST: f32 = 0.8
const REACH: f32 = 60
const LUMA: f32 = 0.1
const NONE: i32 = 0x7fffffff

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

/** Four pixels of solid subject, of codes: their screen's light taken off as `withoutSpill` does, alpha as it was. */
// @ts-ignore: decorator
@inline
function solidFour(from: usize, kind: i32, to: usize, p: usize, spill: f32, lean: f32, channel: i32): void {
  let r = channelOf(from, kind, p, 0)
  let g = channelOf(from, kind, p, 1)
  let b = channelOf(from, kind, p, 2)
  if (spill > 0) {
    const main = channel == 0 ? r : channel == 1 ? g : b
    const one = channel == 0 ? g : r
    const other = channel == 2 ? g : b
    const most = f32x4.mul(f32x4.max(one, other), f32x4.splat(lean))
    const bound = f32x4.add(most, f32x4.mul(f32x4.min(one, other), f32x4.splat(1 - lean)))
    const excess = f32x4.max(f32x4.splat(0), f32x4.mul(f32x4.sub(main, bound), f32x4.splat(spill)))
    const lost = f32x4.mul(excess, f32x4.splat(channel == 1 ? KG : channel == 0 ? KR : KB))
    const held = f32x4.sub(lost, excess)
    r = held4(f32x4.add(r, channel == 0 ? held : lost))
    g = held4(f32x4.add(g, channel == 1 ? held : lost))
    b = held4(f32x4.add(b, channel == 2 ? held : lost))
  }
  const rg = v128.or(codes16(r), i32x4.shl(codes16(g), 16))
  const ba = v128.or(codes16(b), i32x4.shl(codes16(channelOf(from, kind, p, 3)), 16))
  const at = to + (p << 3)
  v128.store(at, v128.shuffle<u32>(rg, ba, 0, 4, 1, 5))
  v128.store(at, v128.shuffle<u32>(rg, ba, 2, 6, 3, 7), 16)
}

// @ts-ignore: decorator
@inline
function codes16(v: v128): v128 {
  return i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(v, f32x4.splat(65535)), f32x4.splat(0.5)))
}

/** Four pixels of nothing. */
// @ts-ignore: decorator
@inline
function clearFour(to: usize, kind: i32, p: usize): void {
  const none = f32x4.splat(0)
  const at = kind > 1 ? to + (p << 4) : to + (p << 3)
  v128.store(at, none)
  v128.store(at, none, 16)
  if (kind < 2) return
  v128.store(at, none, 32)
  v128.store(at, none, 48)
}

/** The same as `colourNear` of codes of 8 bits that have two pixels on every side: four of them at a time. */
function bytesNear(from: usize, p: i32, width: i32, noise: f32, only: usize): v128 {
  const own = i32x4.splat(load<i32>(from + ((<usize>p) << 2)))
  const far = i8x16.splat(<i8>min<i32>(255, <i32>(noise * 765)))
  const colours = i32x4.splat(0xffffff)
  const zero = i32x4.splat(0)
  let sums = zero
  let count = zero
  for (let row = -2; row <= 2; row++) {
    const first = <usize>(p + row * width - 2)
    for (let part: usize = 0; part < 8; part += 4) {
      const at = from + ((first + part) << 2)
      const codes = part ? v128.load32_zero(at) : v128.load(at)
      const apart = v128.or(i8x16.sub_sat_u(codes, own), i8x16.sub_sat_u(own, codes))
      let takes = i32x4.eq(v128.and(i8x16.sub_sat_u(apart, far), colours), zero)
      if (part) takes = v128.and(takes, i32x4(-1, 0, 0, 0))
      if (only) {
        const marks = i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(only + first + part)))
        takes = v128.and(takes, i32x4.ne(marks, zero))
      }
      const taken = v128.and(codes, takes)
      sums = i16x8.add(sums, i16x8.add(i16x8.extend_low_i8x16_u(taken), i16x8.extend_high_i8x16_u(taken)))
      count = i32x4.sub(count, takes)
    }
  }
  const whole = i32x4.add(i32x4.extend_low_i16x8_u(sums), i32x4.extend_high_i16x8_u(sums))
  const many =
    i32x4.extract_lane(count, 0) + i32x4.extract_lane(count, 1) + i32x4.extract_lane(count, 2) + i32x4.extract_lane(count, 3)
  return f32x4.div(f32x4.convert_i32x4_u(whole), f32x4.splat(<f32>255 * <f32>many))
}

/** The same of codes of 16 bits, two pixels at a time. */
function wordsNear(from: usize, p: i32, width: i32, noise: f32, only: usize): v128 {
  const own = i64x2.splat(load<i64>(from + ((<usize>p) << 3)))
  const far = i16x8.splat(<i16>min<i32>(65535, <i32>(noise * 196605)))
  const colours = i64x2.splat(0xffffffffffff)
  const zero = i64x2.splat(0)
  let sums = zero
  let count = zero
  for (let row = -2; row <= 2; row++) {
    const first = <usize>(p + row * width - 2)
    for (let part: usize = 0; part < 6; part += 2) {
      const at = from + ((first + part) << 3)
      const codes = v128.load(at)
      const apart = v128.or(i16x8.sub_sat_u(codes, own), i16x8.sub_sat_u(own, codes))
      let takes = i64x2.eq(v128.and(i16x8.sub_sat_u(apart, far), colours), zero)
      if (part == 4) takes = v128.and(takes, i64x2(-1, 0))
      if (only) {
        const here = load<u8>(only + first + part) ? <i64>-1 : 0
        const next = load<u8>(only + first + part + 1) ? <i64>-1 : 0
        takes = v128.and(takes, i64x2(here, next))
      }
      const taken = v128.and(codes, takes)
      sums = i32x4.add(sums, i32x4.add(i32x4.extend_low_i16x8_u(taken), i32x4.extend_high_i16x8_u(taken)))
      count = i64x2.sub(count, takes)
    }
  }
  const many = <i32>(i64x2.extract_lane(count, 0) + i64x2.extract_lane(count, 1))
  return f32x4.div(f32x4.convert_i32x4_u(sums), f32x4.splat(<f32>65535 * <f32>many))
}

/** The mean of colours near the one at `p` in 5x5 pixels, of those marked `only` where that is not 0. */
function colourNear(from: usize, kind: i32, p: i32, width: i32, height: i32, noise: f32, only: usize): v128 {
  const own = pixelOf(from, kind, <usize>p)
  if (noise == 0) return own
  const y = p / width
  const x = p - y * width
  if (kind < 2 && x > 1 && x < width - 2 && y > 1 && y < height - 2)
    return kind ? wordsNear(from, p, width, noise, only) : bytesNear(from, p, width, noise, only)
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
 * The key itself: `from` to `to`, straight, alpha multiplied into what there was; `sure` takes a f32 a pixel, or is 0.
 * Rows are those that `nearestRows` gives for cores and bares.
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
      if (sure) store<f32>(sure + o, 1)
      if (load<u8>(bares + <usize>p)) {
        if (!sure && x + 4 <= width && load<u32>(bares + <usize>p) == 0x01010101) {
          // mostly there is screen beside screen
          clearFour(to, kind, <usize>p)
          x += 3
          p += 3
          continue
        }
        putPixel(to, kind, <usize>p, f32x4.splat(0))
        continue
      }
      if (!sure && kind < 2 && x + 4 <= width && load<u32>(cores + <usize>p) == 0x01010101 && !load<u32>(bares + <usize>p)) {
        solidFour(from, kind, to, <usize>p, spill, lean, channel)
        x += 3
        p += 3
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
        if (sure && a < solid && a > clear && a > 0 && a < 1)
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
