/** Many sources at once: their names by rule, and their order. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { moved, MOST_NAME, NO_RENAMING, renamed } from '../../core/job/names'

test('names are replaced, led, followed and numbered, and never empty', () => {
  const names = ['comp_moth_v2', 'comp_strap_v2', 'comp']
  expect(renamed(names, NO_RENAMING)).toEqual(names)
  expect(renamed(names, { ...NO_RENAMING, find: 'comp_', before: 'Fern ', behind: ' final' })).toEqual([
    'Fern moth_v2 final',
    'Fern strap_v2 final',
    'Fern comp final'
  ])
  expect(renamed(names, { ...NO_RENAMING, number: 9 })).toEqual(['comp_moth_v2 09', 'comp_strap_v2 10', 'comp 11'])
  expect(renamed(names, { ...NO_RENAMING, find: 'comp' })).toEqual(['_moth_v2', '_strap_v2', 'comp'])
})

test('whatever the rule, names fit and are there', () => {
  const words = fc.string({ maxLength: 90 })
  fc.assert(
    fc.property(
      fc.array(fc.string({ minLength: 1, maxLength: 80 }).filter(name => name.trim() !== '')),
      fc.record({
        find: words,
        replace: words,
        before: words,
        behind: words,
        number: fc.option(fc.integer({ min: 0, max: 99_999 }), { nil: null })
      }),
      (names, rule) => {
        for (const name of renamed(names, rule)) {
          expect(name.length).toBeLessThanOrEqual(MOST_NAME)
          expect(name.trim()).not.toBe('')
        }
      }
    )
  )
})

test('what is picked moves by one place, keeps its order, and stops at the ends', () => {
  const order = ['a', 'b', 'c', 'd']
  expect(moved(order, new Set(['b', 'c']), -1)).toEqual(['b', 'c', 'a', 'd'])
  expect(moved(order, new Set(['b', 'c']), 1)).toEqual(['a', 'd', 'b', 'c'])
  expect(moved(order, new Set(['a', 'c']), -1)).toEqual(['a', 'c', 'b', 'd'])
  expect(moved(order, new Set(['d']), 1)).toEqual(order)
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.string({ maxLength: 3 })),
      fc.array(fc.nat(20)),
      fc.constantFrom(1 as const, -1 as const),
      (ids, at, by) => {
        const moving = new Set(at.flatMap(n => ids[n] ?? []))
        const next = moved(ids, moving, by)
        expect([...next].sort()).toEqual([...ids].sort())
        const kept = (list: string[]): string[] => list.filter(id => moving.has(id))
        expect(kept(next)).toEqual(kept(ids))
      }
    )
  )
})
