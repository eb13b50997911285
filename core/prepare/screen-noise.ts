/** Noise of a screen, measured in the picture: how far its pixels stray from each other where nothing else is. */
import type { ScreenNoise, ScreenPlate } from '../frame/kernels/kernels'
import { chromaOf } from '../frame/kernels/pixel'
import { ACROSS } from '../frame/kernels/terms'
import { plateRows } from '../frame/kernels/plate'
import type { Values } from './values'

/** Chroma this near to the screen's is the screen. */
const NEAR = 0.35
/** Pixels that are held against each other lie so far apart: what a codec shares between neighbours is not noise. */
const APART = 4
/** Pairs that are looked at, about, and fewest that say anything. */
const PAIRS = 8000
const FEWEST = 200
/** Of the normal distribution, from the median of distances to the deviation; of a pair, from both to one. */
const DEVIATION = 1 / 0.6745 / Math.SQRT2

export const NO_NOISE: ScreenNoise = { away: 0, cross: 0, colour: 0 }

const median = (values: readonly number[]): number => Float32Array.from(values).sort()[values.length >> 1]!

/**
 * Deviations of what is screen of straight values: along the screen's chroma and across it as shares of its
 * strength, and of single channels. None where there is too little screen to tell.
 */
export function screenNoise({ width, height, samples, unit }: Values, plate: ScreenPlate): ScreenNoise {
  const every = Math.max(1, Math.round(Math.sqrt((width * height) / PAIRS)))
  const [away, cross] = [[] as number[], [] as number[]]
  const colour: [number[], number[], number[]] = [[], [], []]
  const row = new Float32Array(4 * width)
  const draw = plateRows(plate, width, height)
  const at = (x: number, p: number): [number, number] | null => {
    const [ku, kv] = chromaOf(row[4 * x]!, row[4 * x + 1]!, row[4 * x + 2]!)
    const strength = ku * ku + kv * kv
    if (strength < 1e-8) return null
    const [u, v] = chromaOf(samples[4 * p]! * unit, samples[4 * p + 1]! * unit, samples[4 * p + 2]! * unit)
    const [along, aside] = [(u * ku + v * kv) / strength, (u * kv - v * ku) / strength]
    return Math.abs(1 - along) < NEAR && Math.abs(aside) * ACROSS < NEAR ? [along, aside] : null
  }
  for (let y = every >> 1; y < height; y += every) {
    draw(y, row)
    for (let x = 0; x + APART < width; x += every) {
      const p = y * width + x
      const [one, other] = [at(x, p), at(x + APART, p + APART)]
      if (!one || !other) continue
      away.push(Math.abs(one[0] - other[0]))
      cross.push(Math.abs(one[1] - other[1]))
      for (const c of [0, 1, 2] as const)
        colour[c].push(Math.abs(samples[4 * p + c]! - samples[4 * (p + APART) + c]!) * unit)
    }
  }
  if (away.length < FEWEST) return NO_NOISE
  const [along, aside, ...channels] = [away, cross, ...colour].map(each => median(each) * DEVIATION) as [
    number,
    number,
    number,
    number,
    number
  ]
  return { away: along, cross: aside, colour: Math.max(...channels) }
}
