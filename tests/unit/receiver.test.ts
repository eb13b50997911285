/** What a receiver demands: what of it a pour would not meet, what makes it so, and files of demands. */
import fc from 'fast-check'
import { bytesOf, readTyped, secondsOfText, typedBytes, type TypedDemands } from '../../core/job/outlet/typed-demands'
import { describe, expect, test } from 'vitest'
import { assess } from '../../core/run/delivery/assess'
import { formatById } from '../../core/open/registry'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import type { PourPlan } from '../../core/job/outlet/plan'
import { emptyReceiver, readReceiver, unmet, writeReceiver, type Receiver } from '../../core/job/outlet/receiver'
import { strapFacts } from './support'

const facts = strapFacts()
const planOf = (outlet: Outlet): PourPlan => assess({ facts, outlet, marks: null }).plan()!
const outletOf = (format: Outlet['format'], more: Partial<Outlet> = {}): Outlet => ({
  ...newOutlet('o', formatById(format)),
  ...more
})
const asks = (more: Partial<Receiver>): Receiver => ({ ...emptyReceiver('Fernbrook screens'), ...more })

test('who asks for nothing is met by everything', () => {
  for (const format of ['gif', 'quicktime-prores-4444', 'png-sequence'] as const)
    expect(unmet(planOf(outletOf(format)), asks({}), 9e9)).toEqual([])
})

describe('each demand is told in a sentence with both figures, and its mend meets it', () => {
  const cases: [Partial<Receiver>, Outlet['format'], string, RegExp][] = [
    [{ size: { width: 1920, height: 1080 } }, 'quicktime-png', 'size', /1920x1080; this is 1280x720/],
    [{ rate: [30000, 1001] }, 'quicktime-png', 'rate', /29\.97 f\/s; this plays at 25/],
    [{ formats: ['quicktime-prores-4444', 'mxf-prores-4444'] }, 'gif', 'format', /ProRes 4444.*not GIF/],
    [{ alpha: 'premultiplied' }, 'quicktime-prores-4444', 'alpha', /premultiplied alpha; this is straight/],
    [{ alpha: 'none' }, 'tiff-sequence', 'alpha', /no alpha; this is straight/],
    [{ depth: 16 }, 'tiff-sequence', 'depth', /16 bits at least; this has 8/],
    [{ namesBegin: 'FG_' }, 'quicktime-png', 'name', /begin with “FG_”; this is called name_strap/]
  ]
  test.each(cases)('%j of %s', (demand, format, id, sentence) => {
    const outlet = outletOf(format, demand.depth ? { depth: 8 } : {})
    const [found, ...rest] = unmet(planOf(outlet), asks(demand), null)
    expect(rest).toEqual([])
    expect(found!.id).toBe(id)
    expect(found!.sentence).toMatch(sentence)
    expect(unmet(planOf(found!.mend!.outlet), asks(demand), null)).toEqual([])
    // mended twice it is the same: steps for a receiver do not heap up
    const [again] = unmet(planOf(outlet), asks(demand), null)
    expect(again!.mend!.outlet).toEqual(found!.mend!.outlet)
  })

  test('a size asked for after another takes the place of the step that was for the first', () => {
    const first = unmet(planOf(outletOf('gif')), asks({ size: { width: 640, height: 360 } }), null)[0]!.mend!.outlet
    const then = unmet(planOf(first), asks({ size: { width: 480, height: 270 } }), null)[0]!.mend!.outlet
    expect(then.steps).toHaveLength(1)
    expect(planOf(then).deliverable).toMatchObject({ width: 480, height: 270 })
  })
})

test('what no change of an outlet makes so is told without a mend', () => {
  const plan = planOf(outletOf('quicktime-png'))
  const found = unmet(plan, asks({ longestSeconds: 1.5, largestBytes: 1000, sound: 'needed' }), 1001)
  expect(found.map(({ id, mend }) => [id, mend])).toEqual([
    ['length', undefined],
    ['weight', undefined],
    ['sound', undefined]
  ])
  expect(found[0]!.sentence).toContain('1.5 s at most; this lasts 2 s')
  // a weight that nobody knows is not told of, and what is within bounds is met
  expect(unmet(plan, asks({ longestSeconds: 2, largestBytes: 1000 }), null)).toEqual([])
  expect(unmet(plan, asks({ largestBytes: 1000 }), 1000)).toEqual([])
})

test('demands come back from their file, and other files are refused in a sentence', () => {
  const given = asks({ size: { width: 1920, height: 1080 }, rate: [25, 1], formats: ['gif'], alpha: 'straight' })
  expect(readReceiver(writeReceiver(given))).toEqual(given)
  for (const text of ['', '{', '[]', '{"pour":"receiver","version":1}', writeReceiver(given).replace('1920', '0.5')])
    expect(() => readReceiver(text)).toThrow(/not the demands of a receiver/)
})

describe('demands as they are typed', () => {
  const typed = (more: Partial<TypedDemands>): TypedDemands => ({
    width: '',
    height: '',
    rate: '',
    seconds: '',
    bytes: '',
    ...more
  })

  test.each([
    ['5 MB', 5_000_000],
    ['5mb', 5_000_000],
    ['1.5 GB', 1_500_000_000],
    ['1,5 GB', 1_500_000_000],
    ['2 MiB', 2_097_152],
    ['250 000', 250_000],
    ['1,234,567', 1_234_567],
    ['500kB', 500_000],
    ['12', 12],
    ['5 MX', null],
    ['MB', null],
    ['-5 MB', null],
    ['1e9', null]
  ])('%s is %s bytes', (text, bytes) => expect(bytesOf(text)).toBe(bytes))

  test.each([
    ['2.5', 2.5],
    ['2,5 s', 2.5],
    ['1:30', 90],
    ['0:07.25', 7.25],
    ['10 seconds', 10],
    ['1:75', null],
    ['soon', null]
  ])('%s is %s seconds', (text, seconds) => expect(secondsOfText(text)).toBe(seconds))

  test('each field stands by itself; what is half there is said, not filled in', () => {
    expect(readTyped(typed({ width: '1920', height: '1080' }))).toMatchObject({ size: { width: 1920, height: 1080 } })
    expect(readTyped(typed({ width: '1920' }))).toBe('Give width and height, or neither.')
    expect(readTyped(typed({ width: '19.5', height: '1080' }))).toContain('whole pixels')
    expect(readTyped(typed({ seconds: '2.5' }))).toMatchObject({ longestSeconds: 2.5, size: null, largestBytes: null })
    expect(readTyped(typed({ bytes: '5 MB' }))).toMatchObject({ largestBytes: 5_000_000 })
    expect(readTyped(typed({ bytes: 'heavy' }))).toContain('5 MB')
    expect(readTyped(typed({ rate: 'fast' }))).toContain('23.976')
    expect(readTyped(typed({}))).toEqual({ size: null, rate: null, longestSeconds: null, largestBytes: null })
  })

  test('bytes come back as they can be typed, and mean the same', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 2 ** 50 }), bytes => {
        expect(bytesOf(typedBytes(bytes))).toBe(bytes)
      })
    )
    expect([typedBytes(5_000_000), typedBytes(1_500_000_000), typedBytes(999), typedBytes(null)]).toEqual([
      '5 MB',
      '1.5 GB',
      '999',
      ''
    ])
  })
})
