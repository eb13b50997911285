/**
 * The seam of a loop: whether the last frame leads into the first as each leads into the next, told from distances
 * between frames.
 */

export interface SeamStep {
  kind: 'repeats' | 'smooth' | 'jumps' | 'still'
  /** Step from the last frame to the first, and the usual step, in the unit of the distances. */
  step: number
  usual: number
  /** How many usual steps it is, and how many of the largest beside it. */
  times: number
  timesBeside: number
}

/** Below this share of the usual step is no motion: a lossy codec leaves as much of two equal frames. */
const AS_GOOD_AS_STILL = 0.12
/** Times the usual step, or the largest beside the seam, that still look like one. */
const SMOOTH = 1.6
/** Steps on either side that a seam is seen beside. */
const BESIDE = 2

/**
 * Judges the step over the seam by those between frames that follow each other, in their order; below `still` nothing
 * moves. What is lively far from the seam excuses no jump at it.
 */
export function seamOf(step: number, steps: readonly number[], still: number): SeamStep {
  const sorted = [...steps].sort((a, b) => a - b)
  const high = sorted[Math.floor(sorted.length * 0.9)] ?? 0
  const usual = sorted[Math.floor(sorted.length / 2)] ?? 0
  const beside = Math.max(0, ...steps.slice(0, BESIDE), ...steps.slice(-BESIDE))
  const told = {
    step,
    usual,
    times: step / Math.max(usual, still),
    timesBeside: step / Math.max(beside, still)
  }
  if (high < still) return { kind: step < still ? 'still' : 'jumps', ...told }
  if (step < still && usual < still) return { kind: 'smooth', ...told }
  if (step < Math.max(still, usual * AS_GOOD_AS_STILL)) return { kind: 'repeats', ...told }
  return { kind: told.times <= SMOOTH || told.timesBeside <= SMOOTH ? 'smooth' : 'jumps', ...told }
}

/** A number of times as it is told: fine where it is small. */
export const sayTimes = (times: number): string => String(times < 10 ? Math.round(times * 10) / 10 : Math.round(times))

/**
 * Frames to be held against each other, counted from 0: last and first, then at most `most` that follow each other,
 * spread over the clip.
 */
export function seamPairs(frames: number, most: number): [number, number][] {
  const count = Math.min(most, frames - 1)
  return [
    [frames - 1, 0],
    ...Array.from({ length: count }, (_, n): [number, number] => [
      Math.floor((n * (frames - 1)) / count),
      Math.floor((n * (frames - 1)) / count) + 1
    ])
  ]
}
