/** The ledger: what became of the source on its way to the file, and the headline that follows from it. */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { encodePng } from '../../core/media/pictures/png/encode'
import { formatById, recognise } from '../../core/open/registry'
import type { Frame } from '../../core/frame/frame'
import { headlineTitle, headlineVerdict, worstLine, type LedgerLine } from '../../core/judge/ledger/ledger'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { pour } from '../../core/run/pour/pour'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, preparedFacts, type Step } from '../../core/prepare/preparation'
import { expectationOf } from '../../core/judge/proof/expectation'
import { prove } from '../../core/judge/proof/prove'
import { ProofReport } from '../../core/judge/proof/report'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { type SourceSpec, preparedSpec } from '../../core/source/source'
import { filesAt } from '../../platform/node/disk'
import { fileSink } from '../../platform/node/place'
import { inlinePool } from '../../platform/node/pool'
import { contents } from '../material/contents'
import { storages, stored } from '../material/storages'
import { bytesFile, testHost, vectorFile } from './support'

const host = await testHost()
const pool = inlinePool(host)
let folder: string
beforeAll(async () => void (folder = await mkdtemp(path.join(tmpdir(), 'pour-ledger-'))))
afterAll(() => rm(folder, { recursive: true }))

const line = (severity: LedgerLine['severity'], asked = false, more: Partial<LedgerLine> = {}): LedgerLine => ({
  stage: 'recipe',
  id: 'x',
  severity,
  asked,
  sentence: '',
  ...more
})

describe('the headline', () => {
  test('is the worst line that nobody asked for', () => {
    const lines = [
      line('loss', true),
      line('note'),
      line('loss', false, { id: 'first' }),
      line('loss', false, { id: 'second' })
    ]
    expect(worstLine(lines)?.id).toBe('first')
    expect(headlineVerdict(lines, 'identical')).toBe('visible-loss')
    expect(headlineVerdict([line('loss', true), line('note')], 'identical')).toBe('identical')
    expect(headlineVerdict([line('note', false, { id: 'depth' })], 'identical')).toBe('faithful')
    expect(headlineVerdict([line('none')], 'broken')).toBe('broken')
  })

  test('says that transparency survives only where colour and alpha are delivered', () => {
    expect(headlineTitle('identical', 'all', false)).toBe('Transparency survives: identical')
    expect(headlineTitle('identical', 'alpha-only', false)).toBe('Identical, alpha alone: no colour is in it')
    for (const carries of ['alpha-only', 'colour-only'] as const)
      for (const verdict of ['identical', 'faithful', 'visible-loss'] as const)
        expect(headlineTitle(verdict, carries, false)).not.toContain('survives')
  })
})

/** A clip of a kind of content as a sequence of PNG pictures. */
async function clip(name: string, depth: 8 | 16 = 8): Promise<SourceSpec> {
  const content = contents.find(c => c.name === name)!
  const frames = [0.25, 0.5, 0.75].map(t => stored(content.at(t), storages[0]!, depth))
  return sequence(frames)
}

function sequence(frames: readonly Frame[]): SourceSpec {
  const files = frames.map((frame, i) => bytesFile(`f_${i + 1}.png`, encodePng(host, frame)))
  const spec = specAsFound(`clip ${Math.random()}`, 'clip', 'png-sequence', files)
  return { ...spec, numbers: [1, 2, 3], interpretation: { ...spec.interpretation, rate: [24, 1], rateFrom: 'asked' } }
}

/** Pours a source through an outlet and proves it, as page and command line do. */
async function poured(
  source: SourceSpec,
  format: string,
  more: Partial<Outlet> = {},
  steps: Step[] = []
): Promise<ProofReport> {
  const row = formatById(format)
  const outlet: Outlet = { ...newOutlet('o', row), ...more }
  const spec: SourceSpec = preparedSpec(source, steps, {})
  const opened = await openSource(source, host)
  await opened.close()
  const plan = planPour(preparedFacts(opened.facts, steps), outlet, null)
  const at = path.join(folder, `${Math.random()}.${row.extension}`)
  await pour({ source: spec, plan, target: { kind: 'film', sink: await fileSink(at) } }, { host, pool })
  const delivered = specAsFound(at, 'delivered', format, await filesAt(at))
  const report = await prove(
    {
      reference: spec,
      frames: plan.frames,
      expected: expectationOf(plan, null),
      delivered: { ...delivered, interpretation: { ...delivered.interpretation, alpha: plan.due.alpha } }
    },
    { host, pool }
  )
  return ProofReport.parse(report)
}

const found = (report: ProofReport, id: string): LedgerLine | undefined => report.ledger.find(l => l.id === id)

