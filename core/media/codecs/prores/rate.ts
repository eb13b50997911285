/**
 * How finely each slice is quantised, so that a frame of full-frame content comes to the profile's usual size and a
 * simple one to less.
 */
import type { ChooseQuantisers } from '../../../frame/kernels/kernels'

/** Finest and coarsest quantisation index of RDD 36. */
const COARSEST = 224

/**
 * Slices that stand for all while an index is sought: every eighth, and all of a picture so small that a few would tell
 * nothing.
 */
const STRIDE = 8
const FEW = 64

/** Share of the slices that are coarser than the sample asks for, in case it is off. */
const SPARE = 0.05

/** The place of slice `n` in an even spread over 0..1: the golden ratio keeps neighbours apart. */
const spread = (n: number): number => (n * 0.6180339887498949) % 1

/**
 * A choice that spends about `budget` bytes of colour on a frame, rather less than more, and never quantises finer than
 * `finest`. Cost falls with the index, so the two neighbouring indices between which the budget lies are found, and as
 * many slices take the coarser as it needs.
 */
export function withinBudget(budget: number, finest: number): ChooseQuantisers {
  return (slices, cost) => {
    const stride = slices <= FEW ? 1 : STRIDE
    const sampled = (index: number): number => {
      let sum = 0
      let count = 0
      for (let n = 0; n < slices; n += stride) {
        sum += cost(n, index)
        count++
      }
      return (sum / count) * slices
    }
    const whole = (index: number): number => {
      let sum = 0
      for (let n = 0; n < slices; n++) sum += cost(n, index)
      return sum
    }
    const all = (index: number): Uint8Array => new Uint8Array(slices).fill(index)
    // well within the budget, as most animation is: nothing needs to be weighed
    if (sampled(finest) < budget * 0.8) return all(finest)
    let low = finest
    let high = COARSEST
    while (low < high) {
      const middle = (low + high) >> 1
      if (sampled(middle) <= budget) high = middle
      else low = middle + 1
    }
    // the sample may have missed by a step or two
    let coarse = low
    let coarseCost = whole(coarse)
    while (coarseCost > budget && coarse < COARSEST) coarseCost = whole(++coarse)
    // what a finer step costs more is told from the sample: all of the slices were weighed once, to know that they fit
    const finer = (index: number, cost: number): number => (cost * sampled(index - 1)) / Math.max(1, sampled(index))
    let fineCost = coarse > finest ? finer(coarse, coarseCost) : coarseCost
    while (coarse > finest && fineCost <= budget) {
      coarse--
      coarseCost = fineCost
      fineCost = coarse > finest ? finer(coarse, coarseCost) : coarseCost
    }
    if (coarse === finest) return all(finest)
    const share = Math.min(1, SPARE + (fineCost - budget) / Math.max(1, fineCost - coarseCost))
    return Uint8Array.from({ length: slices }, (_, n) => (spread(n) < share ? coarse : coarse - 1))
  }
}
