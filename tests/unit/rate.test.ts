import fc from 'fast-check'
import { expect, test } from 'vitest'
import { rateInName, rateInNote, withoutRate } from '../../core/run/intake/rate-hints'
import { formatRate, parseRate, rateFraction, sameRate, secondsOf } from '../../core/base/rate'

test.each([
  ['25', [25, 1]],
  ['24000/1001', [24000, 1001]],
  ['30000:1001', [30000, 1001]],
  ['23.976', [24000, 1001]],
  ['23,98', [24000, 1001]],
  ['29.97', [30000, 1001]],
  ['59.94', [60000, 1001]],
  ['12.5', [25, 2]],
  ['50/2', [25, 1]],
  ['0', null],
  ['5/0', null],
  ['-3', null],
  ['fast', null],
  ['', null]
])('"%s" is read as a rate', (text, rate) => expect(parseRate(text)).toEqual(rate))

test('every fraction written out is read back as the same rate', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.integer({ min: 1, max: 1e6 }),
      (n, d) => void expect(sameRate(parseRate(`${n}/${d}`), [n, d])).toBe(true)
    )
  )
})

test('rates are said as the trade calls them', () => {
  expect(formatRate([24000, 1001])).toBe('23.976')
  expect(rateFraction([24000, 1001])).toBe('24000/1001')
  expect(rateFraction([25, 1])).toBe('25')
  expect(secondsOf(48, [24, 1])).toBe(2)
})

test.each([
  ['moth_12fps_0001.png', [12, 1]],
  ['strap 23.976 f/s 01.png', [24000, 1001]],
  ['title-25p', [25, 1]],
  ['wall_1080p_0001.png', null],
  ['2024_01_fps.png', null]
])('the name "%s" says its rate, or does not', (name, rate) => expect(rateInName(name)).toEqual(rate))

test('a name is called without its rate', () => {
  expect(withoutRate('name strap_24fps')).toBe('name strap')
  expect(withoutRate('moth')).toBe('moth')
  expect(withoutRate('12fps')).toBe('12fps')
})

test.each([
  ['Rate: 24000/1001', [24000, 1001]],
  ['It plays at 12 frames per second, for ever.', [12, 1]],
  ['frame rate = 25', [25, 1]],
  ['{"rate":[30000,1001]}', [30000, 1001]],
  ['{"rate":"23.976"}', [24000, 1001]],
  ['{"rate":', null],
  ['Nothing of the kind, only 12 pots.', null]
])('a note that says %s', (text, rate) => expect(rateInNote(text)).toEqual(rate))
