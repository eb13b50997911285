/**
 * Colour of films that share chroma between pixels (4:2:2, 4:2:0). How it was shared and drawn up again is found in the
 * picture; then luma, which every pixel has of its own, leads chroma back to edges: where both vary together within a
 * few samples, what luma does finer than they do, chroma does in proportion.
 */
import { clamp01, luma } from '../kernels/pixel'
import type { Picture } from './picture'
import type { Values } from './values'

/** How chroma lies along one axis: each pixel's own, repeated, or drawn between samples in the middle or at the first of two. */
export type Siting = 'own' | 'repeated' | 'middle' | 'first'

export interface SharedChroma {
  across: Siting
  down: Siting
}

/** Nearer to the end of what a channel holds than this it lies at it. */
const AT_END = 0.002

/** Lines of luma and both chromas, filled anew for each line that is looked at. */
interface Line {
  lumas: Float32Array
  chromas: readonly [Float32Array, Float32Array]
}

function fillLine({ samples, unit }: Values, start: number, step: number, length: number, line: Line): void {
  const { lumas } = line
  const [blues, reds] = line.chromas
  for (let n = 0, i = 4 * start; n < length; n++, i += 4 * step) {
    const r = samples[i]! * unit
    const g = samples[i + 1]! * unit
    const b = samples[i + 2]! * unit
    const value = luma(r, g, b)
    lumas[n] = value
    // what lies at its end may have been cut off there
    const ended = r < AT_END || g < AT_END || b < AT_END || r > 1 - AT_END || g > 1 - AT_END || b > 1 - AT_END
    blues[n] = ended ? NaN : b - value
    reds[n] = ended ? NaN : r - value
  }
}

/** Pixels that are looked at along each axis, about, in whole lines. */
const LOOKED = 60000
/** Chroma that differs by less within six pixels says nothing. */
const VARIES = 10 / 255
/** Places that differ, fewest that say anything. */
const FEWEST = 60
/** What would be nothing at all without rounding is at most this part of what it is one pixel on. */
const PART = 0.2
/** In luma, of which every pixel has its own, it is at least so much of what it is one pixel on. */
const AS_MUCH = 0.5

/** Ways to share, each with what is nothing then at every second pixel: a difference of the first to third order. */
const SHARED = ['repeated', 'first', 'middle'] as const

/** Adds the squares of the three differences from `n` on to `sums`, at `at` and every fourth from there. */
function addDifferences(c: Float32Array, n: number, sums: Float64Array, at: number): void {
  const one = c[n + 1]! - c[n]!
  const two = c[n]! - 2 * c[n + 1]! + c[n + 2]!
  const three = c[n + 1]! - 3 * c[n + 2]! + 3 * c[n + 3]! - c[n + 4]!
  sums[at]! += one * one
  sums[at + 4]! += two * two
  sums[at + 8]! += three * three
}

/** Whether chroma varies within the six pixels from `n` on, and none of it was cut off. */
function varies(chroma: Float32Array, n: number): boolean {
  let [least, most] = [chroma[n]!, chroma[n]!]
  for (let k = 1; k < 6; k++) {
    const value = chroma[n + k]!
    if (value < least) least = value
    else if (value > most) most = value
    // no number is neither
    else if (!(value >= least)) return false
  }
  return most - least >= VARIES
}

function sitingAlong(values: Values, length: number, starts: readonly number[], step: number): Siting {
  // of each way: chroma at every second pixel and one on, and luma at the same
  const sums = new Float64Array(12)
  let places = 0
  const line: Line = {
    lumas: new Float32Array(length),
    chromas: [new Float32Array(length), new Float32Array(length)]
  }
  for (const start of starts) {
    fillLine(values, start, step, length, line)
    for (const chroma of line.chromas)
      for (let n = 0; n + 6 <= length; n += 2) {
        if (!varies(chroma, n)) continue
        places++
        addDifferences(chroma, n, sums, 0)
        addDifferences(chroma, n + 1, sums, 1)
        addDifferences(line.lumas, n, sums, 2)
        addDifferences(line.lumas, n + 1, sums, 3)
      }
  }
  if (places < FEWEST) return 'own'
  // where luma is the same the picture was enlarged as a whole, and leads nothing
  return (
    SHARED.find((_, way) => {
      const [chroma, next, ofLuma, nextOfLuma] = sums.subarray(4 * way, 4 * way + 4)
      return chroma! < PART * next! && ofLuma! > AS_MUCH * nextOfLuma!
    }) ?? 'own'
  )
}

