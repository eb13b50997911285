/** Sentences that hang on thresholds, each at, below and above its bound: what is said must follow from the figures. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { seamOf } from '../../core/frame/seam'
import { saySeam } from '../../core/judge/proof/seam'
import { MOVES } from '../../core/judge/proof/displacement'

const even = new Array<number>(20).fill(10)

describe('the seam of a loop', () => {
  test.each([
    ['a step like the others', 10, even, 'smooth', /closes: its seam moves 1 times as far as a usual/],
    ['at the bound', 16, even, 'smooth', /closes: its seam moves 1.6 times/],
    ['just above it', 16.1, even, 'jumps', /^Played in a loop, it jumps: its seam moves 1.6 times/],
    ['far above it', 734, even, 'jumps', /jumps: its seam moves 73 times/],
    ['no step where others move', 0, even, 'repeats', /repeats the first/],
    ['just below what a codec leaves', 1.19, even, 'repeats', /repeats the first/],
    ['just above what a codec leaves', 1.21, even, 'smooth', /closes/],
    ['nothing moves', 0, even.map(() => 0), 'still', /Nothing moves/],
    [
      'nothing moves but over the seam',
      5,
      even.map(() => 0),
      'jumps',
      /jumps over its seam, where a usual frame does not/
    ],
    ['no more than begins to be seen', MOVES, even.map(() => 0), 'jumps', /jumps over its seam/],
    // lively in its middle, at rest where it begins and ends
    [
      'lively far from the seam',
      300,
      [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 300, 300, 300, 0, 0, 0, 0],
      'jumps',
      /jumps/
    ],
    [
      'lively at the seam',
      300,
      [300, 290, ...even, 280, 310],
      'smooth',
      /closes: its seam moves 1 times as far as the frames beside/
    ],
    ['at rest over the seam', 0, [...even.map(() => 0), 9, 9, 9, 0, 0], 'smooth', /nothing moves at its seam/]
  ] as const)('%s', (_, step, steps, kind, words) => {
    const seam = seamOf(step, steps, MOVES)
    expect(seam.kind).toBe(kind)
    expect(saySeam(seam, [25, 1])).toMatch(words)
  })

  test('never is a seam said to close that moves further than what is beside it and than the usual step', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1000, noNaN: true }), { minLength: 3, maxLength: 60 }),
        fc.double({ min: 0, max: 5000, noNaN: true }),
        (steps, step) => {
          const seam = seamOf(step, steps, MOVES)
          const words = saySeam(seam, null)
          const told = /moves ([\d.]+) times/.exec(words)?.[1]
          const figure = Number(told ?? (words.includes('it jumps') ? Infinity : 0))
          if (words.startsWith('The loop closes')) expect(figure).toBeLessThanOrEqual(1.6)
          if (words.includes('it jumps')) expect(figure).toBeGreaterThanOrEqual(1.6)
          expect(words.includes('closes') && words.includes('jumps')).toBe(false)
        }
      )
    )
  })
})