describe('what a pour tells', () => {
  test('nothing lost: four stages that say so, and identical', async () => {
    const report = await poured(await clip('strap with lettering'), 'quicktime-animation', { depth: 8 })
    expect(report).toMatchObject({ verdict: 'identical', title: 'Transparency survives: identical' })
    expect([...new Set(report.ledger.map(l => l.stage))]).toEqual(['taken', 'prepared', 'recipe', 'file'])
    expect(report.ledger.every(l => l.severity === 'none')).toBe(true)
  })

  test('a soft title as GIF is visible loss, and tells its levels', async () => {
    const report = await poured(await clip('whole title fading with its shadow'), 'gif')
    expect(report.verdict).toBe('visible-loss')
    expect(found(report, 'cut')).toMatchObject({ stage: 'recipe', severity: 'loss', asked: false })
    expect(found(report, 'cut')!.sentence).toMatch(/\d+ levels of alpha became 2/)
    expect(report.sentence).toContain('levels of alpha became 2')
  })

  test('what is on or off already loses nothing as GIF', async () => {
    const content = contents.find(c => c.name === 'white logo')!
    const frames = [0.25, 0.5, 0.75].map(t => {
      const frame = stored(content.at(t), storages[0]!, 8)
      return {
        ...frame,
        samples: frame.samples.map((code, i) => (i % 4 === 3 ? (code > 127 ? 255 : 0) : code)) as Uint8Array
      }
    })
    expect(found(await poured(sequence(frames), 'gif'), 'cut')?.severity).toBe('none')
  })

  test('a film of alpha alone is never said to keep transparency', async () => {
    const report = await poured(await clip('hair'), 'quicktime-png', { parts: 'alpha-only', depth: 8 })
    expect(report).toMatchObject({ verdict: 'identical', title: 'Identical, alpha alone: no colour is in it' })
    expect(found(report, 'carriage')).toMatchObject({ severity: 'note', asked: true })
  })

  test('sixteen bits as eight are told with their levels, and are faithful, not identical', async () => {
    const report = await poured(await clip('grey smoke', 16), 'quicktime-animation', { depth: 8 })
    expect(report.file?.verdict).toBe('identical')
    expect(report.verdict).toBe('faithful')
    expect(found(report, 'depth')!.sentence).toMatch(/16 bits became 8: [\d,]+ levels of alpha became \d+/)
  })

  test('a crop is as asked; the head that it cuts off is not', async () => {
    const box = { x: 40, y: 40, width: 200, height: 80 }
    const steps = [newStep('1', stepKindById('crop'), { box })]
    const report = await poured(await clip('hair'), 'quicktime-animation', { depth: 8 }, steps)
    expect(found(report, 'crop')).toMatchObject({ stage: 'prepared', severity: 'note', asked: true })
    expect(found(report, 'content-cut')).toMatchObject({ severity: 'loss', asked: false })
    expect(report.verdict).toBe('visible-loss')
    const around = [newStep('1', stepKindById('crop'), { box: { x: 0, y: 0, width: 319, height: 180 } })]
    const kept = await poured(await clip('hair'), 'quicktime-animation', { depth: 8 }, around)
    expect(found(kept, 'content-cut')).toBeUndefined()
    expect(kept.verdict).toBe('identical')
  })

  test('steps tell what they changed, in pixels and frames', async () => {
    const steps = [
      newStep('1', stepKindById('alpha-opacity'), { by: 50 }),
      newStep('2', stepKindById('drop-last')),
      { ...newStep('3', stepKindById('flip')), on: false }
    ]
    const report = await poured(await clip('strap with lettering'), 'quicktime-png', { depth: 16 }, steps)
    const told = report.ledger.filter(l => l.stage === 'prepared')
    expect(told.map(l => l.id)).toEqual(['alpha-opacity', 'drop-last'])
    expect(told[0]!.sentence).toMatch(/alpha changed in [\d.]+ % of the pixels/)
    expect(told[1]!.sentence).toContain('3 frames became 2')
    expect(report.verdict).toBe('identical')
  })

  test.each([
    ['pasp2.mov', 'webp-animated', 'pixel-shape', /Pixels of \d+:\d+ are written as 1:1/],
    ['rle32-sound.mov', 'apng', 'sound', /Its sound \(.*Hz.*\) is left out/],
    ['bt2020hlg.mov', 'avi-raw', 'colour-tags', /Colour came labelled/]
  ])('%s as %s: what the outlet does not carry is a loss that is named', async (name, to, id, sentence) => {
    const reader = await host.openFile(await vectorFile(name))
    const { format } = (await recognise(reader))!
    await reader.close()
    const source = specAsFound(name, name, format.id, [await vectorFile(name)])
    const report = await poured(source, to)
    expect(found(report, id)).toMatchObject({ stage: 'recipe', severity: 'loss', asked: false })
    expect(found(report, id)!.sentence).toMatch(sentence)
    expect(report.verdict).toBe('visible-loss')
    // what is heard is no transparency: the headline says which of the two is lost
    expect(report.title).toBe(
      id === 'sound' ? 'Transparency survives, the sound does not' : 'Transparency survives with visible loss'
    )
  })
})

test('eight bits with dither are told as asked, by name, and nothing is lost by them', async () => {
  const depth = { ...newStep('outlet dither', stepKindById('depth'), { bits: '8', dither: true }), on: true }
  const report = await poured(await clip('grey smoke', 16), 'quicktime-png', { depth: 8 }, [depth])
  const line = report.ledger.find(each => each.id === 'depth' && each.stage === 'recipe' && each.asked)
  expect(line?.sentence).toMatch(/^Depth: /)
  // the file is what was due, code for code; that is no longer sixteen bits
  expect(report.file?.verdict).toBe('identical')
  expect(report.verdict).toBe('faithful')
  expect(report.ledger.filter(each => each.severity === 'loss')).toEqual([])
})
