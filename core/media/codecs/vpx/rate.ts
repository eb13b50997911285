/** Choosing VP9's quantiser: one for a quality, or frame by frame so that the film comes out at a size. */

export const COARSEST = 63

/** Quantiser of VP9 for a quality of 0 to 100: 63 is coarsest, 0 loses nothing; the usual 88 gives 5. */
export function quantiserOf(quality: number): number {
  return Math.round(COARSEST * (1 - quality / 100) ** 1.2)
}

/** A key frame is given as much as this many others. */
const KEY_WEIGHT = 6
/** Steps of the quantiser that halve the bytes of a frame, as seen on drawn content. */
const HALVING = 9
/** The most steps the quantiser moves from one frame to the next. */
const STRIDE = 8
/** Bytes of the container for the film and for each frame. */
const FILM_BYTES = 600
const FRAME_BYTES = 40

export interface RateControl {
  /** The quantiser for the next frame. */
  quantiser(key: boolean): number
  /** What the frame came to: its colour, and its alpha which is not steered. */
  spent(key: boolean, colour: number, alpha: number): void
}

/**
 * Steers a film of `frames` frames with a key frame `every` so many towards `total` bytes in one pass. The quantiser
 * never goes below
 * `finest`, which the quality asks for, so an easy film stays smaller than the budget.
 */
export function budgetFor(total: number, frames: number, every: number, pixels: number, finest: number): RateControl {
  let used = FILM_BYTES + FRAME_BYTES * frames
  let done = 0
  let quantiser: number | null = null
  const alphas = { key: 0, other: 0 }
  const weightFrom = (from: number): number => {
    const keys = Math.ceil(frames / every) - Math.ceil(from / every)
    return keys * KEY_WEIGHT + (frames - from - keys)
  }
  /** Bytes that the next frame's colour may take. */
  const due = (key: boolean): number => {
    const keysLeft = Math.ceil(frames / every) - Math.ceil(done / every)
    const alphaLeft = keysLeft * alphas.key + (frames - done - keysLeft) * alphas.other
    const left = Math.max(0, total - used - alphaLeft)
    return Math.max(1, (left * (key ? KEY_WEIGHT : 1)) / Math.max(1, weightFrom(done)))
  }
  const clamp = (q: number): number => Math.min(COARSEST, Math.max(finest, q))
  return {
    quantiser(key) {
      // before anything is known: about a bit for each pixel of a key frame at the finest
      quantiser ??= clamp(HALVING * Math.log2(pixels / 8 / due(key)))
      return Math.round(clamp(quantiser))
    },
    spent(key, colour, alpha) {
      const move = HALVING * Math.log2(Math.max(1, colour) / due(key))
      quantiser = clamp((quantiser ?? finest) + Math.min(STRIDE, Math.max(-STRIDE, key ? move / 2 : move / 3)))
      used += colour + alpha
      done++
      const kind = key ? 'key' : 'other'
      alphas[kind] = alphas[kind] === 0 ? alpha : alphas[kind] * 0.8 + alpha * 0.2
    }
  }
}
