// Where a subject is surely solid and where there is nothing but screen; tests/oracles/beside.ts defines it. Planes
// are f32 by rows, marks a byte a pixel.
import { pixelOf, hueOf, termOf, held, alongRow, sum3 } from './screen'

const OWN: f32 = 0.72
const WIDE_SHARE: f32 = 0.045
const THIN_SHARE: f32 = 0.012
const THIN_TOP: f32 = 0.97
const LEAST: f32 = 0.006
const BEYOND: f32 = 8
const FAR: f32 = 4.5
const FAR_MEAN: f32 = 0.9
const OWN_NOISE: f32 = 3
const THIN_NOISE: f32 = 1.5
const BLOCK: i32 = 4
const STRAYS: f32 = 0.08
const UNEVEN: f32 = 0.45
const TOP: f32 = 0.04

/** Means of 5x5 values, the outermost going on at the rim; `row` takes width + 8 f32, `across` a plane. */
export function mean5(from: usize, across: usize, to: usize, width: i32, height: i32, row: usize): void {
  const stride = (<usize>width) << 2
  for (let y = 0; y < height; y++) {
    const at = from + <usize>y * stride
    const out = across + <usize>y * stride
    memory.copy(row + 8, at, stride)
    const last = load<f32>(at + stride - 4)
    store<f32>(row, load<f32>(at))
    store<f32>(row + 4, load<f32>(at))
    for (let k: usize = 0; k < 6; k++) store<f32>(row + 8 + stride + (k << 2), last)
    let x = 0
    for (; x < width; x += 4) {
      const p = row + ((<usize>x) << 2)
      const sum = f32x4.add(
        f32x4.add(f32x4.add(v128.load(p), v128.load(p + 4)), f32x4.add(v128.load(p + 8), v128.load(p + 12))),
        v128.load(p + 16)
      )
      if (x + 4 <= width) v128.store(out + ((<usize>x) << 2), sum)
      else
        for (let k = x; k < width; k++) {
          const q = row + ((<usize>k) << 2)
          store<f32>(
            out + ((<usize>k) << 2),
            load<f32>(q) + load<f32>(q + 4) + (load<f32>(q + 8) + load<f32>(q + 12)) + load<f32>(q + 16)
          )
        }
    }
  }
  const share = f32x4.splat(1.0 / 25.0)
  for (let y = 0; y < height; y++) {
    const a = across + <usize>max(0, y - 2) * stride
    const b = across + <usize>max(0, y - 1) * stride
    const c = across + <usize>y * stride
    const d = across + <usize>min(height - 1, y + 1) * stride
    const e = across + <usize>min(height - 1, y + 2) * stride
    const out = to + <usize>y * stride
    let x = 0
    for (; x + 4 <= width; x += 4) {
      const o = (<usize>x) << 2
      const sum = f32x4.add(
        f32x4.add(f32x4.add(v128.load(a + o), v128.load(b + o)), f32x4.add(v128.load(c + o), v128.load(d + o))),
        v128.load(e + o)
      )
      v128.store(out + o, f32x4.mul(sum, share))
    }
    for (; x < width; x++) {
      const o = (<usize>x) << 2
      store<f32>(
        out + o,
        (load<f32>(a + o) + load<f32>(b + o) + (load<f32>(c + o) + load<f32>(d + o)) + load<f32>(e + o)) *
          <f32>(1.0 / 25.0)
      )
    }
  }
}

/** What is left of `BEYOND` by each value, and nothing below. */
export function besideRest(from: usize, to: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    v128.store(to, f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(BEYOND), v128.load(from))))
    from += 16
    to += 16
  }
}

/**
 * The largest of 2 * reach + 1 rows, nothing beyond the rim; `room` takes height + 2 * reach rows and is spoilt, its
 * middle being the rows given.
 */
export function largestDown(room: usize, to: usize, width: i32, height: i32, reach: i32): void {
  const stride = (<usize>width) << 2
  const rows = height + 2 * reach
  const window = 2 * reach + 1
  memory.fill(room, 0, <usize>reach * stride)
  memory.fill(room + <usize>(height + reach) * stride, 0, <usize>reach * stride)
  let span = 1
  while (span << 1 <= window) {
    const count = <usize>(rows - span) * stride
    const step = <usize>span * stride
    let o: usize = 0
    for (; o + 16 <= count; o += 16)
      v128.store(room + o, f32x4.pmax(v128.load(room + o), v128.load(room + o + step)))
    for (; o < count; o += 4) store<f32>(room + o, max(load<f32>(room + o), load<f32>(room + o + step)))
    span <<= 1
  }
  const rest = <usize>(window - span) * stride
  const count = <usize>height * stride
  let o: usize = 0
  for (; o + 16 <= count; o += 16)
    v128.store(to + o, f32x4.pmax(v128.load(room + o), v128.load(room + o + rest)))
  for (; o < count; o += 4) store<f32>(to + o, max(load<f32>(room + o), load<f32>(room + o + rest)))
}

