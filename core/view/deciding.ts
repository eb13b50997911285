/** The pixels that decided the mode: each partial pixel that was paired, coloured by how it votes, over a dim picture of the alpha. */
import { codesToHex } from '../colour'
import { withDepth } from '../frame/depth'
import type { Frame } from '../frame/frame'
import type { Kernels } from '../kernels/kernels'
import { collectPairs } from '../examine/pairs'
import type { ViewPixels } from './pixels'

/** Copper votes straight, verdigris premultiplied; pairs that both readings explain are pale. */
export const VOTE_COLOURS = {
  straight: [216, 139, 92],
  premultiplied: [88, 179, 162],
  neither: [150, 150, 150]
} as const

/** The one colour of a frame's clear pixels, within two 8-bit codes; null if there is none, or several. */
function clearColourOf(samples: Uint16Array, kernels: Kernels): string | null {
  const { firstClear, spread } = kernels.look(samples)
  return firstClear >= 0 && spread <= 2 * 257
    ? codesToHex([
        samples[4 * firstClear]! / 257,
        samples[4 * firstClear + 1]! / 257,
        samples[4 * firstClear + 2]! / 257
      ])
    : null
}

/** Of the stored samples, whatever they were taken for. Each pixel is drawn with its neighbours, so that it can be seen when it is drawn small. */
export function decidingPixels(stored: Frame, kernels: Kernels): ViewPixels {
  const { width, height } = stored
  const frame = withDepth(stored, 16, kernels)
  const samples = frame.samples as Uint16Array
  const pixels = new Uint8ClampedArray(4 * width * height)
  for (let i = 0; i < pixels.length; i += 4) {
    pixels.fill(stored.alpha.mode === 'none' ? 70 : (samples[i + 3]! / 65535) * 70, i, i + 3)
    pixels[i + 3] = 255
  }
  collectPairs(frame, clearColourOf(samples, kernels), (pixel, vote) => {
    const [x, y] = [pixel % width, Math.floor(pixel / width)]
    for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++)
        pixels.set(VOTE_COLOURS[vote], 4 * (v * width + u))
  })
  return { width, height, pixels }
}
