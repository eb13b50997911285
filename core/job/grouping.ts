/** Rows under headings: in what order groups come, and what is folded away. */

export interface Grouped<T> {
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
): Grouped<T>[] {
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
