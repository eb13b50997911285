/** A watched folder: what counts as arrived, and what is told of it. */
import { expect, test } from 'vitest'
import { arrived, isArrival, reportText, sayArrival } from '../../core/delivery/arrivals'

test('what was put aside, what was poured and what is hidden is no arrival', () => {
  const names = ['moth.mov', '.DS_Store', 'done', 'failed', 'poured', 'done.mov', 'plate 01']
  expect(names.filter(isArrival)).toEqual(['moth.mov', 'done.mov', 'plate 01'])
})

test('what still grows, or has only just come, has not arrived', () => {
  const before = new Map([
    ['grows', '5 1'],
    ['stands', '9 1'],
    ['gone', '3 1']
  ])
  const now = new Map([
    ['grows', '6 2'],
    ['stands', '9 1'],
    ['new', '1 1']
  ])
  expect(arrived(before, now)).toEqual(['stands'])
  expect(arrived(new Map(), now)).toEqual([])
})

test('the report is JSON of a version, and its sentence counts and gives the first reason', () => {
  const report = { arrival: 'moth.mov', deliveries: [{ to: 'a' }], remarks: [], faults: [] }
  expect(JSON.parse(reportText(report))).toEqual({ pour: 'watch-report', version: 1, ...report })
  expect(sayArrival(report, true)).toBe('1 delivery, done.')
  expect(sayArrival({ ...report, deliveries: [], faults: ['no rate'] }, false)).toBe('0 deliveries, failed (no rate).')
})
