// Chroma that a film shares between pixels, led back to edges by luma; tests/oracles/led.ts defines it. Lines and
// planes are f32, each line of samples after a margin of four, so that the outermost ones go on beyond both ends.
import { KR, KG, KB, lumaOf, pixelOf, putPixel, held01, channelOf } from './screen'

const OWN: i32 = 0
const REPEATED: i32 = 1
const FIRST: i32 = 2
const MIDDLE: i32 = 3

const STILL: f32 = 0.02 * 0.02
const GENTLE: f32 = 3
const STEEP: f32 = 6
const EVEN: f32 = 10.0 / 255.0
/** Samples before a line's first; what vectors write beyond its last fits behind it. */
const MARGIN: i32 = 4
const BEHIND: i32 = 12

/** What `ledByLuma` is asked for, as it lies in memory: a number of 32 bits each. */
@unmanaged
class Led {
  from: usize
  kind: i32
  to: usize
  width: i32
  height: i32
  /** 0 own, 1 repeated, 2 at the first of two, 3 in their middle. */
  across: i32
  down: i32
  /** As many bytes as `ledRoom` says. */
  work: usize
}

// @ts-ignore: decorator
@inline
function samplesOf(length: i32, siting: i32): i32 {
  return siting == OWN ? length : (length + 1) >> 1
}

// @ts-ignore: decorator
@inline
function strideOf(samples: i32): i32 {
  return ((samples + 3) & ~3) + MARGIN + BEHIND
}

/** Bytes of work that `ledByLuma` needs, which may be more than there can be. */
export function ledRoom(width: i32, height: i32, across: i32, down: i32): f64 {
  const line = <f64>strideOf(width)
  const stride = <f64>strideOf(samplesOf(width, across))
  const rows = <f64>samplesOf(height, down)
  // three lines, halves, sites, two times slope and bounds, three lines between rows; bytes of what varies
  return 4 * (3 * line + 3 * stride * <f64>height + 9 * stride * rows + 3 * stride) + stride * (rows + 1)
}

/** Lets the outermost of a line go on beyond both ends. */
function onward(line: usize, length: i32): void {
  const first = load<f32>(line)
  const last = load<f32>(line + ((<usize>(length - 1)) << 2))
  for (let k = 1; k <= MARGIN; k++) store<f32>(line - ((<usize>k) << 2), first)
  for (let k = 0; k < 8; k++) store<f32>(line + ((<usize>(length + k)) << 2), last)
}

/** Luma, blue's and red's difference from it of row `y`, each into its line. */
function apart(led: Led, y: i32, lumas: usize, blues: usize, reds: usize): void {
  const start = <usize>(y * led.width)
  const kr = f32x4.splat(KR)
  const kg = f32x4.splat(KG)
  const kb = f32x4.splat(KB)
  for (let x: usize = 0; x < <usize>led.width; x += 4) {
    const r = channelOf(led.from, led.kind, start + x, 0)
    const g = channelOf(led.from, led.kind, start + x, 1)
    const b = channelOf(led.from, led.kind, start + x, 2)
    const luma = f32x4.add(f32x4.add(f32x4.mul(kr, r), f32x4.mul(kg, g)), f32x4.mul(kb, b))
    const o = x << 2
    v128.store(lumas + o, luma)
    v128.store(blues + o, f32x4.sub(b, luma))
    v128.store(reds + o, f32x4.sub(r, luma))
  }
}

