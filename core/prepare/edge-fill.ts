/** Colour under clear pixels: taken from the nearest visible edge, through a pyramid of ever smaller pictures. */
import type { Picture } from './picture'

interface Level {
  width: number
  height: number
  /** Premultiplied colour and weight. */
  values: Float32Array
}

function halved({ width, height, values }: Level): Level {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)]
  const half = new Float32Array(w * h * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [from, to] = [4 * (y * width + x), 4 * ((y >> 1) * w + (x >> 1))]
      for (let c = 0; c < 4; c++) half[to + c]! += values[from + c]! / 4
    }
  }
  return { width: w, height: h, values: half }
}

/** Clear pixels within `reach` pixels of visible ones take their colour; alpha stays. Beyond, and of an empty picture, they turn black. */
export function edgeFilled(picture: Picture, reach: number): Picture {
  const { width, height } = picture
  const first = picture.rgba.slice()
  for (let i = 0; i < first.length; i += 4) for (let c = 0; c < 3; c++) first[i + c]! *= first[i + 3]!
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
        for (let c = 0; c < 3; c++) rgba[i + c] = level.values[k + c]! / weight
        found = true
      }
      if (!found) rgba.fill(0, i, i + 3)
    }
  }
  return { ...picture, rgba }
}
