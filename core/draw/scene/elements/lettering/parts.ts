/** Movements of lettering part by part: letters, words or lines one after the other, or gathering from all sides. */
import type { Letter } from './outlines'
import type { Move } from '../../values'

/**
 * How far one of `count` parts has come when the whole has come to `share`: one after the other, each overlapping the
 * next.
 */
export function partOf(share: number, n: number, count: number): number {
  if (count <= 1) return share
  const each = 1 / (1 + 0.35 * (count - 1))
  return Math.min(1, Math.max(0, (share - (n * (1 - each)) / (count - 1)) / each))
}

/** A number from 0 to 1 that a part's place decides, the same each time. */
function chance(n: number, salt: number): number {
  const x = Math.sin((n + 1) * 127.1 + salt * 311.7) * 43758.5453
  return x - Math.floor(x)
}

/** What each of these movements moves by itself. */
export const PARTS = { letters: 'letter', words: 'word', lines: 'line', scatter: 'letter' } as const

/** How a letter stands apart from its element during a movement of parts. */
export interface Apart {
  opacity: number
  x: number
  y: number
  turned: number
}

/** How a letter stands once the whole has come to `share`; `size` is that of the lettering. */
export function apartBy(
  move: Move,
  share: number,
  letter: Letter,
  counts: Record<'letter' | 'word' | 'line', number>,
  size: number
): Apart {
  const still = { opacity: 1, x: 0, y: 0, turned: 0 }
  const by = PARTS[move.kind as keyof typeof PARTS]
  if (!by) return still
  const own = partOf(share, letter[by], counts[by])
  const rest = 1 - own
  if (move.kind !== 'scatter') return { ...still, opacity: own, y: 0.35 * size * rest }
  const way = 2 * Math.PI * chance(letter.letter, 1)
  const far = size * (1.5 + 3 * chance(letter.letter, 2)) * rest
  return {
    opacity: own,
    x: far * Math.cos(way),
    y: far * Math.sin(way),
    turned: 360 * (chance(letter.letter, 3) - 0.5) * rest
  }
}