/** Pixels of a line to the samples they share. */
function across(line: usize, to: usize, columns: i32, siting: i32): void {
  const half = f32x4.splat(0.5)
  for (let k = 0; k < columns; k += 4) {
    const o = to + ((<usize>k) << 2)
    if (siting == OWN) {
      v128.store(o, v128.load(line + ((<usize>k) << 2)))
      continue
    }
    const at = line + ((<usize>k) << 3)
    const near = v128.load(at)
    const far = v128.load(at, 16)
    const even = v128.shuffle<u32>(near, far, 0, 2, 4, 6)
    const odd = v128.shuffle<u32>(near, far, 1, 3, 5, 7)
    if (siting != FIRST) {
      v128.store(o, f32x4.mul(half, f32x4.add(even, odd)))
      continue
    }
    const before = v128.shuffle<u32>(v128.load(at - 8), v128.load(at + 8), 1, 3, 5, 7)
    const sides = f32x4.mul(half, f32x4.add(before, odd))
    v128.store(o, f32x4.mul(half, f32x4.add(even, sides)))
  }
}

/** Lines to the samples they share, `line` of `height` of them to row `row`. */
function down(from: usize, to: usize, stride: usize, row: i32, height: i32, siting: i32): void {
  const middle = siting == OWN ? row : 2 * row
  const above = from + <usize>max(0, middle - 1) * stride
  const own = from + <usize>middle * stride
  const below = from + <usize>min(height - 1, middle + 1) * stride
  const half = f32x4.splat(0.5)
  for (let o: usize = 0; o < stride; o += 16) {
    let value = v128.load(own + o)
    if (siting == FIRST) {
      const sides = f32x4.mul(half, f32x4.add(v128.load(above + o), v128.load(below + o)))
      value = f32x4.mul(half, f32x4.add(value, sides))
    } else if (siting != OWN) value = f32x4.mul(half, f32x4.add(value, v128.load(below + o)))
    v128.store(to + o, value)
  }
}

/**
 * How one chroma goes with luma around each sample of row `y`, and the bounds it is held to; marks in `varies`, where
 * `more` beside what is marked there.
 */
function slopes(
  lumas: usize,
  chroma: usize,
  slope: usize,
  least: usize,
  most: usize,
  stride: usize,
  columns: i32,
  y: i32,
  rows: i32,
  varies: usize,
  more: bool
): void {
  const up = y > 0 ? -stride : 0
  const low = y < rows - 1 ? stride : 0
  const ninth = f32x4.splat(1.0 / 9.0)
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  for (let x = 0; x < columns; x += 4) {
    const o = (<usize>y) * stride + ((<usize>x) << 2)
    const at = chroma + o
    const own = v128.load(at)
    let fewest = own
    let top = own
    for (let line = 0; line < 3; line++) {
      const p = at + (line == 0 ? up : line == 1 ? 0 : low)
      const left = v128.load(p - 4)
      const here = v128.load(p)
      const right = v128.load(p + 4)
      fewest = f32x4.pmin(fewest, f32x4.pmin(left, f32x4.pmin(here, right)))
      top = f32x4.pmax(top, f32x4.pmax(left, f32x4.pmax(here, right)))
    }
    const span = f32x4.sub(top, fewest)
    const uneven = f32x4.ge(span, f32x4.splat(EVEN))
    const mask = i32x4.bitmask(uneven)
    const marks = (mask & 1) | ((mask & 2) << 7) | ((mask & 4) << 14) | ((mask & 8) << 21)
    const mark = varies + <usize>x
    store<u32>(mark, more ? load<u32>(mark) | marks : marks)
    const extra = v128.and(span, uneven)
    v128.store(least + o, f32x4.sub(fewest, extra))
    v128.store(most + o, f32x4.add(top, extra))
    if (!mask) {
      v128.store(slope + o, zero)
      continue
    }
    const ground = v128.load(lumas + o)
    let sy = zero
    let syy = zero
    let sc = zero
    let syc = zero
    let scc = zero
    for (let line = 0; line < 3; line++) {
      const far = line == 0 ? up : line == 1 ? 0 : low
      for (let column: usize = 0; column < 12; column += 4) {
        const l = f32x4.sub(v128.load(lumas + o + far + column - 4), ground)
        const c = f32x4.sub(v128.load(at + far + column - 4), own)
        sy = f32x4.add(sy, l)
        syy = f32x4.add(syy, f32x4.mul(l, l))
        sc = f32x4.add(sc, c)
        syc = f32x4.add(syc, f32x4.mul(l, c))
        scc = f32x4.add(scc, f32x4.mul(c, c))
      }
    }
    const my = f32x4.mul(sy, ninth)
    const mc = f32x4.mul(sc, ninth)
    const vy = f32x4.sub(f32x4.mul(syy, ninth), f32x4.mul(my, my))
    const vc = f32x4.sub(f32x4.mul(scc, ninth), f32x4.mul(mc, mc))
    const cov = f32x4.sub(f32x4.mul(syc, ninth), f32x4.mul(my, mc))
    const told = v128.and(f32x4.gt(vy, zero), f32x4.gt(vc, zero))
    const explained = v128.and(f32x4.pmin(one, f32x4.div(f32x4.mul(cov, cov), f32x4.mul(vy, vc))), told)
    const steep = f32x4.div(cov, f32x4.add(vy, f32x4.splat(STILL)))
    const trust = f32x4.mul(f32x4.sub(f32x4.splat(STEEP), f32x4.abs(steep)), f32x4.splat(1 / (STEEP - GENTLE)))
    const trusted = f32x4.mul(steep, f32x4.pmin(one, f32x4.pmax(zero, trust)))
    v128.store(slope + o, v128.and(f32x4.mul(trusted, explained), uneven))
  }
}

