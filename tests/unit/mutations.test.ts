/**
 * A good delivery broken in each known way must be found broken and named; unbroken ones get the verdict they deserve.
 */
import { holdsAlpha } from '../../core/media/formats/traits/carrying'
import { beforeAll, describe, expect, test } from 'vitest'
import { wholeForm } from '../../core/media/formats/form'
import type { FormatId } from '../../core/open/rows'
import { formatById, runsOn, writtenFormats } from '../../core/open/registry'
import { readAs, withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { STRAIGHT, type AlphaMode, type Depth, type Frame } from '../../core/frame/frame'
import { memoryFiles } from './memory-files'
import { planPour } from '../../core/job/outlet/plan'
import { newOutlet } from '../../core/job/outlet/outlet'
import { storedFrame } from '../../core/media/carriage/stored'
import { pour, type Noted } from '../../core/run/pour/pour'
import { prove, type FrameOutcome, type Notebook, type ProofRequest } from '../../core/judge/proof/prove'
import { ProofReport } from '../../core/judge/proof/report'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { SourceSpec } from '../../core/source/source'
import { memoryReader } from '../../core/base/files/file'
import { memorySink } from '../../core/base/files/sinks'
import { readFilm } from '../../core/media/containers/quicktime/read'
import type { Pool } from '../../core/base/pool'
import type { Tasks } from '../../core/tasks/tasks'
import { inlinePool } from '../../platform/node/pool'
import { moth } from '../../demo/scenes'
import { bytesFile, firstDifference, testHost, writeFilm } from './support'

const host = await testHost()
const { kernels } = host
const pool = inlinePool(host)
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
const ORANGE: AlphaMode = { mode: 'premultiplied', matte: '#e08030' }
const COUNT = 8

/** The moth in flight, at a quarter of its size, with colours of its own where 16 bits are wanted. */
function clip(depth: Depth): Frame[] {
  return Array.from({ length: COUNT }, (_, i) => {
    const frame = withDepth(moth(i * 0.09), 16, kernels)
    const samples = new Uint16Array(320 * 180 * 4)
    for (let y = 0; y < 180; y++)
      for (let x = 0; x < 320; x++)
        for (let c = 0; c < 4; c++)
          samples[4 * (y * 320 + x) + c] =
            (frame.samples[4 * (2 * y * 640 + 2 * x) + c]! + frame.samples[4 * (2 * y * 640 + 2 * x + 1) + c]!) >> 1
    return withDepth({ ...frame, width: 320, height: 180, samples }, depth, kernels)
  })
}

const edited = (frame: Frame, map: (code: number, channel: number, at: number) => number): Frame => ({
  ...frame,
  samples: frame.samples.map((code, i) => map(code, i % 4, i)) as Frame['samples']
})

interface Broken {
  name: string
  /** The finding that must name it. */
  id: string
  make(frames: Frame[]): Frame[]
  verdict?: 'visible-loss'
  depth?: 16
  due?: AlphaMode
}

const shifted = (frame: Frame, dx: number, dy: number): Frame => {
  const samples = frame.samples.slice().fill(0)
  for (let y = 0; y < 180; y++) {
    for (let x = 0; x < 320; x++) {
      const [u, v] = [x - dx, y - dy]
      if (u >= 0 && v >= 0 && u < 320 && v < 180)
        samples.set(frame.samples.subarray(4 * (v * 320 + u), 4 * (v * 320 + u) + 4), 4 * (y * 320 + x))
    }
  }
  return { ...frame, samples }
}

const BREAKS: Broken[] = [
  {
    name: 'alpha inverted',
    id: 'alpha-inverted',
    make: f => f.map(x => edited(x, (code, c) => (c === 3 ? 255 - code : code)))
  },
  {
    name: 'alpha in limited range',
    id: 'limited-range-alpha',
    make: f => f.map(x => edited(x, (code, c) => (c === 3 ? Math.round(16 + (code * 219) / 255) : code)))
  },
  { name: 'alpha solid', id: 'alpha-solid', make: f => f.map(x => edited(x, (code, c) => (c === 3 ? 255 : code))) },
  {
    name: 'premultiplied twice',
    id: 'premultiplied-twice',
    due: BLACK,
    make: f => f.map(x => withAlphaMode(readAs(withAlphaMode(x, BLACK, kernels), STRAIGHT), BLACK, kernels))
  },
  {
    name: 'premultiplied where straight was due',
    id: 'wrong-mode',
    make: f => f.map(x => readAs(withAlphaMode(x, BLACK, kernels), STRAIGHT))
  },
  {
    name: 'premultiplied on a matte colour of its own',
    id: 'wrong-mode',
    make: f => f.map(x => readAs(withAlphaMode(x, ORANGE, kernels), STRAIGHT))
  },
  {
    name: 'premultiplied on another matte colour than was due',
    id: 'wrong-mode',
    due: BLACK,
    make: f => f.map(x => readAs(withAlphaMode(x, ORANGE, kernels), BLACK))
  },
  { name: 'one frame dropped', id: 'frame-missing', make: f => [...f.slice(0, 3), ...f.slice(4)] },
  { name: 'the last frame dropped', id: 'frame-missing', make: f => f.slice(0, -1) },
  { name: 'one frame doubled', id: 'frame-doubled', make: f => [...f.slice(0, 4), ...f.slice(3)] },
  {
    name: 'one frame doubled in place of the next',
    id: 'frame-doubled',
    make: f => f.map((x, i) => (i === 5 ? f[4]! : x))
  },
  {
    name: 'two frames swapped',
    id: 'frames-swapped',
    make: f => f.map((x, i) => (i === 2 ? f[6]! : i === 6 ? f[2]! : x))
  },
  { name: 'three frames moved round', id: 'wrong-order', make: f => [f[0]!, f[3]!, f[1]!, f[2]!, ...f.slice(4)] },
  { name: 'shifted down by a line', id: 'picture-shifted', make: f => f.map(x => shifted(x, 0, 1)) },
  { name: 'shifted left by a pixel', id: 'picture-shifted', make: f => f.map(x => shifted(x, -1, 0)) },
  {
    name: 'alpha one frame late',
    id: 'alpha-out-of-step',
    make: f => f.map((x, i) => edited(x, (code, c, at) => (c === 3 ? f[Math.max(0, i - 1)]!.samples[at]! : code)))
  },
  {
    name: '8 bits in a 16-bit file',
    id: 'eight-in-sixteen',
    verdict: 'visible-loss',
    depth: 16,
    make: f => f.map(x => withDepth(withDepth(x, 8, kernels), 16, kernels))
  }
]

/** Laid over a colour: what a background that was left on makes of a picture. */
const flattened = (frame: Frame, colour: readonly [number, number, number]): Frame =>
  edited(frame, (code, c, at) => {
    const a = frame.samples[at - c + 3]! / 255
    return c === 3 ? 255 : Math.round(code * a + (1 - a) * colour[c]!)
  })

describe('a background that was baked in is broken, whatever its colours', () => {
  const GREEN = [20, 160, 60] as const
  test.each([
    ['on green', (f: Frame[]) => f.map(x => flattened(x, GREEN)), 'alpha-solid'],
    ['on black', (f: Frame[]) => f.map(x => flattened(x, [0, 0, 0])), 'alpha-solid'],
    [
      'on another colour in each frame',
      (f: Frame[]) => f.map((x, i) => flattened(x, [30 * i, 90, 200 - 20 * i])),
      'alpha-solid'
    ],
    ['in three of its frames', (f: Frame[]) => f.map((x, i) => (i > 4 ? flattened(x, GREEN) : x)), 'alpha-solid'],
    [
      'of three quarters of the picture',
      (f: Frame[]) =>
        f.map(x => {
          const solid = flattened(x, GREEN)
          return edited(x, (code, _c, at) => (at < 0.75 * x.samples.length ? solid.samples[at]! : code))
        }),
      'background-baked'
    ],
    [
      'alpha of one level that is not full',
      (f: Frame[]) => f.map(x => edited(x, (code, c) => (c === 3 ? 200 : code))),
      'alpha-constant'
    ],
    ['clear everywhere', (f: Frame[]) => f.map(x => edited(x, (code, c) => (c === 3 ? 0 : code))), 'alpha-constant']
  ] as const)('%s', async (name, make, id) => {
    const frames = clip(8)
    const report = await proven(name, frames, make(frames))
    expect(report.findings.filter(f => f.severity === 'fault').map(f => f.id)).toContain(id)
    expect(report.verdict).toBe('broken')
    expect(report.title).toBe('Transparency is broken')
  })
})

async function proven(name: string, due: Frame[], found: Frame[]): Promise<ProofReport> {
  const [reference, delivered] = await Promise.all(
    [due, found].map(async (frames, i) =>
      specAsFound(`${name} ${i}`, name, 'quicktime-png', [bytesFile('f.mov', await writeFilm('quicktime-png', frames))])
    )
  )
  const expected = {
    ...wholeForm(8, STRAIGHT),
    width: 320,
    height: 180,
    frames: due.length,
    rate: [12, 1] as [number, number],
    bytes: null
  }
  return prove({ reference: reference!, frames: due.map((_, i) => i), expected, delivered: delivered! }, { host, pool })
}

describe('breaks', () => {
  let frames: Record<8 | 16, Frame[]>
  const references = new Map<string, SourceSpec>()
  beforeAll(() => {
    frames = { 8: clip(8), 16: clip(16) }
  })

  async function referenceOf(depth: 8 | 16): Promise<SourceSpec> {
    const key = String(depth)
    if (!references.has(key))
      references.set(
        key,
        specAsFound(`reference ${depth}`, 'reference', 'quicktime-png', [
          bytesFile('reference.mov', await writeFilm('quicktime-png', frames[depth]))
        ])
      )
    return references.get(key)!
  }

  async function proof(
    format: FormatId,
    delivered: readonly Frame[],
    depth: 8 | 16,
    due: AlphaMode,
    more: { rate?: [number, number]; declared?: AlphaMode; notebook?: Notebook } = {}
  ): Promise<ProofReport> {
    const bytes = await writeFilm(format, delivered, { rate: more.rate ?? [12, 1], alpha: more.declared ?? due })
    const spec = specAsFound(`delivered ${Math.random()}`, 'delivered', format, [bytesFile('delivered', bytes)])
    const request = {
      reference: await referenceOf(depth),
      frames: Array.from({ length: COUNT }, (_, i) => i),
      expected: {
        width: 320,
        height: 180,
        frames: COUNT,
        rate: [12, 1] as [number, number],
        ...wholeForm(depth, due),
        bytes: null
      },
      delivered: { ...spec, interpretation: { ...spec.interpretation, alpha: due } }
    }
    const report = await prove({ ...request, ...(more.notebook ? { notebook: more.notebook } : {}) }, { host, pool })
    // with fingerprints of what was poured, frames that have them are not compared with the source; the report must be
    // the same
    const prints = frames[depth].map(frame =>
      kernels.fingerprint(storedFrame(frame, request.expected, kernels).samples)
    )
    if (!more.notebook) expect(await prove({ ...request, prints }, { host, pool })).toEqual(report)
    return ProofReport.parse(report)
  }

  const able = (id: FormatId, b: Broken): boolean =>
    formatById(id).depths.some(d => d.depth === (b.depth ?? 8)) &&
    (b.due?.mode !== 'premultiplied' || formatById(id).alpha.premultiplied.can)

  for (const format of ['apng', 'quicktime-animation', 'quicktime-png', 'quicktime-raw'] as const) {
    test.each(BREAKS.filter(b => able(format, b)))(
      `${format}: $name is found and named`,
      async ({ make, id, verdict = 'broken', depth: asked, due = STRAIGHT }) => {
        const depth = asked ?? 8
        const report = await proof(
          format,
          make(frames[depth]).map(x => ({ ...x, alpha: due })),
          depth,
          due
        )
        expect({ verdict: report.verdict, ids: report.findings.map(f => f.id) }).toMatchObject({
          verdict,
          ids: expect.arrayContaining([id]) as string[]
        })
      }
    )
  }

  test('a matte colour of its own is named in words', async () => {
    const report = await proof(
      'apng',
      frames[8].map(x => readAs(withAlphaMode(x, ORANGE, kernels), STRAIGHT)),
      8,
      STRAIGHT
    )
    const named = /premultiplied on (#[0-9a-f]{6})/.exec(report.findings[0]!.sentence)
    expect(named).not.toBeNull()
    const parts = [1, 3, 5].map(at => parseInt(named![1]!.slice(at, at + 2), 16))
    expect(Math.max(...parts.map((part, c) => Math.abs(part - [0xe0, 0x80, 0x30][c]!)))).toBeLessThan(3)
  })

  test('which frame was dropped, doubled or swapped is told', async () => {
    expect(
      (await proof('apng', [...frames[8].slice(0, 3), ...frames[8].slice(4)], 8, STRAIGHT)).findings.find(
        f => f.id === 'frame-missing'
      )
    ).toMatchObject({ sentence: expect.stringContaining('Frame 4 is missing') as string, frames: [4, 5, 6, 7] })
    expect(
      (
        await proof(
          'apng',
          frames[8].map((x, i) => frames[8][i === 2 ? 6 : i === 6 ? 2 : i] ?? x),
          8,
          STRAIGHT
        )
      ).findings[0]
    ).toMatchObject({ sentence: 'Frames 3 and 7 are swapped.', frames: [3, 7] })
    expect(
      (
        await proof(
          'apng',
          frames[8].map(x => shifted(x, 0, 1)),
          8,
          STRAIGHT
        )
      ).findings[0]!.sentence
    ).toBe('The picture sits 1 line too low.')
  })

  test('a wrong rate and a flag that contradicts the pixels are found', async () => {
    expect((await proof('quicktime-png', frames[8], 8, STRAIGHT, { rate: [24, 1] })).findings.map(f => f.id)).toContain(
      'wrong-rate'
    )
    const flag = await proof('quicktime-png', frames[8], 8, STRAIGHT, { declared: BLACK })
    expect(flag.verdict).toBe('broken')
    expect(flag.findings.map(f => f.id)).toContain('wrong-mode')
  })

  test('fingerprints of a pour that had taken wrong frames hide nothing', async () => {
    const inverted = frames[8].map(x => edited(x, (code, c) => (c === 3 ? 255 - code : code)))
    const bytes = await writeFilm('apng', inverted, { rate: [12, 1], alpha: STRAIGHT })
    const spec = specAsFound('wrongly taken', 'delivered', 'apng', [bytesFile('delivered', bytes)])
    const expected = {
      width: 320,
      height: 180,
      frames: COUNT,
      rate: [12, 1] as [number, number],
      ...wholeForm(8, STRAIGHT),
      bytes: null
    }
    // every frame found has the fingerprint that was taken of it
    const prints = inverted.map(frame => kernels.fingerprint(frame.samples))
    const report = await prove(
      {
        reference: await referenceOf(8),
        frames: Array.from({ length: COUNT }, (_, i) => i),
        expected,
        delivered: spec,
        prints
      },
      { host, pool }
    )
    expect(report.verdict).toBe('broken')
    expect(report.findings.map(f => f.id)).toContain('alpha-inverted')
  })

  test('a proof that was cut off goes on where it was, and comes to the same report', async () => {
    const broken = frames[8].map((x, i) => (i === 5 ? frames[8][4]! : x))
    const pages: FrameOutcome[] = []
    let added = 0
    const notebook: Notebook = {
      read: () => Promise.resolve(pages),
      add: outcomes => {
        added += outcomes.length
        pages.push(...outcomes)
        return Promise.resolve()
      }
    }
    const whole = await proof('apng', broken, 8, STRAIGHT, { notebook })
    expect(added).toBe(COUNT)
    pages.length = 3
    added = 0
    const resumed = await proof('apng', broken, 8, STRAIGHT, { notebook })
    expect(added).toBe(COUNT - 3)
    expect(resumed).toEqual(whole)
  })
})

describe('frames that were read back as they were poured', () => {
  const poured = async (): Promise<{ request: ProofRequest; bytes: Uint8Array<ArrayBuffer>; noted: Noted }> => {
    const made = clip(16)
    const reference = specAsFound('read back', 'reference', 'quicktime-png', [
      bytesFile('reference.mov', await writeFilm('quicktime-png', made))
    ])
    const facts = {
      name: 'reference',
      format: 'quicktime-png',
      kind: '',
      width: 320,
      height: 180,
      frames: COUNT,
      rate: [12, 1] as [number, number],
      rateFrom: 'file' as const,
      bitDepth: 16 as const,
      claim: { mode: 'straight' as const, matte: null, says: '' },
      colour: null,
      pixelAspect: [1, 1] as [number, number],
      plays: null,
      bytes: 0,
      findings: []
    }
    const plan = planPour(facts, newOutlet('o', formatById('quicktime-prores-4444')), null)
    const sink = memorySink()
    const noted = (await pour({ source: reference, plan, target: { kind: 'film', sink } }, { host, pool }))!
    const bytes = sink.bytes()
    return {
      request: {
        reference,
        frames: plan.frames,
        expected: { ...plan.deliverable, ...plan.due, bytes: null },
        delivered: specAsFound(`film ${sink.bytes().length}`, 'poured', 'quicktime-prores-4444', [
          bytesFile('poured.mov', bytes)
        ])
      },
      bytes,
      noted
    }
  }
  /** A pool that counts comparisons. */
  const counting = (): { pool: Pool<Tasks>; count: () => number } => {
    let compared = 0
    const inner = inlinePool(host)
    const run: Pool<Tasks>['run'] = (name, ...rest) => {
      if (name === 'compare') compared++
      return inner.run(name, ...rest)
    }
    return { pool: { ...inner, run }, count: () => compared }
  }

  test('are not compared again while the file holds their bytes, but for a few witnesses', async () => {
    const { request, noted } = await poured()
    const whole = await prove(request, { host, pool })
    const { pool: counted, count } = counting()
    expect(await prove({ ...request, ...noted }, { host, pool: counted })).toEqual(whole)
    expect(count()).toBe(4)
  })

  test('count for nothing where the file was changed since: what it holds is compared, and the break is found', async () => {
    const { request, bytes, noted } = await poured()
    const film = await readFilm(memoryReader('poured.mov', bytes))
    const [a, b] = [film.picture.packets[3]!, film.picture.packets[5]!]
    // frame 4 of the file becomes frame 6, as far as it fits: a frame's size stands before it
    const changed = bytes.slice()
    const part = bytes.slice(b.offset, b.offset + b.size)
    expect(a.size).not.toBe(b.size)
    changed.set(part.subarray(0, Math.min(a.size, b.size)), a.offset)
    const delivered = specAsFound('changed film', 'poured', 'quicktime-prores-4444', [bytesFile('poured.mov', changed)])
    const whole = await prove({ ...request, delivered }, { host, pool })
    const { pool: counted, count } = counting()
    expect(await prove({ ...request, delivered, ...noted }, { host, pool: counted })).toEqual(whole)
    expect(whole.verdict).toBe('broken')
    expect(count()).toBe(5)
  })

  test('count for nothing where a witness finds other than was noted', async () => {
    const { request, noted } = await poured()
    const { pool: counted, count } = counting()
    const wrong = noted.readBack!.map(
      found =>
        found && { ...found, compared: { ...found.compared, comparison: { ...found.compared.comparison, changed: 0 } } }
    )
    expect(await prove({ ...request, ...noted, readBack: wrong }, { host, pool: counted })).toEqual(
      await prove(request, { host, pool })
    )
    expect(count()).toBe(COUNT)
  })
})

describe('unbroken deliveries of every format', () => {
  const inNode = writtenFormats.filter(format => runsOn(format, host))
  test.each(inNode.map(format => ({ id: format.id, format })))('$id', async ({ format }) => {
    const frames = clip(16)
    const reference = specAsFound(`whole ${format.id}`, 'reference', 'quicktime-png', [
      bytesFile('reference.mov', await writeFilm('quicktime-png', frames))
    ])
    // one film is looked at: of a format without alpha, colour on black
    const parts = holdsAlpha(format) ? {} : ({ parts: 'colour-only' } as const)
    const outlet = { ...newOutlet('o', format), ...parts }
    const facts = {
      name: 'reference',
      format: 'quicktime-png',
      kind: '',
      width: 320,
      height: 180,
      frames: COUNT,
      rate: [12, 1] as [number, number],
      rateFrom: 'file' as const,
      bitDepth: 16 as const,
      claim: { mode: 'straight' as const, matte: null, says: '' },
      colour: null,
      pixelAspect: [1, 1] as [number, number],
      plays: null,
      bytes: 0,
      findings: []
    }
    const plan = planPour(facts, outlet, null)
    const { target, files } = memoryFiles(format, plan.fileName)
    const noted = await pour({ source: reference, plan, target }, { host, pool })
    const spec = specAsFound(`poured ${format.id}`, 'poured', format.id, files())
    const request = {
      reference,
      frames: plan.frames,
      expected: { ...plan.deliverable, ...plan.due, bytes: null },
      delivered: { ...spec, interpretation: { ...spec.interpretation, alpha: plan.due.alpha } }
    }
    const report = await prove(request, { host, pool })
    expect(noted.readBack!.every(found => (found !== null) === Boolean(format.readBack))).toBe(true)
    expect(await prove({ ...request, ...noted }, { host, pool })).toEqual(report)
    // on or off alone; colour of a quarter of the pixels alone; two colours and eight alphas a block alone; alpha that
    // differs by more than a code at hard edges; colour of every second pixel alone
    const coarse = ['gif', 'webm-vp8', 'webm-vp9', 'quicktime-texture', 'quicktime-texture-scaled']
    const deserved =
      coarse.includes(format.id) || /-(wavelet|vc3)$/.test(format.id)
        ? ['visible-loss', 'faithful']
        : format.lossless
          ? ['identical']
          : ['faithful', 'identical']
    expect({ verdict: deserved, faults: [] }).toMatchObject({
      faults: report.findings.filter(f => f.severity === 'fault')
    })
    expect(deserved).toContain(report.file!.verdict)
    // a frame belongs to whoever asked for it: what becomes of its samples is not seen in the next
    const source = await openSource(spec, host)
    for (const index of [2, 2, 3, 5, 3]) {
      const { samples } = await source.frame(index)
      const once = samples.slice()
      samples.fill(77)
      const again = await source.frame(index)
      expect(firstDifference(again.samples, once)).toBeNull()
      again.samples.fill(99)
    }
    await source.close()
    // every pixel is counted in both histograms
    const count = (bins: number[]): number => bins.reduce((a, b) => a + b, 0)
    expect([count(report.histogram!.due), count(report.histogram!.found)]).toEqual([
      COUNT * 320 * 180,
      COUNT * 320 * 180
    ])
    if (format.exactAlpha && format.id !== 'gif')
      expect(firstDifference(report.histogram!.found, report.histogram!.due)).toBeNull()
  })
})
