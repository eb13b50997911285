/** Findings once a source is prepared: offered until mended, then done, and never mended twice. */
import { expect, test } from 'vitest'
import { isMended, mendingStep, standingOf } from '../../core/judge/examine/standing'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, Step } from '../../core/prepare/preparation'
import { KEEP_CODES, type Finding } from '../../core/source/source'

const repeats: Finding = {
  id: 'first-frame-repeats',
  severity: 'warning',
  frames: [12],
  sentence: 'The last frame, 12, repeats frame 1.',
  mend: { id: 'step', label: 'Leave frame 12 out', kind: 'drop-last', settings: {} }
}
const haze: Finding = {
  id: 'faint-islands',
  severity: 'warning',
  frames: [],
  sentence: 'Faint patches.',
  mend: { id: 'step', label: 'Remove the haze', kind: 'alpha-haze', settings: { below: 4 } }
}
const gaps: Finding = {
  id: 'missing-frames',
  severity: 'warning',
  frames: [],
  sentence: 'Picture 3 is missing.',
  mend: { id: 'hold-gaps', label: 'Hold the picture before' }
}
const step = (kind: string, settings = {}, more: Partial<Step> = {}): Step =>
  Step.parse({ ...newStep(kind, stepKindById(kind), settings), ...more })
const states = (...args: Parameters<typeof standingOf>): Record<string, string> =>
  Object.fromEntries(standingOf(...args).map(({ finding, state }) => [finding.id, state]))

test('a finding is offered until its mend is in force, and is then done', () => {
  expect(states([repeats], null, { steps: [], holdGaps: false })).toEqual({ 'first-frame-repeats': 'stands' })
  const steps = [step('drop-last', {}, { mends: repeats.id })]
  expect(states([repeats], null, { steps, holdGaps: false })).toEqual({ 'first-frame-repeats': 'mended' })
  expect(mendingStep(repeats, steps)).toBe(steps[0])
  // turned off, it is offered again, and the step that is there is the one to turn on
  const off = [step('drop-last', {}, { mends: repeats.id, on: false })]
  expect(isMended(repeats, { steps: off, holdGaps: false })).toBe(false)
  expect(mendingStep(repeats, off)).toBe(off[0])
})

test('a step that mends a finding goes on doing so when its settings are changed; another like it, only with the same', () => {
  const moved = [step('alpha-haze', { below: 7 }, { mends: haze.id })]
  expect(isMended(haze, { steps: moved, holdGaps: false })).toBe(true)
  expect(isMended(haze, { steps: [step('alpha-haze', { below: 7 })], holdGaps: false })).toBe(false)
  expect(isMended(haze, { steps: [step('alpha-haze', { below: 4 })], holdGaps: false })).toBe(true)
})

test('gaps are mended by being held', () => {
  expect(states([gaps], null, { steps: [], holdGaps: true })).toEqual({ 'missing-frames': 'mended' })
  expect(states([gaps], [], { steps: [step('flip')], holdGaps: false })).toEqual({ 'missing-frames': 'stands' })
})

test('a missing rate is missed until one is given, however long it takes to look again', () => {
  const unrated: Finding = { ...gaps, id: 'no-rate', mend: { id: 'ask-rate', label: 'Give the rate' } }
  expect(states([unrated], null, { steps: [], holdGaps: false, rate: null })).toEqual({ 'no-rate': 'stands' })
  expect(states([unrated], null, { steps: [], holdGaps: false, rate: [25, 1] })).toEqual({ 'no-rate': 'mended' })
})

test('once the prepared clip is known, what it no longer shows is gone, and what it shows anew is told', () => {
  const anew: Finding = { ...haze, id: 'never-solid' }
  expect(states([haze, repeats], [repeats, anew], { steps: [step('alpha-levels')], holdGaps: false })).toEqual({
    'first-frame-repeats': 'stands',
    'never-solid': 'brought',
    'faint-islands': 'gone'
  })
})

test('of two ways the one that was taken is the one that is told, and changing over sets it anew', () => {
  const plate: Finding = {
    id: 'plate-sound',
    severity: 'warning',
    frames: [],
    sentence: 'Should its sound go along?',
    mend: { id: 'step', label: 'Leave its sound out', kind: 'sound', settings: { goes: 'out' } },
    orElse: { id: 'step', label: 'Let its sound go along', kind: 'sound', settings: { goes: 'along' } }
  }
  const told = (goes: string): string => {
    const steps = [step('sound', { goes }, { mends: plate.id })]
    const [first] = standingOf([plate], [], { steps, holdGaps: false })
    expect(first!.state).toBe('mended')
    return first!.finding.mend!.label
  }
  expect(told('out')).toBe('Leave its sound out')
  expect(told('along')).toBe('Let its sound go along')
  // keying does not answer the question
  expect(states([plate], [], { steps: [step('chroma-key')], holdGaps: false })).toEqual({ 'plate-sound': 'stands' })
})

test('colour that is wide is decided on once: brought to sRGB by a step, or its codes kept', () => {
  const wide: Finding = {
    id: 'wide-colour',
    severity: 'note',
    frames: [],
    sentence: 'Its colour is Display P3.',
    mend: { id: 'step', label: 'Bring it to sRGB', kind: 'bring-to-srgb', settings: { from: 'p3' } },
    orElse: KEEP_CODES
  }
  expect(states([wide], null, { steps: [], holdGaps: false })).toEqual({ 'wide-colour': 'stands' })
  expect(standingOf([wide], null, { steps: [], holdGaps: false, codesKept: true })).toEqual([
    { finding: { ...wide, mend: KEEP_CODES }, state: 'mended' }
  ])
  const steps = [step('bring-to-srgb', { from: 'p3' }, { mends: wide.id })]
  for (const codesKept of [false, true])
    expect(standingOf([wide], null, { steps, holdGaps: false, codesKept })).toEqual([
      { finding: wide, state: 'mended' }
    ])
  // where no step knows the colour, keeping its codes is all there is to decide
  const bare: Finding = { ...wide, mend: KEEP_CODES, orElse: undefined }
  expect(states([bare], null, { steps: [], holdGaps: false })).toEqual({ 'wide-colour': 'stands' })
  expect(states([bare], null, { steps: [], holdGaps: false, codesKept: true })).toEqual({ 'wide-colour': 'mended' })
})
