/** Small pictures for filmstrips: area averages, taken on premultiplied values so that no rim appears. */
import type { ViewPixels } from './pixels'

/** Reduces straight 8-bit pixels so that the longer side is at most `side`; smaller pictures come back as they are. */
export function thumbnail(picture: ViewPixels, side: number): ViewPixels {
  const scale = Math.max(picture.width, picture.height) / side
  if (scale <= 1) return picture
  const width = Math.max(1, Math.round(picture.width / scale))
  const height = Math.max(1, Math.round(picture.height / scale))
  const pixels = new Uint8ClampedArray(width * height * 4)
  for (let y = 0; y < height; y++) {
    const top = Math.floor((y * picture.height) / height)
    const bottom = Math.max(top + 1, Math.floor(((y + 1) * picture.height) / height))
    for (let x = 0; x < width; x++) {
      const left = Math.floor((x * picture.width) / width)
      const right = Math.max(left + 1, Math.floor(((x + 1) * picture.width) / width))
      let [r, g, b, a] = [0, 0, 0, 0]
      for (let v = top; v < bottom; v++) {
        for (let u = left; u < right; u++) {
          const i = 4 * (v * picture.width + u)
          const alpha = picture.pixels[i + 3]!
          r += picture.pixels[i]! * alpha
          g += picture.pixels[i + 1]! * alpha
          b += picture.pixels[i + 2]! * alpha
          a += alpha
        }
      }
      const to = 4 * (y * width + x)
      if (a > 0) {
        pixels[to] = r / a
        pixels[to + 1] = g / a
        pixels[to + 2] = b / a
      }
      pixels[to + 3] = a / ((bottom - top) * (right - left))
    }
  }
  return { width, height, pixels }
}
