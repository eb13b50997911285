/** How long a round takes yet is what its rest is worth at the speed it had. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { sayAbout } from '../../app/composables/say'
import { workDone, workloadOf, secondsToEnd, wholeWork } from '../../core/run/delivery/remaining'

const clip = { frames: 24, width: 100, height: 50 }

test('a cell is poured and then proven, which takes a tenth where frames were read back', () => {
  const [plain, readBack] = [workloadOf(clip, false), workloadOf(clip, true)]
  expect(wholeWork(plain)).toBe(2 * 24 * 5000)
  expect(wholeWork(readBack)).toBeCloseTo(1.1 * 24 * 5000)
  for (const each of [plain, readBack]) {
    expect(workDone(each, 'pouring', 0)).toBe(0)
    expect(workDone(each, 'pouring', 1)).toBe(workDone(each, 'proving', 0))
    expect(workDone(each, 'proving', 1)).toBeCloseTo(wholeWork(each))
  }
})

test('a round of cells of any size that goes at one speed ends when it was said', () => {
  const cells = fc.array(fc.tuple(fc.integer({ min: 1, max: 500 }), fc.boolean()), { minLength: 1, maxLength: 20 })
  fc.assert(
    fc.property(
      cells,
      fc.double({ min: 0.02, max: 1, noNaN: true }),
      fc.integer({ min: 2, max: 900 }),
      (of, at, takes) => {
        const effort = of
          .map(([frames, readBack]) => wholeWork(workloadOf({ ...clip, frames }, readBack)))
          .reduce((sum, each) => sum + each, 0)
        const seconds = Math.max(1, takes * at)
        const left = secondsToEnd({ effort, done: (effort * seconds) / takes, before: 0, seconds })
        expect(left).toBeCloseTo(Math.max(0, takes - seconds), 6)
      }
    )
  )
})

test('nothing is said at once, nor before anything is done; a pause does not count', () => {
  expect(secondsToEnd({ effort: 100, done: 50, before: 0, seconds: 0.5 })).toBeNull()
  expect(secondsToEnd({ effort: 100, done: 40, before: 40, seconds: 9 })).toBeNull()
  // half was done before the pause, a quarter in the ten seconds after it
  expect(secondsToEnd({ effort: 100, done: 75, before: 50, seconds: 10 })).toBe(10)
})

test('what is judged is said no finer than it can be', () => {
  expect([0, 4.2, 12, 58, 61, 100, 722, 5000, 9000].map(sayAbout)).toEqual([
    '1 s',
    '5 s',
    'about 10 s',
    'about 1 min',
    'about 1 min',
    'about 1.5 min',
    'about 12 min',
    'about 83 min',
    'about 2.5 h'
  ])
})
