/** Colour under clear pixels: taken from the nearest visible edge, through a pyramid of ever smaller pictures. */
import { multiplied, type Picture } from './picture'

interface Level {
  width: number
  height: number
  /** Premultiplied colour and weight. */
  values: Float32Array
}

function halved({ width, height, values }: Level): Level {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
  const half = new Float32Array(w * h * 4)
  for (let y = 0, from = 0; y < height; y++) {
    const row = 4 * (y >> 1) * w
    for (let x = 0; x < width; x++, from += 4) {
      if (values[from + 3] === 0) continue
      const to = row + 4 * (x >> 1)
      half[to]! += values[from]! / 4
      half[to + 1]! += values[from + 1]! / 4
      half[to + 2]! += values[from + 2]! / 4
      half[to + 3]! += values[from + 3]! / 4
    }
  }
  return { width: w, height: h, values: half }
}

/** Clear pixels within `reach` pixels of visible ones take their colour; alpha stays. Beyond, and of an empty picture, they turn black. */
export function edgeFilled(picture: Picture, reach: number): Picture {
  const { width, height } = picture
  const first = multiplied(picture.rgba)
  const levels: Level[] = [{ width, height, values: first }]
  while (levels.length <= Math.ceil(Math.log2(Math.max(1, reach))) + 1 && levels.at(-1)!.width * levels.at(-1)!.height > 1) levels.push(halved(levels.at(-1)!))
  const rgba = picture.rgba.slice()
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = 4 * (y * width + x)
      if (rgba[i + 3]! > 0) continue
      let found = false
      for (let n = 1; n < levels.length && !found; n++) {
        const level = levels[n]!
        const k = 4 * (Math.min(level.height - 1, y >> n) * level.width + Math.min(level.width - 1, x >> n))
        const weight = level.values[k + 3]!
        if (weight <= 0) continue
        rgba[i] = level.values[k]! / weight
        rgba[i + 1] = level.values[k + 1]! / weight
        rgba[i + 2] = level.values[k + 2]! / weight
        found = true
      }
      if (!found) rgba[i] = rgba[i + 1] = rgba[i + 2] = 0
    }
  }
  return { ...picture, rgba }
}
