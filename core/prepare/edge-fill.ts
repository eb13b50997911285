/** Colour under clear pixels: taken from the nearest visible edge, through a pyramid of ever smaller pictures. */
import type { Picture } from './picture'

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

/** Places where nothing is visible take the colour of the level above; black where that has none either, and without one. */
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

/** Clear pixels within `reach` pixels of visible ones take their colour; alpha stays. Beyond, and of an empty picture, they turn black. */
export function edgeFilled(picture: Picture, reach: number): Picture {
  const levels: Level[] = [{ width: picture.width, height: picture.height, values: picture.rgba }]
  while (levels.length <= Math.ceil(Math.log2(Math.max(1, reach))) + 1 && levels.at(-1)!.width * levels.at(-1)!.height > 1) levels.push(halved(levels.at(-1)!))
  for (let n = levels.length - 1; n >= 0; n--) filledFrom(levels[n]!, levels[n + 1] ?? null)
  return picture
}
