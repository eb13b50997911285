/** Rows under headings, and which of a long column are in sight. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { grouped } from '../../core/job/grouping'
import { inPlaces, lengthened, stacked, withinSight } from '../../core/judge/view/sight'

test('groups come in the order that is asked for, then as they are met; rows keep their order', () => {
  const rows = ['b2', 'a1', 'c1', 'b1', 'a2', 'd1']
  const groups = grouped(rows, row => row[0]!, ['a', 'x', 'c'])
  expect(groups).toEqual([
    { heading: 'a', members: ['a1', 'a2'] },
    { heading: 'c', members: ['c1'] },
    { heading: 'b', members: ['b2', 'b1'] },
    { heading: 'd', members: ['d1'] }
  ])
})

test('whatever the headings, no row is lost or told twice', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(9)), fc.array(fc.nat(9)), (rows, first) => {
      const groups = grouped(
        rows.map((n, at) => ({ n, at })),
        ({ n }) => `${n}`,
        first.map(String)
      )
      expect(groups.flatMap(({ members }) => members.map(({ at }) => at)).sort((a, b) => a - b)).toEqual([
        ...rows.keys()
      ])
      for (const { heading, members } of groups) for (const { n } of members) expect(`${n}`).toBe(heading)
    })
  )
})

test('what is in sight is what a look at each would find', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 50 })),
      fc.integer({ min: -50, max: 900 }),
      fc.nat(300),
      (heights, from, size) => {
        const items = stacked(
          heights.map(tall => ({ tall })),
          ({ tall }) => tall
        )
        const to = from + size
        const { first, last } = withinSight(items, from, to)
        const seen = items.slice(first, Math.max(first, last))
        const wanted = items.filter(({ top, height }) => top + height > from && top < to)
        expect(seen).toEqual(wanted)
      }
    )
  )
})

test('a stretch is as long wherever it lies, and holds what is in sight', () => {
  fc.assert(
    fc.property(fc.nat(60), fc.nat(60), fc.nat(60), fc.nat(40), (count, a, b, least) => {
      const seen = { first: Math.min(a, b, count), last: Math.min(Math.max(a, b), count) }
      const { first, last } = lengthened(seen, least, count)
      expect(first).toBeGreaterThanOrEqual(0)
      expect(last).toBeLessThanOrEqual(count)
      expect(first).toBeLessThanOrEqual(seen.first)
      expect(last).toBeGreaterThanOrEqual(seen.last)
      expect(last - first).toBe(Math.max(seen.last - seen.first, Math.min(least, count)))
    })
  )
})

test('rows that stay in sight keep their places while it is scrolled; what comes takes the place of what went', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 30 }), fc.nat(100), fc.nat(30), (places, from, by) => {
      const window = (first: number) => Array.from({ length: places }, (_, n) => ({ at: first + n }))
      const before = inPlaces(window(from), places)
      const after = inPlaces(window(from + by), places)
      expect(before.map(({ place }) => place)).toEqual([...Array(places).keys()])
      expect(after.map(({ place }) => place)).toEqual([...Array(places).keys()])
      const moved = after.filter(({ at }, n) => before[n]!.at !== at)
      expect(moved.length).toBe(Math.min(by, places))
    })
  )
})