// @ts-ignore: decorator
@inline
function steady(value: f32, share: f32, least: f32, more: f32): bool {
  return least >= value - max(max(share * value, LEAST), more)
}

/**
 * Marks cores, a byte a pixel. `wideAway` and `wideCross` are the planes themselves where nothing is smoothed, which
 * `noise` of 0 says; `wideRest` and `most` are squares' largest of what is left and of the plane.
 */
export function besideCores(
  away: usize,
  cross: usize,
  wideAway: usize,
  wideCross: usize,
  wideRest: usize,
  most: usize,
  width: i32,
  height: i32,
  across: f32,
  noise: f32,
  smooth: i32,
  cores: usize
): void {
  const stride = (<usize>width) << 2
  const wideNoise: f32 = smooth ? FAR_MEAN * noise : 0
  const thinNoise: f32 = smooth ? THIN_NOISE * noise : 0
  const wide = f32x4.splat(across)
  const least = f32x4.splat(OWN)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const o = (<usize>(y * width + x)) << 2
      if (!(x & 3) && x + 4 <= width) {
        // most of a picture is screen, and passed over four pixels at a time
        const any = v128.or(
          f32x4.ge(hues(v128.load(away + o), v128.load(cross + o), wide), least),
          f32x4.ge(hues(v128.load(wideAway + o), v128.load(wideCross + o), wide), least)
        )
        if (!v128.any_true(any)) {
          store<u32>(cores + <usize>(y * width + x), 0)
          x += 3
          continue
        }
      }
      const value = load<f32>(away + o)
      const even = load<f32>(wideAway + o)
      let core = 0
      const evenOwn = hueOf(even, load<f32>(wideCross + o), across) >= OWN
      const valueOwn = hueOf(value, load<f32>(cross + o), across) >= OWN
      if (evenOwn || valueOwn) {
        let beside = value
        if (x > 0) beside = min(beside, load<f32>(away + o - 4))
        if (x < width - 1) beside = min(beside, load<f32>(away + o + 4))
        if (y > 0) beside = min(beside, load<f32>(away + o - stride))
        if (y < height - 1) beside = min(beside, load<f32>(away + o + stride))
        if (
          evenOwn &&
          steady(even, WIDE_SHARE, BEYOND - load<f32>(wideRest + o), wideNoise) &&
          (!smooth || steady(even, WIDE_SHARE, beside, OWN_NOISE * noise))
        )
          core = 1
        else if (
          valueOwn &&
          value >= THIN_TOP * load<f32>(most + o) - thinNoise &&
          steady(value, THIN_SHARE, beside, thinNoise)
        )
          core = 1
      }
      store<u8>(cores + <usize>(y * width + x), <u8>core)
    }
  }
}

// @ts-ignore: decorator
@inline
function hues(away: v128, cross: v128, across: v128): v128 {
  const one = f32x4.splat(1)
  return f32x4.sub(one, held(f32x4.sub(f32x4.sub(one, away), f32x4.mul(f32x4.abs(cross), across))))
}

/** Lanes that are set as bytes of 1, lowest first. */
// @ts-ignore: decorator
@inline
function bytesOf(mask: i32): u32 {
  return (mask & 1) | ((mask & 2) << 7) | ((mask & 4) << 14) | ((mask & 8) << 21)
}

/** Marks what is nothing but screen; `smooth` is 0 where there is no noise. Writes up to three bytes beyond the end. */
export function besideBares(
  away: usize,
  cross: usize,
  meanAway: usize,
  meanCross: usize,
  n: i32,
  across: f32,
  clear: f32,
  noiseAway: f32,
  noiseHue: f32,
  smooth: i32,
  bares: usize
): void {
  const wide = f32x4.splat(across)
  const own = f32x4.splat(clear)
  const farAway = f32x4.splat(clear + FAR * noiseAway)
  const farHue = f32x4.splat(clear + FAR * noiseHue)
  const mostAway = f32x4.splat(max(clear, FAR_MEAN * noiseAway))
  const mostHue = f32x4.splat(max(clear, FAR_MEAN * noiseHue))
  for (let p: usize = 0; p < <usize>n; p += 4) {
    const o = p << 2
    const value = v128.load(away + o)
    const hue = hues(value, v128.load(cross + o), wide)
    let bare = v128.and(f32x4.lt(hue, own), f32x4.lt(value, own))
    if (smooth) {
      const even = v128.load(meanAway + o)
      const near = v128.and(f32x4.lt(hue, farHue), f32x4.lt(value, farAway))
      const mean = hues(even, v128.load(meanCross + o), wide)
      bare = v128.or(bare, v128.and(near, v128.and(f32x4.lt(even, mostAway), f32x4.lt(mean, mostHue))))
    }
    store<u32>(bares + p, bytesOf(i32x4.bitmask(bare)))
  }
}

