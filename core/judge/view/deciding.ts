/**
 * The pixels that decided the mode: each partial pixel that could be asked, coloured by how its neighbours make it
 * vote, over a dim picture of the alpha.
 */
import { withDepth } from '../../frame/depth'
import type { Frame } from '../../frame/frame'
import type { Kernels } from '../../frame/kernels/kernels'
import type { ViewPixels } from './pixels'

/** What the kernel's marks mean. */
const MARKED = ['neither', 'straight', 'premultiplied', 'neither'] as const

/** Copper votes straight, verdigris premultiplied; those that both readings explain, or neither, are pale. */
export const VOTE_COLOURS = {
  straight: [216, 139, 92],
  premultiplied: [88, 179, 162],
  neither: [150, 150, 150]
} as const

/**
 * Of the stored samples, whatever they were taken for. Each pixel is drawn with its neighbours, so that it can be seen
 * when it is drawn small.
 */
export function decidingPixels(stored: Frame, kernels: Kernels): ViewPixels {
  const { width, height } = stored
  const frame = withDepth(stored, 16, kernels)
  const samples = frame.samples as Uint16Array
  const pixels = new Uint8ClampedArray(4 * width * height)
  for (let i = 0; i < pixels.length; i += 4) {
    pixels.fill(stored.alpha.mode === 'none' ? 70 : (samples[i + 3]! / 65535) * 70, i, i + 3)
    pixels[i + 3] = 255
  }
  const marks = new Uint8Array(width * height)
  if (stored.alpha.mode !== 'none') kernels.triples(samples, width, height, marks)
  for (const [pixel, mark] of marks.entries()) {
    if (mark === 0) continue
    const colour = VOTE_COLOURS[MARKED[mark]!]
    const [x, y] = [pixel % width, Math.floor(pixel / width)]
    for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) pixels.set(colour, 4 * (v * width + u))
  }
  return { width, height, pixels }
}
