/**
 * Chroma that a film shares between pixels, led back to edges by luma, which every pixel has of its own: where both
 * vary together within a few samples, what luma does finer than they do, chroma does in proportion.
 */
import type { FrameSize, SharedChroma, Siting } from '../../core/frame/kernels/kernels'
import { clamp01, luma } from '../../core/frame/kernels/pixel'

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

/** RGBA of 0 to 1. */
type Straight = Float32Array | Float64Array

/** Luma and both chromas at each sample. */
type Sampled = readonly [Float32Array, Float32Array, Float32Array]

function sampled(rgba: Straight, { width, height }: FrameSize, across: Axis, down: Axis): Sampled {
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

/** Marks samples around which chroma varies in `varies`. The outermost samples go on at the rim. */
function led(lumas: Float32Array, chroma: Float32Array, columns: number, rows: number, varies: Uint8Array): Led {
  const plane = (): Float32Array => new Float32Array(columns * rows)
  const [slope, least, most] = [plane(), plane(), plane()]
  const held = (n: number, end: number): number => Math.max(0, Math.min(end - 1, n))
  for (let y = 0, o = 0; y < rows; y++) {
    const lines = [-1, 0, 1].map(d => held(y + d, rows) * columns)
    for (let x = 0; x < columns; x++, o++) {
      const places = lines.flatMap(line => [held(x - 1, columns), x, held(x + 1, columns)].map(column => line + column))
      const around = places.map(q => chroma[q]!)
      const [low, high] = [Math.min(...around), Math.max(...around)]
      least[o] = low
      most[o] = high
      if (high - low < EVEN) continue
      varies[o] = 1
      let [sy, syy, sc, syc, scc] = [0, 0, 0, 0, 0]
      for (const q of places) {
        const l = lumas[q]! - lumas[o]!
        const c = chroma[q]! - chroma[o]!
        sy += l
        syy += l * l
        sc += c
        syc += l * c
        scc += c * c
      }
      const vy = syy / 9 - (sy / 9) ** 2
      const vc = scc / 9 - (sc / 9) ** 2
      const cov = syc / 9 - (sy / 9) * (sc / 9)
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

/** In place. */
function lead(rgba: Straight, { width, height }: FrameSize, { across, down }: SharedChroma): void {
  const [wide, high] = [axisOf(width, across), axisOf(height, down)]
  const sites = sampled(rgba, { width, height }, wide, high)
  const varies = new Uint8Array(wide.samples * high.samples)
  const [blue, red] = [
    led(sites[0], sites[1], wide.samples, high.samples, varies),
    led(sites[0], sites[2], wide.samples, high.samples, varies)
  ]
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

/** See `Kernels.ledByLuma`. */
export function ledByLuma(
  samples: Uint8Array | Uint16Array | Float32Array,
  size: FrameSize,
  shared: SharedChroma
): Uint16Array | Float32Array {
  if (samples instanceof Float32Array) {
    lead(samples, size, shared)
    return samples
  }
  const full = samples instanceof Uint8Array ? 255 : 65535
  const rgba = Float64Array.from(samples, v => v / full)
  lead(rgba, size, shared)
  return Uint16Array.from(rgba, v => Math.floor(v * 65535 + 0.5))
}
