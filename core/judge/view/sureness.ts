/** Where a step is unsure of its alpha: alpha as grey, the less sure the more it turns to copper. */
import type { Sureness } from '../../source/source'
import type { ViewPixels } from './pixels'

const UNSURE = [216, 139, 92] as const

/** How sure a key is of each pixel, as a picture: alpha in grey, what is unsure in colour. */
export function surenessPixels({ width, height, alpha, sure }: Sureness): ViewPixels {
  const pixels = new Uint8ClampedArray(4 * width * height)
  for (let p = 0, i = 0; p < alpha.length; p++, i += 4) {
    const grey = 235 * alpha[p]!
    const doubt = 1 - sure[p]!
    for (let c = 0; c < 3; c++) pixels[i + c] = grey + (UNSURE[c]! - grey) * doubt
    pixels[i + 3] = 255
  }
  return { width, height, pixels }
}
