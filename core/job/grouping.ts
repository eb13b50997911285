/** Rows under headings: in what order groups come, and what is folded away. */

export interface Group<T> {
  heading: string
  members: T[]
}

/**
 * Sorts `rows` into groups by what `headingOf` says of each. Groups come in the order of `first`, then as they are met;
 * the rows of each in their own order.
 */
export function grouped<T>(
  rows: readonly T[],
  headingOf: (row: T) => string,
  first: readonly string[] = []
): Group<T>[] {
  const groups = new Map<string, T[]>()
  for (const row of rows) {
    const heading = headingOf(row)
    const members = groups.get(heading)
    if (members) members.push(row)
    else groups.set(heading, [row])
  }
  const rank = (heading: string): number => (first.includes(heading) ? first.indexOf(heading) : first.length)
  return [...groups]
    .map(([heading, members]) => ({ heading, members }))
    .sort((a, b) => rank(a.heading) - rank(b.heading))
}

/** Something drawn in a column, `height` high from `top` on. */
export interface Placed {
  top: number
  height: number
}

/** Lays `items` one below the other, each as high as `heightOf` says. */
export function placed<T>(items: readonly T[], heightOf: (item: T) => number): (T & Placed)[] {
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
export function withinSight(items: readonly Placed[], from: number, to: number): { first: number; last: number } {
  const firstWhere = (is: (item: Placed) => boolean): number => {
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
