import fc from 'fast-check'
import { formatById } from '../../core/open/registry'
import { takeIn } from '../../core/run/intake/intake'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, preparedFacts, type Step } from '../../core/prepare/preparation'
import type { SourceFacts } from '../../core/source/source'
import { bytesFile, noise, testHost, writeFilm } from './support'
import { expect, test } from 'vitest'
import { frameToTimecode, frameTyped, timecodeProblem, timecodeToFrame } from '../../core/base/timecode'
import type { Rate } from '../../core/base/rate'

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

test('a source goes on counting in what is made of it: from the first frame of its range, and not once frames are turned', async () => {
  const host = await testHost()
  const frames = Array.from({ length: 6 }, (_, n) => noise({ width: 8, height: 6, depth: 8, seed: n + 1 }))
  const film = await writeFilm('quicktime-animation', frames, { options: { timecode: '10:00:00:10' } })
  const { found } = await takeIn([bytesFile('slate.mov', film)], host)
  const { facts } = found[0]!
  expect(facts.timecode).toBe('10:00:00:10')
  const outlet = newOutlet('o', formatById('quicktime-png'), 'Out')
  const taken = (of: SourceFacts, more: Partial<typeof outlet> = {}): unknown =>
    planPour(of, { ...outlet, ...more }, null).deliverable.options.timecode
  expect(taken(facts)).toBe('10:00:00:10')
  expect(taken(facts, { range: { from: 4, to: 6 } })).toBe('10:00:01:01')
  expect(taken(facts, { options: { timecode: '01:00:00:00' } })).toBe('01:00:00:00')
  const step = (kind: string, settings: Step['settings']): Step => newStep(kind, stepKindById(kind), settings)
  expect(taken(preparedFacts(facts, [step('range', { from: 3, to: 5 })]))).toBe('10:00:01:00')
  expect(preparedFacts(facts, [step('reverse', {})]).timecode).toBe(null)
  expect(taken(preparedFacts(facts, [step('reverse', {})]))).toBe('')
})

test('frames are typed as numbers, ways and time codes, and come to the frame that is meant', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...rates),
      fc.integer({ min: 1, max: 5000 }),
      fc.integer({ min: 0, max: 90_000 }),
      fc.nat(),
      (rate, frames, first, seed) => {
        const index = seed % frames
        const drop = rate[1] === 1001 && rate[0] !== 24000
        const start = frameToTimecode(first, rate, drop)
        const clip = { frames, rate, start }
        expect(frameTyped(String(index + 1), 0, clip)).toBe(index)
        expect(frameTyped(` ${frameToTimecode(first + index, rate, drop)} `, 0, clip)).toBe(index)
        expect(frameTyped(`+${index}`, 0, clip)).toBe(index)
        expect(frameTyped(`-${index}`, index, clip)).toBe(0)
      }
    )
  )
  const clip = { frames: 100, rate: [25, 1] as Rate, start: null }
  expect(frameTyped('2:05', 0, clip)).toBe(55)
  expect(frameTyped('0:0:02:5', 0, clip)).toBe(55)
})

test('what is typed and is no frame of the clip is told why', () => {
  const clip = { frames: 100, rate: [25, 1] as Rate, start: '01:00:00:00' }
  expect(() => frameTyped('0', 5, clip)).toThrow('frames 1 to 100')
  expect(() => frameTyped('101', 5, clip)).toThrow('frames 1 to 100')
  expect(() => frameTyped('+95', 5, clip)).toThrow('frames 1 to 100')
  expect(() => frameTyped('00:00:01:00', 5, clip)).toThrow('goes from 01:00:00:00 to 01:00:03:24')
  expect(() => frameTyped('01:00:01:30', 5, clip)).toThrow('frame 30')
  expect(() => frameTyped('noon', 5, clip)).toThrow('Type a frame')
  expect(() => frameTyped('00:01', 5, { ...clip, rate: null, start: null })).toThrow('Without a rate')
})
