/** Colour under clear pixels: taken from the nearest visible edge, through a pyramid of ever smaller pictures. */
import type { Frame } from '../frame/frame'

/** Straight colour and weight of each place; weight is 0 where nothing is visible. */
interface Level {
  width: number
  height: number
  values: Float32Array
}

/** The level above: each place of it the mean of up to four, weighed by their alpha. */
function halved({ width, height, values }: Level): Level {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
  const half = new Float32Array(w * h * 4)
  for (let y = 0, from = 0; y < height; y++) {
    const row = 4 * (y >> 1) * w
    for (let x = 0; x < width; x++, from += 4) {
      const weight = values[from + 3]!
      if (weight === 0) continue
      const to = row + 4 * (x >> 1)
      half[to]! += values[from]! * weight
      half[to + 1]! += values[from + 1]! * weight
      half[to + 2]! += values[from + 2]! * weight
      half[to + 3]! += weight
    }
  }
  for (let i = 0; i < half.length; i += 4) {
    const weight = half[i + 3]!
    if (weight === 0) continue
    half[i]! /= weight
    half[i + 1]! /= weight
    half[i + 2]! /= weight
    half[i + 3]! = weight / 4
  }
  return { width: w, height: h, values: half }
}

/**
 * Places where nothing is visible take the colour of the level above; black where that has none either, and without
 * one.
 */
function filledFrom({ width, height, values }: Level, above: Level | null): void {
  for (let y = 0, i = 0; y < height; y++) {
    const row = above ? 4 * (y >> 1) * above.width : 0
    for (let x = 0; x < width; x++, i += 4) {
      if (values[i + 3] !== 0) continue
      const from = row + 4 * (x >> 1)
      values[i] = above ? above.values[from]! : 0
      values[i + 1] = above ? above.values[from + 1]! : 0
      values[i + 2] = above ? above.values[from + 2]! : 0
    }
  }
}

/**
 * The first level of a frame: code units, weights in codes of alpha. Written for codes, so that only what is visible is
 * computed on.
 */
function firstLevel({ width, height, samples }: Frame): Level {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
  const values = new Float32Array(w * h * 4)
  const line = 4 * width
  for (let y = 0, to = 0; y < h; y++) {
    for (let x = 0; x < w; x++, to += 4) {
      const at = 2 * y * line + 8 * x
      const [right, below] = [2 * x + 1 < width ? 4 : 0, 2 * y + 1 < height ? line : 0]
      const a = samples[at + 3]!
      const b = right ? samples[at + 7]! : 0
      const c = below ? samples[at + line + 3]! : 0
      const d = right && below ? samples[at + line + 7]! : 0
      const weight = a + b + c + d
      if (weight === 0) continue
      for (let k = 0; k < 3; k++) {
        values[to + k] =
          (samples[at + k]! * a +
            samples[at + right + k]! * b +
            samples[at + below + k]! * c +
            samples[at + right + below + k]! * d) /
          weight
      }
      values[to + 3] = weight / 4
    }
  }
  return { width: w, height: h, values }
}

/**
 * A straight frame whose clear pixels within `reach` pixels of visible ones take their colour; alpha stays, and so does
 * all that is visible. Beyond, and in an empty frame, clear pixels turn black.
 */
export function edgeFilled(frame: Frame, reach: number): Frame {
  const levels: Level[] = [firstLevel(frame)]
  while (levels.length <= Math.ceil(Math.log2(Math.max(1, reach))) && levels.at(-1)!.width * levels.at(-1)!.height > 1)
    levels.push(halved(levels.at(-1)!))
  for (let n = levels.length - 1; n >= 0; n--) filledFrom(levels[n]!, levels[n + 1] ?? null)
  const { width, height } = frame
  const samples = frame.samples.slice()
  const [{ values, width: half }] = levels as [Level]
  // codes are rounded by being cut off
  const round = frame.depth === 32 ? 0 : 0.5
  for (let y = 0, i = 0; y < height; y++) {
    const row = 4 * (y >> 1) * half
    for (let x = 0; x < width; x++, i += 4) {
      if (samples[i + 3] !== 0) continue
      const from = row + 4 * (x >> 1)
      samples[i] = values[from]! + round
      samples[i + 1] = values[from + 1]! + round
      samples[i + 2] = values[from + 2]! + round
    }
  }
  return { ...frame, samples }
}
