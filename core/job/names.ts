/** New names for several sources of a job at once. */

export interface Renaming {
  /** Words that are sought in each name, and what stands in their place. Empty where nothing is sought. */
  find: string
  replace: string
  before: string
  behind: string
  /** Numbers them in order from this one, behind all else; null for none. */
  number: number | null
}

export const NO_RENAMING: Renaming = { find: '', replace: '', before: '', behind: '', number: null }

/** Letters of a source's name. */
export const MOST_NAME = 80

/** The names in order as they would be. What would be empty stays as it is. */
export function renamed(names: readonly string[], { find, replace, before, behind, number }: Renaming): string[] {
  const digits = number === null ? 0 : Math.max(2, String(number + names.length - 1).length)
  return names.map((name, n) => {
    const inner = find === '' ? name : name.replaceAll(find, replace)
    const tail = number === null ? '' : ` ${String(number + n).padStart(digits, '0')}`
    const whole =
      `${before}${inner}${behind}`
        .trim()
        .slice(0, MOST_NAME - tail.length)
        .trim() + tail
    return whole.trim() === '' ? name : whole.trim()
  })
}

/**
 * Ids with those of `moved` one place further on (1) or back (-1), as far as there is room; their order among each
 * other stays.
 */
export function moved(order: readonly string[], moving: ReadonlySet<string>, by: 1 | -1): string[] {
  const next = [...order]
  const places = next.map((_, n) => (by < 0 ? n : next.length - 1 - n))
  for (const n of places) {
    const to = n + by
    if (!moving.has(next[n]!) || to < 0 || to >= next.length || moving.has(next[to]!)) continue
    ;[next[n], next[to]] = [next[to]!, next[n]!]
  }
  return next
}
