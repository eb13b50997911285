/** From a source of a job to what workers open: the same for page and command line. */
import { describe, expect, test } from 'vitest'
import { strapFacts } from './support'
import { emptyScene } from '../../core/draw/scene/fresh'
import type { JobSource } from '../../core/job/job'
import { asStored, filesSpecOf, heldScene, othersIn, inMode } from '../../core/job/resolve'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, type Step } from '../../core/prepare/preparation'
import { AS_FOUND } from '../../core/source/source'

const facts = strapFacts({ frames: 3, rate: null, rateFrom: 'unknown', bitDepth: 16 })
const source = (id: string, more: Partial<JobSource> = {}): JobSource => ({
  id,
  name: `name of ${id}`,
  facts,
  findings: [{ id: 'gaps', severity: 'warning', frames: [2], sentence: 'A frame is missing.' }],
  interpretation: { ...AS_FOUND, rate: [25, 1], rateFrom: 'asked' },
  marks: null,
  steps: [],
  ...more
})
const held = {
  format: 'png-sequence',
  files: [1, 2, 3].map(n => ({ kind: 'bytes' as const, path: `${n}.png`, size: 0, bytes: new Uint8Array() })),
  numbers: [1, 2, 4]
}

describe('the files of a source', () => {
  test('pictures are brought to what the job notes of them; a film needs nothing of the kind', () => {
    const spec = filesSpecOf(source('a'), held)
    expect(spec).toMatchObject({ id: 'a', name: 'name of a', numbers: [1, 2, 4] })
    expect(spec.common).toEqual({ bitDepth: 16, claim: facts.claim })
    expect(filesSpecOf(source('a'), { ...held, numbers: null }).common).toBeNull()
  })

  test('as stored it has no rate of its own and no findings, and keeps its mode', () => {
    const spec = asStored(inMode(filesSpecOf(source('a'), held), { mode: 'premultiplied', matte: '#000000' }))
    expect(spec.findings).toEqual([])
    expect(spec.interpretation).toMatchObject({ rate: null, rateFrom: null, alpha: { mode: 'premultiplied' } })
    expect(inMode(spec, null).interpretation.alpha).toBeNull()
  })

  test('a scene is its description, whatever files it is given, and another with every edit', () => {
    const scene = emptyScene('strap', { width: 64, height: 36, rate: [25, 1], seconds: 1 })
    const one = filesSpecOf(source('a', { scene }), held)
    expect(one).toMatchObject({ format: 'scene', numbers: null, common: null })
    expect(one.files).toHaveLength(1)
    const other = filesSpecOf(source('a', { scene: { ...scene, backdrop: '#ffffff' } }), held)
    expect(other.id).not.toBe(one.id)
    expect(filesSpecOf(source('a', { scene: { ...scene } }), held).id).toBe(one.id)
    expect(heldScene(source('a'))).toBeNull()
  })
})

test('steps look at what is there, once each, and never at their own source', () => {
  const looks = (id: string, other: string): Step => newStep(id, stepKindById('difference-key'), { plate: other })
  const sources = Object.fromEntries(['a', 'b', 'c'].map(id => [id, source(id)]))
  const found = (steps: Step[]): string[] => othersIn(sources, 'a', steps).map(s => s.id)
  expect(found([looks('1', 'b'), looks('2', 'b'), looks('3', 'a'), looks('4', 'gone'), looks('5', 'c')])).toEqual([
    'b',
    'c'
  ])
  expect(found([{ ...looks('1', 'b'), on: false }])).toEqual([])
  expect(found([])).toEqual([])
})