/** Mean colours of blocks and the screen in their middle, four f32 each, and whether a block has a core. */
export function besideBlocks(
  from: usize,
  kind: i32,
  plate: usize,
  surfaces: usize,
  cores: usize,
  width: i32,
  height: i32,
  columns: i32,
  rows: i32,
  colours: usize,
  screens: usize,
  any: usize
): void {
  const share = f32x4.splat(1.0 / 16.0)
  const per: f32 = 1 / <f32>width
  for (let y = 0; y < rows; y++) {
    const line = y * BLOCK + (BLOCK >> 1)
    const v = <f64>line / <f64>height
    const c0 = termOf(surfaces, 0, v)
    const c1 = termOf(surfaces, 1, v)
    const c2 = termOf(surfaces, 2, v)
    for (let x = 0; x < columns; x++) {
      const n = <usize>(y * columns + x)
      let colour = f32x4.splat(0)
      let core: u32 = 0
      for (let row = 0; row < BLOCK; row++) {
        const p = <usize>((y * BLOCK + row) * width + x * BLOCK)
        core |= load<u32>(cores + p)
        for (let column: usize = 0; column < <usize>BLOCK; column++)
          colour = f32x4.add(colour, pixelOf(from, kind, p + column))
      }
      const column = x * BLOCK + (BLOCK >> 1)
      const screen = plate
        ? v128.load(plate + ((<usize>(line * width + column)) << 4))
        : alongRow(c0, c1, c2, <f32>column * per)
      v128.store(colours + (n << 4), f32x4.replace_lane(f32x4.mul(colour, share), 3, 0))
      v128.store(screens + (n << 4), f32x4.replace_lane(screen, 3, 0))
      store<u8>(any + n, core ? 1 : 0)
    }
  }
}

function alongWay(colours: usize, screens: usize, block: i32, top: i32): f32 {
  const i = (<usize>block) << 4
  const k = (<usize>top) << 4
  const way = f32x4.sub(v128.load(colours + k), v128.load(screens + k))
  const gone = f32x4.sub(v128.load(colours + i), v128.load(screens + i))
  const span = sum3(f32x4.mul(way, way))
  if (span < 1e-4) return -1
  const dot = sum3(f32x4.mul(way, gone))
  const t = dot / span
  return sum3(f32x4.mul(gone, gone)) - t * dot > STRAYS * STRAYS * span ? -1 : t
}

// @ts-ignore: decorator
@inline
function unlike(own: v128, other: usize): bool {
  return v128.any_true(f32x4.gt(f32x4.abs(f32x4.sub(own, v128.load(other))), f32x4.splat(0.002)))
}

/** Whether the four blocks beside one are of its colour. */
function isFlat(colours: usize, columns: i32, rows: i32, x: i32, y: i32): bool {
  const at = colours + ((<usize>(y * columns + x)) << 4)
  const own = v128.load(at)
  const stride = (<usize>columns) << 4
  if (x > 0 && unlike(own, at - 16)) return false
  if (x < columns - 1 && unlike(own, at + 16)) return false
  if (y > 0 && unlike(own, at - stride)) return false
  return !(y < rows - 1 && unlike(own, at + stride))
}

function onRamp(colours: usize, screens: usize, any: usize, columns: i32, rows: i32, x: i32, y: i32, least: f32): bool {
  const at = y * columns + x
  for (let way = 0; way < 8; way++) {
    // eight ways round from the right
    const dx = way == 0 || way == 1 || way == 7 ? 1 : way == 2 || way == 6 ? 0 : -1
    const dy = way == 1 || way == 2 || way == 3 ? 1 : way == 0 || way == 4 ? 0 : -1
    for (let far = 3; far <= 24; far <<= 1) {
      const third = far / 3
      const u = x + dx * far
      const v = y + dy * far
      const bu = x - dx * third
      const bv = y - dy * third
      if (u < 0 || v < 0 || u >= columns || v >= rows || bu < 0 || bv < 0 || bu >= columns || bv >= rows) continue
      const top = v * columns + u
      if (!load<u8>(any + <usize>top)) continue
      const t = alongWay(colours, screens, at, top)
      if (t < 0 || t >= 1 - least) continue
      const rise: f32 = 1 - t
      const step = dy * third * columns + dx * third
      if (abs(alongWay(colours, screens, at + step, top) - t - rise / 3) > UNEVEN * rise) continue
      if (abs(alongWay(colours, screens, at + 2 * step, top) - t - (2 * rise) / 3) > UNEVEN * rise) continue
      const before = alongWay(colours, screens, at - step, top)
      if (before >= 0 && before <= t - rise / 8) return true
    }
  }
  return false
}

/** Takes the cores of blocks that lie on a ramp. */
export function besideRamps(
  cores: usize,
  colours: usize,
  screens: usize,
  any: usize,
  width: i32,
  columns: i32,
  rows: i32,
  noise: f32
): void {
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      if (!load<u8>(any + <usize>(y * columns + x))) continue
      if (isFlat(colours, columns, rows, x, y)) continue
      if (!onRamp(colours, screens, any, columns, rows, x, y, TOP + noise)) continue
      for (let v = 0; v < BLOCK; v++) store<u32>(cores + <usize>((y * BLOCK + v) * width + x * BLOCK), 0)
    }
}