/** Two rows of samples to the line between them, `part` of the way down. */
function between(upper: usize, lower: usize, part: f32, to: usize, stride: usize): void {
  const rest = f32x4.splat(1 - part)
  const share = f32x4.splat(part)
  for (let o: usize = 0; o < stride; o += 16)
    v128.store(to + o, f32x4.add(f32x4.mul(v128.load(upper + o), rest), f32x4.mul(v128.load(lower + o), share)))
}

// @ts-ignore: decorator
@inline
function lineAlong(line: usize, left: usize, right: usize, part: f32): f32 {
  return load<f32>(line + (left << 2)) * (1 - part) + load<f32>(line + (right << 2)) * part
}

/** Row `y` as it is, codes of 8 bits as those of 16. */
function asItIs(led: Led, y: i32): void {
  if (led.kind == 2) return
  const first = (<usize>(y * led.width)) << 2
  const end = first + ((<usize>led.width) << 2)
  if (led.kind == 1) {
    memory.copy(led.to + (first << 1), led.from + (first << 1), (end - first) << 1)
    return
  }
  const twice = i16x8.splat(257)
  for (let i = first; i < end; i += 8) {
    const words = i16x8.mul(i16x8.extend_low_i8x16_u(v128.load64_zero(led.from + i)), twice)
    if (i + 8 <= end) v128.store(led.to + (i << 1), words)
    else v128.store64_lane(led.to + (i << 1), words, 0)
  }
}

// @ts-ignore: decorator
@inline
function sampleBefore(x: i32, siting: i32): i32 {
  return siting == OWN ? x : siting == MIDDLE ? (x - 1) >> 1 : x >> 1
}

/** How far pixel `x` lies from the sample before it to the one after. */
// @ts-ignore: decorator
@inline
function wayTo(x: i32, siting: i32): f32 {
  if (siting == OWN || siting == REPEATED) return 0
  return siting == FIRST ? (x & 1 ? 0.5 : 0) : x & 1 ? 0.25 : 0.75
}

