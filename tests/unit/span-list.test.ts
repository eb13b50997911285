/** Lists of spans, as somebody types or exports them. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { MOST_SPANS, readSpanList } from '../../core/job/span-list'

const clip = { frames: 100, rate: [25, 1] as [number, number], start: null }

test('names with two places are spans, with tabs, commas or semicolons between, in any order', () => {
  expect(readSpanList('open\t1\t24\nhover, 25, 48\n"rest";49;100\n# a remark\n\n10, 20, moth on leaf', clip)).toEqual({
    spans: [
      { name: 'open', from: 1, to: 24 },
      { name: 'hover', from: 25, to: 48 },
      { name: 'rest', from: 49, to: 100 },
      { name: 'moth on leaf', from: 10, to: 20 }
    ],
    problems: []
  })
})

test('markers reach to the next one, whatever their order; the last to the end', () => {
  expect(readSpanList('rest, 61\nopen, 1\nhover, 31', clip).spans).toEqual([
    { name: 'rest', from: 61, to: 100 },
    { name: 'open', from: 1, to: 30 },
    { name: 'hover', from: 31, to: 60 }
  ])
})

test('time code counts from where the film starts, drop-frame with it', () => {
  expect(readSpanList('hover, 10:00:01:00, 10:00:01:24', { ...clip, start: '10:00:00:00' }).spans).toEqual([
    { name: 'hover', from: 26, to: 50 }
  ])
  const ntsc = { frames: 4000, rate: [30000, 1001] as [number, number], start: '00:00:00;00' }
  expect(readSpanList('late\t00:01:00;02\t00:01:01;00', ntsc).spans).toEqual([{ name: 'late', from: 1801, to: 1829 }])
  expect(readSpanList('late;00:01:00;02;00:01:01;00', ntsc).spans).toEqual([{ name: 'late', from: 1801, to: 1829 }])
  expect(readSpanList('late;00:00:01:00;00:00:01:24', clip).spans).toEqual([{ name: 'late', from: 26, to: 50 }])
  expect(readSpanList('late\t00:01:00;00', ntsc).problems[0]).toMatch(/^Line 1: Drop-frame time code leaves/)
  expect(readSpanList('hover, 00:00:01:00', { ...clip, rate: null }).problems[0]).toContain(
    'give the source its rate first'
  )
})

test('cues of WebVTT are spans, named by their text or their identifier', () => {
  const text =
    'WEBVTT - chapters\n\nNOTE made up\n\nintro\n00:00.000 --> 00:01.000\n<b>open</b>\n\nsecond\n00:00:01.000 ' +
    '--> 00:00:02.480 align:start\n\n00:02.9 --> 3\nbroken\n'
  const { spans, problems } = readSpanList(text, clip)
  expect(spans).toEqual([
    { name: 'open', from: 1, to: 25 },
    { name: 'second', from: 26, to: 62 }
  ])
  expect(problems).toEqual(['Line 12: its times are not written 00:00:00.000 --> 00:00:00.000.'])
})

test('what cannot be a span is named with its line and the rest is kept', () => {
  const { spans, problems } = readSpanList('a, 1, 5\nb, 90, 130\nc, 9, 3\nd\ne, 1, 2, 3\na, 6, 7', clip)
  expect(spans).toEqual([
    { name: 'a', from: 1, to: 5 },
    { name: 'a 2', from: 6, to: 7 }
  ])
  expect(problems.map(problem => problem.slice(0, 7))).toEqual(['Line 4:', 'Line 5:', 'Line 2:', 'Line 3:'])
  expect(
    readSpanList(Array.from({ length: 300 }, (_, i) => `s, ${(i % 100) + 1}, 100`).join('\n'), clip).spans
  ).toHaveLength(MOST_SPANS)
})

test('any text gives spans within the clip or sentences, never an exception', () => {
  const piece = fc.oneof(
    fc.string(),
    fc.constantFrom(
      'WEBVTT\n',
      '00:00:01.000 --> 00:00:02.000\n',
      'hover, 3, 9\n',
      '\t',
      ';',
      '\n',
      '00:00:01:00',
      '99999999'
    )
  )
  fc.assert(
    fc.property(
      fc.array(piece).map(parts => parts.join('')),
      text => {
        const { spans, problems } = readSpanList(text, clip)
        expect(spans.length + problems.length).toBeGreaterThan(0)
        for (const { name, from, to } of spans)
          expect(name.length >= 1 && name.length <= 60 && from >= 1 && to >= from && to <= 100).toBe(true)
        expect(new Set(spans.map(s => s.name)).size).toBe(spans.length)
      }
    ),
    { numRuns: 500 }
  )
})

test.each([
  ['walk 1 12', 'walk', 1, 12],
  ['walk 1-12', 'walk', 1, 12],
  ['walk: 1 – 12', 'walk', 1, 12],
  ['walk 1..12', 'walk', 1, 12],
  ['take off 25 to 48', 'take off', 25, 48],
  ['hover, 1-48', 'hover', 1, 48],
  ['walk_2 5 9', 'walk_2', 5, 9],
  ['run\t13\t24', 'run', 13, 24],
  ['walk 00:00:00:00 00:00:01:00', 'walk', 1, 25]
])('"%s" is read as it is meant', (text, name, from, to) => {
  const clip = { frames: 100, rate: [24, 1] as [number, number], start: null }
  expect(readSpanList(text, clip)).toEqual({ spans: [{ name, from, to }], problems: [] })
})
