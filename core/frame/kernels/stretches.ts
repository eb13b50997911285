/** Cuts a frame into stretches of pixels that stay in the cache next to the processor while a kernel works on them. */

/** Pixels looked at together. */
const GRAIN = 256
/** The most pixels in one stretch. */
export const STRETCH = 2048

type Samples = Uint8Array | Uint16Array
type Stretch = readonly [first: number, end: number]

/** Words laid over each other, four a turn. */
function anyOf(words: Int32Array, first: number, end: number): number {
  let any = 0
  let i = first
  for (const last = end - 3; i < last; i += 4) any |= words[i]! | words[i + 1]! | words[i + 2]! | words[i + 3]!
  for (; i < end; i++) any |= words[i]!
  return any
}

/** Cuts `length` into grains, leaves out those that are not `used`, and joins neighbours up to `most`. */
function stretchesOf(
  length: number,
  grain: number,
  most: number,
  used: (first: number, end: number) => boolean
): Stretch[] {
  const result: [number, number][] = []
  let open: [number, number] | null = null
  for (let first = 0; first < length; first += grain) {
    const end = Math.min(length, first + grain)
    if (!used(first, end)) open = null
    else if (open && open[1] - open[0] <= most - grain) open[1] = end
    else result.push((open = [first, end]))
  }
  return result
}

/** 32-bit words of samples, or null where they do not begin or end on one. */
function wordsOf(samples: Samples | Float32Array): Int32Array | null {
  return samples.byteOffset % 4 === 0 && samples.byteLength % 4 === 0
    ? new Int32Array(samples.buffer, samples.byteOffset, samples.byteLength >>> 2)
    : null
}

/**
 * Stretches, in samples, that hold every sample other than zero, and few besides; none is longer than four times
 * STRETCH.
 */
export function usedStretches(samples: Samples | Float32Array): Stretch[] {
  const words = wordsOf(samples)
  const perWord = 4 / samples.BYTES_PER_ELEMENT
  return stretchesOf(
    samples.length,
    4 * GRAIN,
    4 * STRETCH,
    (first, end) => !words || anyOf(words, Math.floor(first / perWord), Math.ceil(end / perWord)) !== 0
  )
}
