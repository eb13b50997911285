import fc from 'fast-check'
import { expect, test } from 'vitest'
import { frameToTimecode, timecodeProblem, timecodeToFrame } from '../../core/timecode'
import type { Rate } from '../../core/rate'

const rates: Rate[] = [
  [12, 1],
  [24000, 1001],
  [24, 1],
  [25, 1],
  [30000, 1001],
  [30, 1],
  [50, 1],
  [60000, 1001]
]

test('every frame of a day has one time code, and it counts back to the frame', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...rates),
      fc.integer({ min: 0, max: 24 * 3600 * 60 - 1 }),
      fc.boolean(),
      ([n, d], number, drop) => {
        const rate: Rate = [n, d]
        const canDrop = drop && d === 1001 && n !== 24000
        const day = Math.floor((24 * 3600 * n) / d)
        const frame = number % day
        const text = frameToTimecode(frame, rate, drop)
        expect(text.includes(';')).toBe(canDrop)
        expect(timecodeProblem(text, rate)).toBeNull()
        expect(timecodeToFrame(text, rate)).toBe(frame)
      }
    ),
    { numRuns: 2000 }
  )
})

test('drop-frame stays with the clock: an hour at 30000/1001 is 107892 frames', () => {
  expect(timecodeToFrame('01:00:00;00', [30000, 1001])).toBe(107892)
  expect(timecodeToFrame('01:00:00;00', [60000, 1001])).toBe(215784)
  expect(timecodeToFrame('01:00:00:00', [30000, 1001])).toBe(108000)
  expect(frameToTimecode(1799, [30000, 1001], true)).toBe('00:00:59;29')
  expect(frameToTimecode(1800, [30000, 1001], true)).toBe('00:01:00;02')
  expect(frameToTimecode(17982, [30000, 1001], true)).toBe('00:10:00;00')
})

test.each([
  ['1:00:00:00', [25, 1], /written/],
  ['01:00:00:25', [25, 1], /frame 25 of a second that has 25/],
  ['24:00:00:00', [25, 1], /24 hours/],
  ['01:00:00;00', [25, 1], /Drop-frame/],
  ['00:01:00;01', [30000, 1001], /the next is 00:01:00;02/],
  ['00:00:00:00', [120, 1], /up to 100/]
] as [string, Rate, RegExp][])('%s at %j is refused with its reason', (text, rate, reason) => {
  expect(timecodeProblem(text, rate)).toMatch(reason)
})

test.each([
  ['00:10:00;00', [30000, 1001]],
  ['00:01:00;04', [60000, 1001]],
  ['23:59:59:11', [12, 1]]
] as [string, Rate][])('%s at %j is good', (text, rate) => {
  expect(timecodeProblem(text, rate)).toBeNull()
})
