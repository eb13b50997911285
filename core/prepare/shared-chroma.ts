/**
 * Finds in the picture how a film shares chroma between pixels (4:2:2, 4:2:0) and how it was drawn up again, so that
 * luma can lead it back to edges; see `Kernels.ledByLuma`.
 */
import type { SharedChroma, Siting } from '../frame/kernels/kernels'
import { luma } from '../frame/kernels/pixel'
import type { Values } from './values'

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

/** Whether pixels share chroma with their neighbours, across or down. */
export const isShared = ({ across, down }: SharedChroma): boolean => across !== 'own' || down !== 'own'