/** How the chroma of straight values is shared; 'own' where it is not, or where too little of it varies to tell. */
export function findShared(values: Values): SharedChroma {
  const { width, height } = values
  const some = (count: number, length: number): number[] => {
    const every = Math.max(1, Math.floor((count * length) / LOOKED))
    return Array.from({ length: Math.floor(count / every) }, (_, n) => n * every)
  }
  return {
    across: sitingAlong(
      values,
      width,
      some(height, width).map(y => y * width),
      1
    ),
    down: sitingAlong(values, height, some(width, height), width)
  }
}

export const isShared = ({ across, down }: SharedChroma): boolean => across !== 'own' || down !== 'own'

/** How pixels of an axis become samples, and where each pixel lies between them. */
interface Axis {
  samples: number
  /** Three pixels and their weights for each sample. */
  from: Int32Array
  weights: readonly [number, number, number]
  /** The sample at or before each pixel, the one after, and how far between. */
  low: Int32Array
  high: Int32Array
  part: Float32Array
}

function axisOf(length: number, siting: Siting): Axis {
  const own = siting === 'own'
  const samples = own ? length : Math.ceil(length / 2)
  const from = new Int32Array(3 * samples)
  const held = (n: number, end: number): number => Math.max(0, Math.min(end - 1, n))
  for (let k = 0; k < samples; k++)
    for (let d = 0; d < 3; d++) from[3 * k + d] = own ? k : held(2 * k + d - (siting === 'first' ? 1 : 0), length)
  const [low, high, part] = [new Int32Array(length), new Int32Array(length), new Float32Array(length)]
  for (let x = 0; x < length; x++) {
    const at = own ? x : siting === 'repeated' ? x >> 1 : siting === 'first' ? x / 2 : (x + 0.5) / 2 - 0.5
    const below = Math.floor(at)
    low[x] = held(below, samples)
    high[x] = held(below + 1, samples)
    part[x] = at - below
  }
  return {
    samples,
    from,
    weights: own ? [1, 0, 0] : siting === 'first' ? [0.25, 0.5, 0.25] : [0.5, 0.5, 0],
    low,
    high,
    part
  }
}

/** Luma and both chromas at each sample. */
type Sampled = readonly [Float32Array, Float32Array, Float32Array]

function sampled({ width, height, rgba }: Picture, across: Axis, down: Axis): Sampled {
  const columns = across.samples
  const planes = (size: number): Sampled => [new Float32Array(size), new Float32Array(size), new Float32Array(size)]
  const rows = planes(columns * height)
  const line = planes(width)
  const [first, second, third] = across.weights
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 4) {
      const value = luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
      line[0][x] = value
      line[1][x] = rgba[i + 2]! - value
      line[2][x] = rgba[i]! - value
    }
    for (const c of [0, 1, 2] as const) {
      const [from, to] = [line[c], rows[c]]
      // two pixels a sample, side by side, which is the usual case
      if (third === 0 && second > 0) {
        const o = y * columns
        for (let k = 0, x = 0; k < columns - 1; k++, x += 2) to[o + k] = (from[x]! + from[x + 1]!) / 2
        to[o + columns - 1] = (from[2 * columns - 2]! + from[width - 1]!) / 2
        continue
      }
      for (let k = 0, o = y * columns, f = 0; k < columns; k++, o++, f += 3)
        to[o] =
          from[across.from[f]!]! * first + from[across.from[f + 1]!]! * second + from[across.from[f + 2]!]! * third
    }
  }
  const sites = planes(columns * down.samples)
  const [upper, middle, lower] = down.weights
  for (let k = 0; k < down.samples; k++) {
    const [a, b, e] = [0, 1, 2].map(n => down.from[3 * k + n]! * columns) as [number, number, number]
    for (const c of [0, 1, 2] as const) {
      const [from, to] = [rows[c], sites[c]]
      for (let x = 0, o = k * columns; x < columns; x++, o++)
        to[o] = from[a + x]! * upper + from[b + x]! * middle + from[e + x]! * lower
    }
  }
  return sites
}

/** Luma that varies by less than this, squared, leads nothing. */
const STILL = 0.02 ** 2
/** Chroma that goes so much faster than luma is not led by it, but by its noise and rounding. */
const STEEP = [3, 6] as const

function believed(slope: number): number {
  const steep = Math.abs(slope)
  return slope * Math.max(0, Math.min(1, (STEEP[1] - steep) / (STEEP[1] - STEEP[0])))
}
/** Chroma that varies by less within three by three samples is even. */
const EVEN = 10 / 255

