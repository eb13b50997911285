/** A job is held to its schema before it is kept, and opened whatever was kept. */
import fc from 'fast-check'
import { applyPatches, enablePatches, produceWithPatches } from 'immer'
import { expect, test } from 'vitest'
import { formatById } from '../../core/open/registry'
import { emptyJob, Job } from '../../core/job/job'
import { openJob } from '../../core/job/open-job'
import { refusalOf } from '../../core/job/refusal'
import { copyName } from '../../core/job/outlet/names'
import { newOutlet } from '../../core/job/outlet/outlet'
import { newStep } from '../../core/prepare/preparation'
import { stepKindById } from '../../core/prepare/kinds'
import { nearestRate, Rate } from '../../core/base/rate'
import { heldFacts } from '../../core/source/held-facts'
import { AS_FOUND, SourceFacts } from '../../core/source/source'

enablePatches()

const facts: SourceFacts = {
  name: 'vine',
  format: 'png-sequence',
  kind: 'PNG sequence',
  width: 64,
  height: 36,
  frames: 3,
  rate: null,
  rateFrom: 'unknown',
  bitDepth: 8,
  claim: { mode: 'straight', matte: null, says: 'PNG is straight by its standard' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 1,
  findings: []
}

function sample(): Job {
  const job = emptyJob('main', 'Glasshouse')
  const outlet = newOutlet('o', formatById('png-sequence'), 'Frames')
  job.outlets[outlet.id] = outlet
  job.outletOrder.push(outlet.id)
  job.sources.s = {
    id: 's',
    name: 'vine',
    facts,
    findings: [],
    interpretation: AS_FOUND,
    marks: null,
    steps: [newStep('a', stepKindById('range'), { from: 1, to: 2 }), newStep('b', stepKindById('reverse'))]
  }
  job.sourceOrder.push('s')
  return job
}

function refused(change: (draft: Job) => void): string | null {
  const [next, forward] = produceWithPatches(sample(), change)
  return refusalOf(next, forward)?.sentence ?? null
}

test('an edit that the job could not be opened with is refused, and says why of which field', () => {
  expect(refused(job => void (job.outlets.o!.digits = 2.5))).toBe('Digits: a whole number is needed.')
  expect(refused(job => void (job.outlets.o!.startNumber = 1.25))).toBe('First number: a whole number is needed.')
  expect(refused(job => void (job.outlets.o!.range = { from: 1.5, to: 2 }))).toBe(
    'First frame: a whole number is needed.'
  )
  expect(refused(job => void (job.outlets.o!.namePattern = 'a'.repeat(201)))).toBe(
    'File name: it can have 200 letters at most.'
  )
  expect(refused(job => void (job.outlets.o!.name = 'a'.repeat(81)))).toBe('Name: it can have 80 letters at most.')
  expect(refused(job => void (job.outlets.o!.digits = 0))).toBe('Digits: 1 is the least it can be.')
  expect(refused(job => void (job.sources.s!.facts.pixelAspect = [NaN, 1]))).toMatch(/^Pixel shape/)
  expect(refused(job => void (job.sources.s!.interpretation.rate = [2 ** 33, 7]))).toMatch(
    /^Rate: 4294967295 is the most/
  )
  expect(refused(job => void (job.sources.s!.steps[0]!.settings.from = 0))).toBe(
    'Range: From frame: 1 is the least it can be.'
  )
})

test('what fits is not refused, nor what an edit removes', () => {
  expect(refused(job => void (job.outlets.o!.digits = 9))).toBeNull()
  expect(refused(job => void delete job.outlets.o)).toBeNull()
  expect(refused(job => void (job.outletOrder = []))).toBeNull()
  expect(refused(job => void (job.name = 'Other'))).toBeNull()
})

test('whatever the edit, a job that was not refused opens exactly', () => {
  const value = fc.oneof(fc.double(), fc.string({ maxLength: 300 }), fc.constant(null), fc.integer(), fc.boolean())
  const place = fc.constantFrom<(string | number)[]>(
    ['outlets', 'o', 'digits'],
    ['outlets', 'o', 'name'],
    ['outlets', 'o', 'framePattern'],
    ['outlets', 'o', 'range', 'from'],
    ['outlets', 'o', 'alpha', 'mode'],
    ['sources', 's', 'marks'],
    ['sources', 's', 'facts', 'pixelAspect', 0],
    ['sources', 's', 'steps', 0, 'settings', 'to'],
    ['name']
  )
  fc.assert(
    fc.property(place, value, (path, given) => {
      const before = sample()
      before.outlets.o!.range = { from: 1, to: 2 }
      const patches = [{ op: 'replace' as const, path, value: given }]
      const next = applyPatches(before, patches)
      if (refusalOf(next, patches)) return
      expect(openJob(JSON.parse(JSON.stringify(next)), 'main', 'x').aside).toEqual([])
    }),
    { numRuns: 500 }
  )
})

test('a job with damage in it opens without the damage, which is told and kept', () => {
  const stored = JSON.parse(JSON.stringify(sample())) as Job
  const other = newOutlet('p', formatById('apng'), 'Page')
  stored.outlets.p = { ...other, digits: 2.5, namePattern: 'x'.repeat(201), name: 'n'.repeat(90) }
  stored.outlets.q = { ...other, id: 'q', format: 'no-such-format' as never }
  stored.outletOrder.push('p', 'q', 'nowhere')
  stored.sources.s!.steps[0]!.settings.from = 0
  stored.sources.t = {
    ...stored.sources.s!,
    id: 't',
    steps: [],
    facts: { ...facts, rate: [2 ** 40, 3], pixelAspect: [0, -1] }
  }
  stored.sources.u = 'lost' as never
  const { job, aside } = openJob(stored, 'main', 'Untitled job')
  expect(Job.safeParse(job).success).toBe(true)
  expect(job.outletOrder).toEqual(['o', 'p'])
  expect(job.outlets.p).toMatchObject({ digits: 4, namePattern: 'x'.repeat(200), name: 'n'.repeat(80) })
  expect(job.sources.s!.steps.map(step => step.id)).toEqual(['b'])
  expect(job.sources.t!.facts).toMatchObject({ rate: null, pixelAspect: [1, 1] })
  expect(job.sourceOrder).toEqual(['s', 't'])
  expect(aside.map(each => each.what)).toEqual([
    'a step of vine',
    'the rate of source vine',
    'source u',
    `outlet ${'n'.repeat(80)}`,
    'outlet Page'
  ])
  expect(aside.every(each => each.why !== '')).toBe(true)
  expect(aside[2]!.value).toBe('lost')
})

test('nothing that could be stored keeps a job from opening', () => {
  const half = fc.record(
    {
      version: fc.anything(),
      name: fc.anything(),
      sources: fc.oneof(fc.anything(), fc.dictionary(fc.string(), fc.anything())),
      outlets: fc.oneof(fc.anything(), fc.dictionary(fc.string(), fc.anything())),
      sourceOrder: fc.anything(),
      preparations: fc.oneof(fc.anything(), fc.array(fc.anything()))
    },
    { requiredKeys: [] }
  )
  fc.assert(
    fc.property(fc.oneof(fc.anything(), half), stored => {
      const { job, aside } = openJob(stored, 'main', 'Untitled job')
      expect(Job.safeParse(job).success).toBe(true)
      expect(aside.length).toBeGreaterThan(0)
    }),
    { numRuns: 400 }
  )
})

test('what a header claims is held to what can be', () => {
  const held = (changes: Partial<SourceFacts>): SourceFacts => heldFacts({ ...facts, ...changes })
  expect(held({})).toEqual(facts)
  for (const pixelAspect of [
    [NaN, 1],
    [0, 1],
    [-2, 1],
    [Infinity, 1],
    [1e30, 1]
  ] as [number, number][]) {
    const found = held({ pixelAspect })
    expect(found.pixelAspect).toEqual([1, 1])
    expect(found.findings.map(f => f.id)).toEqual(['pixel-shape-damaged'])
  }
  expect(held({ pixelAspect: [64, 45] }).pixelAspect).toEqual([64, 45])
  expect(held({ rate: [0, 0] as never, rateFrom: 'file' })).toMatchObject({ rate: null, rateFrom: 'unknown' })
  expect(SourceFacts.safeParse(held({ rate: [5003 * 2 ** 31, 2 ** 31 * 7] as never })).success).toBe(true)
})

test('a rate of any numbers becomes the nearest that can be kept', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 1e-3, max: 1e15, noNaN: true }),
      fc.double({ min: 1e-3, max: 1e15, noNaN: true }),
      (n, d) => {
        const rate = nearestRate([n, d])
        const wanted = n / d
        if (wanted > 0xffffffff || wanted < 1 / 0xffffffff) {
          expect(rate).toBeNull()
          return
        }
        expect(Rate.safeParse(rate).success).toBe(true)
        if (wanted > 1e-3 && wanted < 1e6) expect(Math.abs(rate![0] / rate![1] / wanted - 1)).toBeLessThan(1e-9)
      }
    )
  )
  expect(nearestRate([24000 * 2 ** 30, 1001 * 2 ** 30])).toEqual([24000, 1001])
  for (const none of [
    [0, 1],
    [1, 0],
    [NaN, 1],
    [-1, 1]
  ] as [number, number][])
    expect(nearestRate(none)).toBeNull()
})

test('a copy has a name of its own that is short enough', () => {
  expect(copyName('Page', ['Page'])).toBe('Page 2')
  expect(copyName('Page 2', ['Page', 'Page 2'])).toBe('Page 3')
  const long = 'n'.repeat(80)
  expect(copyName(long, [long])).toHaveLength(80)
  expect(copyName(long, [long, `${'n'.repeat(78)} 2`])).toBe(`${'n'.repeat(78)} 3`)
})
