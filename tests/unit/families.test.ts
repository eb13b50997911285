/** "Add outlet": every format that is written stands in one group, and is found by its name, its use and its depth. */
import { expect, test } from 'vitest'
import { DESTINATIONS } from '../../core/job/outlet/destinations'
import { familiesWith } from '../../core/job/outlet/families'
import { guideTo, takes } from '../../core/job/outlet/guide'
import { formatById, writtenFormats } from '../../core/open/registry'

const idsOf = (search: string): string[] => familiesWith(search).flatMap(({ formats }) => formats.map(({ id }) => id))

test('without a search every written format stands there once', () => {
  expect(idsOf('').sort()).toEqual(writtenFormats.map(({ id }) => id).sort())
  expect(familiesWith('').length).toBeGreaterThan(3)
  expect(Math.max(...familiesWith('').map(({ formats }) => formats.length))).toBeLessThanOrEqual(9)
})

test('each is found by its own name, in any order of words and any case', () => {
  for (const format of writtenFormats) {
    expect(idsOf(format.name)).toContain(format.id)
    expect(idsOf(format.name.toUpperCase().split(' ').reverse().join('  '))).toContain(format.id)
  }
})

test('uses, kinds and depths are found as well; what is nowhere finds nothing', () => {
  expect(idsOf('sticker')).toContain('apng')
  expect(idsOf('archive lossless')).toContain('matroska-ffv1')
  expect(idsOf('archive lossless')).not.toContain('quicktime-prores-4444')
  expect(idsOf('sequence 32 bit')).toEqual(['tiff-sequence'])
  expect(idsOf('floppy')).toEqual([])
})

test('what receivers most commonly take comes first, is written, and is taken there', () => {
  for (const destination of DESTINATIONS) {
    const [first, ...rest] = guideTo(destination, 'usual').map(({ format }) => format.id)
    const taken = destination.usual.filter(id => takes(destination, formatById(id)))
    expect(destination.usual.length).toBeGreaterThan(0)
    expect(taken, destination.name).toContain(first)
    expect(first, destination.name).toBe(taken[0])
    expect([first, ...rest].slice(0, taken.length), destination.name).toEqual(taken)
  }
})
