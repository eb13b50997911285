/** Words of a lettering that are set otherwise than the rest, wherever they stand in it. */
import { z } from 'zod'
import { lacking, Paint } from '../../values'

/** Words that are set otherwise than the rest of their lettering. */
export const Accent = z.object({
  words: z.string().max(200),
  face: z.string().min(1).max(60),
  colour: Paint,
  /** Their size, as a share of the lettering's. */
  scale: lacking(z.number().min(0.1).max(4), 1)
})
export type Accent = z.infer<typeof Accent>

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
