/** Words of a lettering that are set otherwise than the rest, wherever they stand in it. */
import type { Accent } from './scene'

/**
 * For every character of a line, counted in code points, the place of the accent it belongs to, or -1. Of accents that
 * meet the first counts; capitals are told from small letters.
 */
export function accentsIn(line: readonly string[], accents: readonly Accent[]): Int8Array {
  const found = new Int8Array(line.length).fill(-1)
  for (const [n, { words }] of accents.entries()) {
    const sought = [...words]
    if (sought.length === 0) continue
    for (let from = 0; from + sought.length <= line.length; from++) {
      if (!sought.every((letter, i) => line[from + i] === letter && found[from + i] === -1)) continue
      found.fill(n, from, from + sought.length)
      from += sought.length - 1
    }
  }
  return found
}
