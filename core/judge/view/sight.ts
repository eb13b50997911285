/** Things one below the other, and which of them are in sight. */

/** Something drawn in a column, `height` high from `top` on. */
export interface Stacked {
  top: number
  height: number
}

/** Lays `items` one below the other, each as high as `heightOf` says. */
export function stacked<T>(items: readonly T[], heightOf: (item: T) => number): (T & Stacked)[] {
  let top = 0
  return items.map(item => {
    const height = heightOf(item)
    const result = { ...item, top, height }
    top += height
    return result
  })
}

/**
 * Of `items`, which lie one below the other, those that reach into the stretch from `from` to `to`: the first of them,
 * and the first behind. Takes steps by the logarithm of their number.
 */
export function withinSight(items: readonly Stacked[], from: number, to: number): { first: number; last: number } {
  const firstWhere = (is: (item: Stacked) => boolean): number => {
    let [low, high] = [0, items.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (is(items[middle]!)) high = middle
      else low = middle + 1
    }
    return low
  }
  return {
    first: firstWhere(item => item.top + item.height > from),
    last: firstWhere(item => item.top >= to)
  }
}

/**
 * The same stretch, lengthened at its end, or at its start where there is no more behind, to `least` of `count` things:
 * as many are drawn at the ends of a list as in its midst, so that scrolling builds nothing anew.
 */
export function lengthened(
  { first, last }: { first: number; last: number },
  least: number,
  count: number
): { first: number; last: number } {
  const end = Math.min(count, Math.max(last, first + least))
  return { first: Math.max(0, Math.min(first, end - least)), last: end }
}

/**
 * Things in an order that scrolling never changes: each at the place its number has of `places`. What comes into sight
 * then takes the place of what left it, and no other is moved. `things` are at most as many as there are places, with
 * numbers that follow each other.
 */
export function inPlaces<T extends { at: number }>(things: readonly T[], places: number): (T & { place: number })[] {
  return things.map(each => ({ ...each, place: each.at % places })).sort((a, b) => a.place - b.place)
}
