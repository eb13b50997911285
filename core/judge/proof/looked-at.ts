/** Which frames of a delivery are asked what mode their pixels are in. */

/** So many, spread over the clip; more would not change the answer. */
const MOST = 12

/** Whether frame `index` of `count`, counted from 0, is one of them. */
export function isLookedAt(index: number, count: number): boolean {
  return index % Math.ceil(count / MOST) === 0
}