/** Leads chroma by luma, from `from` to `to`, which are the same for floats; codes come out as those of 16 bits. */
export function ledByLuma(asked: usize): void {
  const led = changetype<Led>(asked)
  const width = led.width
  const height = led.height
  const columns = samplesOf(width, led.across)
  const rows = samplesOf(height, led.down)
  const stride = (<usize>strideOf(columns)) << 2
  const margin = (<usize>MARGIN) << 2
  const wide = (<usize>strideOf(width)) << 2
  const line = led.work + margin
  const halves = led.work + 3 * wide
  const sites = halves + 3 * stride * <usize>height
  const plane = stride * <usize>rows
  const found = sites + 3 * plane
  const mixed = found + 6 * plane
  const varies = mixed + 3 * stride

  for (let y = 0; y < height; y++) {
    apart(led, y, line, line + wide, line + 2 * wide)
    for (let c: usize = 0; c < 3; c++) {
      onward(line + c * wide, width)
      across(line + c * wide, halves + (c * <usize>height + <usize>y) * stride + margin, columns, led.across)
    }
  }
  for (let c: usize = 0; c < 3; c++)
    for (let y = 0; y < rows; y++) {
      const to = sites + c * plane + <usize>y * stride
      down(halves + c * <usize>height * stride, to, stride, y, height, led.down)
      onward(to + margin, columns)
    }
  const lumas = sites + margin
  for (let c: usize = 0; c < 2; c++) {
    const to = found + 3 * c * plane + margin
    for (let y = 0; y < rows; y++) {
      const marks = varies + (<usize>y * stride) / 4
      slopes(lumas, lumas + (c + 1) * plane, to, to + plane, to + 2 * plane, stride, columns, y, rows, marks, c > 0)
    }
  }

  const blue = found + margin
  const red = blue + 3 * plane
  for (let y = 0; y < height; y++) {
    asItIs(led, y)
    const v = wayTo(y, led.down)
    const before = sampleBefore(y, led.down)
    const upper = <usize>max(0, before) * stride
    const lower = <usize>min(rows - 1, before + 1) * stride
    const marksAbove = varies + upper / 4
    const marksBelow = varies + lower / 4
    let any: i32 = 0
    for (let k: usize = 0; k < <usize>columns; k++) any |= load<u8>(marksAbove + k) | load<u8>(marksBelow + k)
    if (!any) continue
    between(lumas + upper - margin, lumas + lower - margin, v, mixed, stride)
    between(blue + upper - margin, blue + lower - margin, v, mixed + stride, stride)
    between(red + upper - margin, red + lower - margin, v, mixed + 2 * stride, stride)
    const near = v < 0.5 ? upper : lower
    const nearMarks = v < 0.5 ? marksAbove : marksBelow
    for (let x = 0, p = y * width; x < width; x++, p++) {
      const one = sampleBefore(x, led.across)
      const left = <usize>max(0, one)
      const right = <usize>min(columns - 1, one + 1)
      if (!(load<u8>(marksAbove + left) | load<u8>(marksAbove + right) | load<u8>(marksBelow + left) | load<u8>(marksBelow + right)))
        continue
      const u = wayTo(x, led.across)
      const pixel = pixelOf(led.from, led.kind, <usize>p)
      const r = f32x4.extract_lane(pixel, 0)
      const b = f32x4.extract_lane(pixel, 2)
      const luma = lumaOf(r, f32x4.extract_lane(pixel, 1), b)
      const finer = luma - lineAlong(mixed + margin, left, right, u)
      let cb = b - luma + lineAlong(mixed + margin + stride, left, right, u) * finer
      let cr = r - luma + lineAlong(mixed + margin + 2 * stride, left, right, u) * finer
      const nearest = u < 0.5 ? left : right
      if (load<u8>(nearMarks + nearest)) {
        const o = near + (nearest << 2)
        cb = max(load<f32>(blue + plane + o), min(load<f32>(blue + 2 * plane + o), cb))
        cr = max(load<f32>(red + plane + o), min(load<f32>(red + 2 * plane + o), cr))
      }
      const green = luma - (KR * cr + KB * cb) / KG
      const alpha = f32x4.extract_lane(pixel, 3)
      putPixel(led.to, led.kind, <usize>p, f32x4(held01(luma + cr), held01(green), held01(luma + cb), alpha))
    }
  }
}
