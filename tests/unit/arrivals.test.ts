/** A watched folder: what counts as arrived, and what is told of it. */
import { expect, test } from 'vitest'
import { isArrival, isUnfinished, reportText, sayArrival } from '../../core/run/delivery/arrivals'

test('what was put aside, what was poured and what is hidden is no arrival', () => {
  const names = ['moth.mov', '.DS_Store', 'done', 'failed', 'poured', 'done.mov', 'plate 01']
  expect(names.filter(isArrival)).toEqual(['moth.mov', 'done.mov', 'plate 01'])
})

test('names of what programs still write are known', () => {
  const names = ['moth.mov', 'moth.mov.part', '0001.png.tmp', '~lock', 'part.mov', 'moth.mov~', '0002.partial.png']
  expect(names.filter(isUnfinished)).toEqual(['moth.mov.part', '0001.png.tmp', '~lock', 'moth.mov~'])
})

test('the report is JSON of a version, and its sentence counts and gives the first reason', () => {
  const report = { arrival: 'moth.mov', deliveries: [{ to: 'a' }], remarks: [], faults: [] }
  expect(JSON.parse(reportText(report))).toEqual({ pour: 'watch-report', version: 1, ...report })
  expect(sayArrival(report, true)).toBe('1 delivery, done.')
  expect(sayArrival({ ...report, deliveries: [], faults: ['no rate'] }, false)).toBe('0 deliveries, failed (no rate).')
})