/** How one chroma goes with luma around each sample, and the bounds that it is held to. */
interface Led {
  slope: Float32Array
  least: Float32Array
  most: Float32Array
}

/** Marks samples around which chroma varies in `varies`. */
function led(lumas: Float32Array, chroma: Float32Array, columns: number, rows: number, varies: Uint8Array): Led {
  const plane = (): Float32Array => new Float32Array(columns * rows)
  const [slope, least, most] = [plane(), plane(), plane()]
  for (let y = 0, o = 0; y < rows; y++) {
    const [top, bottom] = [Math.max(0, y - 1) * columns, Math.min(rows - 1, y + 1) * columns]
    for (let x = 0; x < columns; x++, o++) {
      const [left, right] = [x > 0 ? x - 1 : 0, x < columns - 1 ? x + 1 : x]
      let low = chroma[o]!
      let high = low
      for (let row = top; row <= bottom; row += columns)
        for (let q = row + left; q <= row + right; q++) {
          const c = chroma[q]!
          if (c < low) low = c
          else if (c > high) high = c
        }
      least[o] = low
      most[o] = high
      if (high - low < EVEN) continue
      varies[o] = 1
      let n = 0
      let sy = 0
      let syy = 0
      let sc = 0
      let syc = 0
      let scc = 0
      for (let row = top; row <= bottom; row += columns)
        for (let q = row + left; q <= row + right; q++) {
          const l = lumas[q]!
          const c = chroma[q]!
          n++
          sy += l
          syy += l * l
          sc += c
          syc += l * c
          scc += c * c
        }
      const vy = syy / n - (sy / n) ** 2
      const vc = scc / n - (sc / n) ** 2
      const cov = syc / n - (sy / n) * (sc / n)
      // as far as the one explains the other
      const explained = vy > 0 && vc > 0 ? Math.min(1, (cov * cov) / (vy * vc)) : 0
      slope[o] = believed(cov / (vy + STILL)) * explained
      // what is thinner than a sample lies beyond all of them, by as much again at most
      least[o] = low - (high - low)
      most[o] = high + (high - low)
    }
  }
  return { slope, least, most }
}

/** Leads a picture's chroma by its luma, in place; alpha and luma stay. Straight, coded, 0 to 1; see `isShared`. */
export function ledByLuma(picture: Picture, { across, down }: SharedChroma): void {
  const { width, height } = picture
  const [wide, high] = [axisOf(width, across), axisOf(height, down)]
  const sites = sampled(picture, wide, high)
  const varies = new Uint8Array(wide.samples * high.samples)
  const [blue, red] = [
    led(sites[0], sites[1], wide.samples, high.samples, varies),
    led(sites[0], sites[2], wide.samples, high.samples, varies)
  ]
  const { rgba } = picture
  for (let y = 0, i = 0; y < height; y++) {
    const top = high.low[y]! * wide.samples
    const bottom = high.high[y]! * wide.samples
    const v = high.part[y]!
    for (let x = 0; x < width; x++, i += 4) {
      const l = wide.low[x]!
      const r = wide.high[x]!
      const [a, b, c, d] = [top + l, top + r, bottom + l, bottom + r]
      if (!(varies[a]! | varies[b]! | varies[c]! | varies[d]!)) continue
      const u = wide.part[x]!
      const wa = (1 - u) * (1 - v)
      const wb = u * (1 - v)
      const wc = (1 - u) * v
      const wd = u * v
      const near = (v < 0.5 ? top : bottom) + (u < 0.5 ? l : r)
      const value = luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
      const lumas = sites[0]
      const finer = value - (lumas[a]! * wa + lumas[b]! * wb + lumas[c]! * wc + lumas[d]! * wd)
      const toBlue = (blue.slope[a]! * wa + blue.slope[b]! * wb + blue.slope[c]! * wc + blue.slope[d]! * wd) * finer
      const toRed = (red.slope[a]! * wa + red.slope[b]! * wb + red.slope[c]! * wc + red.slope[d]! * wd) * finer
      let cb = rgba[i + 2]! - value + toBlue
      let cr = rgba[i]! - value + toRed
      if (varies[near]) {
        cb = Math.max(blue.least[near]!, Math.min(blue.most[near]!, cb))
        cr = Math.max(red.least[near]!, Math.min(red.most[near]!, cr))
      }
      const green = value - (0.2126 * cr + 0.0722 * cb) / 0.7152
      rgba[i] = clamp01(value + cr)
      rgba[i + 1] = clamp01(green)
      rgba[i + 2] = clamp01(value + cb)
    }
  }
}
