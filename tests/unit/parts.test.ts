import { isRateNote } from '../../core/run/intake/rate-hints'
import { describe, expect, test } from 'vitest'
import { memorySink, zipSink, type ByteSink } from '../../core/base/files/sinks'
import { listZip } from '../../core/base/files/zip'
import { memoryReader, type FileRef } from '../../core/base/files/file'
import { wholeForm } from '../../core/media/formats/form'
import { formatById, writtenFormats } from '../../core/open/registry'
import { OPAQUE, STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { newOutlet, outletProblems, sayParts, type Outlet } from '../../core/job/outlet/outlet'
import { planPour, pourProblems, type PourPlan } from '../../core/job/outlet/plan'
import { storedFrame } from '../../core/media/carriage/stored'
import { estimateSize } from '../../core/run/pour/estimate-size'
import { pour } from '../../core/run/pour/pour'
import { expectationOf } from '../../core/judge/proof/expectation'
import { prove } from '../../core/judge/proof/prove'
import type { ProofReport } from '../../core/judge/proof/report'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { SourceSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import { bytesFile, firstDifference, noise, testHost, truth, writeFilm } from './support'

const host = await testHost()
const pool = inlinePool(host, 2)
const { kernels } = host
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

const frames = await Promise.all([1, 2, 3].map(n => truth('straight8', n)))
const source: SourceSpec = specAsFound('s', 'moth', 'apng', [bytesFile('moth.png', await writeFilm('apng', frames))])
const { facts } = await openSource(source, host)

async function plan(format: string, more: Partial<Outlet>): Promise<PourPlan> {
  const fresh = newOutlet('o', formatById(format))
  const outlet = { ...fresh, ...more }
  expect([...outletProblems(outlet), ...pourProblems(facts, outlet, null)]).toEqual([])
  return planPour(facts, outlet, null)
}

interface Delivered {
  files: FileRef[]
  key: FileRef[] | null
}

async function poured(of: PourPlan): Promise<Delivered> {
  const film = formatById(of.outlet.format).delivers === 'film'
  const [first, second] = [memorySink(), memorySink()]
  const target = film
    ? { kind: 'film' as const, sink: first as ByteSink, ...(of.key ? { key: second as ByteSink } : {}) }
    : { kind: 'pictures' as const, sink: zipSink(first, new Date(1980, 0, 1)) }
  await pour({ source, plan: of, target }, { host, pool })
  if (film)
    return {
      files: [bytesFile(of.fileName, first.bytes())],
      key: of.key ? [bytesFile(of.key.fileName, second.bytes())] : null
    }
  const archive = bytesFile('pair.zip', first.bytes())
  const listed = await listZip(archive, memoryReader('pair.zip', first.bytes()))
  const all = listed.filter(file => !isRateNote(file.path))
  const ofKey = new Set(of.key?.deliverable.names)
  return {
    files: all.filter(file => !ofKey.has(file.path)),
    key: of.key ? all.filter(file => ofKey.has(file.path)) : null
  }
}

let count = 0
async function proven(of: PourPlan, { files, key }: Delivered): Promise<ProofReport> {
  // workers keep sources open by their id
  const spec = specAsFound(`d${++count}`, 'd', of.outlet.format, files)
  const { content, joined } = of.deliverable
  const apart = content.kind === 'stacked' && joined ? { stacked: { alpha: content.half, ...joined } } : {}
  return prove(
    {
      reference: source,
      frames: of.frames,
      expected: expectationOf(of, null),
      delivered: { ...spec, key, interpretation: { ...spec.interpretation, alpha: of.due.alpha, ...apart } }
    },
    { host, pool }
  )
}

const onNode = writtenFormats.filter(f => !f.needs || f.needs === 'webp')

describe('parts of a picture', () => {
  test('alpha is handed out as grey, code for code at every depth; what has none is white', () => {
    for (const depth of [8, 16, 32] as const) {
      const frame = noise({ width: 9, height: 7, depth })
      const grey = storedFrame(frame, wholeForm(depth, OPAQUE, { content: { kind: 'alpha' } }), kernels)
      const full = depth === 8 ? 255 : depth === 16 ? 65535 : 1
      for (let i = 0; i < grey.samples.length; i += 4)
        expect([...grey.samples.slice(i, i + 4)]).toEqual([
          frame.samples[i + 3],
          frame.samples[i + 3],
          frame.samples[i + 3],
          full
        ])
    }
    const solid = storedFrame(
      noise({ width: 3, height: 2, depth: 8, alpha: OPAQUE }),
      wholeForm(8, OPAQUE, { content: { kind: 'alpha' } }),
      kernels
    )
    expect(new Set(solid.samples)).toEqual(new Set([255]))
  })

  test('colour is laid on its backing as over says, to the code', () => {
    const frame = noise({ width: 16, height: 9, depth: 8 })
    const laid = storedFrame(
      frame,
      wholeForm(8, OPAQUE, { content: { kind: 'flattened', backing: '#204060' } }),
      kernels
    )
    const backing = [0x20, 0x40, 0x60]
    for (let i = 0; i < laid.samples.length; i += 4) {
      const a = frame.samples[i + 3]!
      for (let c = 0; c < 3; c++)
        expect(laid.samples[i + c]).toBe(Math.floor((frame.samples[i + c]! * a + backing[c]! * (255 - a)) / 255 + 0.5))
      expect(laid.samples[i + 3]).toBe(255)
    }
  })

  test('a fill keeps the colour of its mode and loses its alpha', () => {
    const frame = noise({ width: 16, height: 9, depth: 8 })
    const straight = storedFrame(frame, wholeForm(8, OPAQUE, { content: { kind: 'fill', mode: STRAIGHT } }), kernels)
    const shaped = storedFrame(frame, wholeForm(8, OPAQUE, { content: { kind: 'fill', mode: BLACK } }), kernels)
    const due = storedFrame(frame, wholeForm(8, BLACK), kernels)
    for (let i = 0; i < frame.samples.length; i++) {
      expect(straight.samples[i]).toBe(i % 4 === 3 ? 255 : frame.samples[i])
      expect(shaped.samples[i]).toBe(i % 4 === 3 ? 255 : due.samples[i])
    }
  })

  test('an outlet says what its pictures hold', () => {
    const outlet = newOutlet('o', formatById('png-sequence'))
    expect(
      (['colour-alpha', 'fill-key', 'alpha-only', 'colour-only'] as const).map(parts => sayParts({ ...outlet, parts }))
    ).toEqual(['straight', 'fill straight, and key', 'alpha as grey', 'colour on black'])
    expect(outletProblems({ ...outlet, parts: 'fill-key', alpha: OPAQUE })[0]).toMatch(/straight or premultiplied/)
  })
})

describe.each(onNode.map(f => f.id))('%s', id => {
  const format = formatById(id)
  const good =
    format.lossless || format.id === 'webp-sequence' || format.id === 'webp-animated'
      ? ['identical']
      : ['identical', 'faithful']
  // 255 greys and a palette of 256 colours, and blocks of two colours, cannot hold every shade; a wavelet codes a key
  // of noise as it does colour, and so does VC-3
  const coarse = id === 'gif' || id.startsWith('quicktime-texture') || /-(wavelet|vc3)$/.test(id)

  test.each([{ parts: 'alpha-only' }, { parts: 'colour-only', backing: '#2f5d4a' }] as Partial<Outlet>[])(
    'delivers %j, and the proof agrees',
    async more => {
      const of = await plan(id, more)
      const report = await proven(of, await poured(of))
      expect(report.findings.filter(f => f.severity === 'fault')).toEqual([])
      expect(coarse ? ['identical', 'faithful', 'visible-loss'] : good).toContain(report.verdict)
    }
  )

  const film = format.delivers === 'film'
  const folder = format.delivers === 'folder'
  test.skipIf(folder).each([STRAIGHT, BLACK])(
    'delivers a fill, %j, and its key, which make the picture again',
    async alpha => {
      const of = await plan(id, { parts: 'fill-key', alpha })
      const delivered = await poured(of)
      expect(delivered.key).toHaveLength(format.delivers === 'film' ? 1 : 3)
      expect(
        [...delivered.files, ...delivered.key!]
          .map(file => file.path)
          .every((name, i) => name.includes(i < delivered.files.length ? 'fill' : 'key'))
      ).toBe(true)
      const report = await proven(of, delivered)
      expect(report.findings.filter(f => f.severity === 'fault')).toEqual([])
      expect(coarse ? ['identical', 'faithful', 'visible-loss'] : good).toContain(report.verdict)
      expect((await estimateSize({ source, plan: of, host, pool })).bytes).toBeGreaterThan(0)
    }
  )

  test.skipIf(!film).each([
    { parts: 'alpha-below', alpha: STRAIGHT },
    { parts: 'alpha-beside', alpha: BLACK }
  ] as Partial<Outlet>[])('delivers halves of one picture, %j, which make the picture again', async more => {
    const of = await plan(id, more)
    const delivered = await poured(of)
    expect(delivered.files).toHaveLength(1)
    const report = await proven(of, delivered)
    expect(report.findings.filter(f => f.severity === 'fault')).toEqual([])
    // straight colour goes on under clear pixels; what is lossy in colour is so in alpha as well
    expect(format.lossless ? ['identical', 'faithful'] : ['identical', 'faithful', 'visible-loss']).toContain(
      report.verdict
    )
  })
})

describe('a pair put together again', () => {
  const pairOf = async (
    fill: readonly Frame[],
    key: readonly Frame[],
    keyRate: [number, number] = [12, 1]
  ): Promise<SourceSpec> => ({
    ...specAsFound('p', 'pair', 'apng', [bytesFile('a_fill.png', await writeFilm('apng', fill))]),
    key: [bytesFile('a_key.png', await writeFilm('apng', key, { rate: keyRate }))]
  })
  const grey = (frame: Frame): Frame =>
    storedFrame(frame, wholeForm(8, OPAQUE, { content: { kind: 'alpha' } }), kernels)

  test('is straight until it is said to be otherwise', async () => {
    const pair = await openSource(await pairOf(frames, frames.map(grey)), host)
    expect(pair.facts).toMatchObject({ frames: 3, claim: { mode: 'unknown' }, findings: [] })
    for (const [i, frame] of frames.entries())
      expect(firstDifference((await pair.frame(i)).samples, frame.samples)).toBeNull()
    await pair.close()
  })

  test('of unequal length or rate says so, and is as long as the shorter', async () => {
    const { facts: pair } = await openSource(await pairOf(frames, frames.slice(0, 2).map(grey), [25, 1]), host)
    expect(pair.frames).toBe(2)
    expect(pair.findings.map(f => f.sentence)).toEqual([
      'The fill has 3 frames and its key 2.',
      'The fill plays at 12 frames per second and its key at 25.'
    ])
  })

  test('of unequal size is refused', async () => {
    await expect(
      openSource(await pairOf(frames, [noise({ width: 5, height: 5, depth: 8, alpha: OPAQUE })]), host)
    ).rejects.toMatchObject({ kind: 'unreadable' })
  })

  test('a key of the wrong clip is a broken delivery', async () => {
    const of = await plan('apng', { parts: 'fill-key', depth: 8 })
    const { files } = await poured(of)
    const inverted = frames.map(frame => ({
      ...grey(frame),
      samples: grey(frame).samples.map((code, i) => (i % 4 === 3 ? code : 255 - code))
    }))
    const report = await proven(of, { files, key: [bytesFile('k.png', await writeFilm('apng', inverted))] })
    expect(report.verdict).toBe('broken')
    expect(report.findings[0]!.id).toBe('alpha-inverted')
  })
})
