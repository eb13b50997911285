/** Alpha out of the brightness of a key. */
import type { Samples } from './frame'

/** Luma weights of BT.709 in ten-thousandths; a key is grey, so they matter only where it is not. */
const [RED, GREEN, BLUE] = [2126, 7152, 722] as const

/** The colour of a fill, and as its alpha the luma of a key. */
export function keyed(fill: Samples, key: Samples): Samples {
  const samples = fill.slice()
  const float = key instanceof Float32Array
  for (let i = 0; i < samples.length; i += 4) {
    const [r, g, b] = [key[i]!, key[i + 1]!, key[i + 2]!]
    // a grey is kept as it is, whatever the weights would round it to
    samples[i + 3] =
      r === g && g === b
        ? g
        : float
          ? (RED * r + GREEN * g + BLUE * b) / 10000
          : Math.round((RED * r + GREEN * g + BLUE * b) / 10000)
  }
  return samples
}
