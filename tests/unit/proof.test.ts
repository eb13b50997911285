import { beforeAll, describe, expect, test } from 'vitest'
import { wholeForm } from '../../core/media/formats/form'
import { withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { ciede2000, toLab } from '../../core/frame/kernels/ciede2000'
import { compareFrames } from '../../core/judge/proof/compare'
import { prove } from '../../core/judge/proof/prove'
import { ProofReport } from '../../core/judge/proof/report'
import { specAsFound } from '../../core/open/stored'
import type { FilesSpec } from '../../core/source/source'
import type { Pool } from '../../core/base/pool'
import type { Tasks } from '../../core/tasks/tasks'
import { inlinePool } from '../../platform/node/pool'
import { moth } from '../../demo/scenes'
import { bytesFile, noise, testHost, writeFilm } from './support'

const host = await testHost()
const { kernels } = host
const pool = inlinePool(host)
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
const WHITE: AlphaMode = { mode: 'premultiplied', matte: '#ffffff' }

/** Pairs published with "The CIEDE2000 Color-Difference Formula" (2005), table 1: L a b, L a b, difference. */
const PUBLISHED: number[][] = [
  [50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425],
  [50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615],
  [50, 2.8361, -74.02, 50, 0, -82.7485, 3.4412],
  [50, -1.3802, -84.2814, 50, 0, -82.7485, 1],
  [50, -1.1848, -84.8006, 50, 0, -82.7485, 1],
  [50, -0.9009, -85.5211, 50, 0, -82.7485, 1],
  [50, 0, 0, 50, -1, 2, 2.3669],
  [50, -1, 2, 50, 0, 0, 2.3669],
  [50, 2.49, -0.001, 50, -2.49, 0.0009, 7.1792],
  [50, 2.49, -0.001, 50, -2.49, 0.001, 7.1792],
  [50, 2.49, -0.001, 50, -2.49, 0.0011, 7.2195],
  [50, 2.49, -0.001, 50, -2.49, 0.0012, 7.2195],
  [50, -0.001, 2.49, 50, 0.0009, -2.49, 4.8045],
  [50, -0.001, 2.49, 50, 0.0011, -2.49, 4.7461],
  [50, 2.5, 0, 50, 0, -2.5, 4.3065],
  [50, 2.5, 0, 73, 25, -18, 27.1492],
  [50, 2.5, 0, 61, -5, 29, 22.8977],
  [50, 2.5, 0, 56, -27, -3, 31.903],
  [50, 2.5, 0, 58, 24, 15, 19.4535],
  [50, 2.5, 0, 50, 3.1736, 0.5854, 1],
  [50, 2.5, 0, 50, 3.2972, 0, 1],
  [50, 2.5, 0, 50, 1.8634, 0.5757, 1],
  [50, 2.5, 0, 50, 3.2592, 0.335, 1],
  [60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644],
  [63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.263],
  [61.2901, 3.7196, -5.3901, 61.4292, 2.248, -4.962, 1.8731],
  [35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645],
  [22.7233, 20.0904, -46.694, 23.0331, 14.973, -42.5619, 2.0373],
  [36.4612, 47.858, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146],
  [90.8027, -2.0831, 1.441, 91.1528, -1.6435, 0.0447, 1.4441],
  [90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381],
  [6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377],
  [2.0776, 0.0795, -1.135, 0.9033, -0.0636, -0.5514, 0.9082]
]

test('CIEDE2000 agrees with the published pairs, both ways round', () => {
  for (const pair of PUBLISHED) {
    expect(ciede2000(pair, 0, 3)).toBeCloseTo(pair[6]!, 4)
    expect(ciede2000(pair, 3, 0)).toBeCloseTo(pair[6]!, 4)
  }
})

test('L*a*b* of sRGB white, black and a red', () => {
  const lab = new Float64Array(9)
  toLab(1, 1, 1, lab, 0)
  toLab(0, 0, 0, lab, 3)
  toLab(1, 0, 0, lab, 6)
  const due = [100, 0, 0, 0, 0, 0, 53.24, 80.09, 67.2]
  lab.forEach((value, i) => expect(Math.abs(value - due[i]!)).toBeLessThan(0.02))
})

test('a comparison counts what changed, and leaves colour under clear pixels out of the judgement', () => {
  const frame = noise({ width: 16, height: 16, depth: 16, runs: 0 })
  expect(compareFrames(frame, frame, kernels)).toMatchObject({ changed: 0, alpha: { max: 0 }, colour: { max: 0 } })
  const under = { ...frame, samples: frame.samples.slice() }
  let clear = 0
  for (let i = 0; i < under.samples.length; i += 4)
    if (under.samples[i + 3] === 0) under.samples[i] = (frame.samples[i]! + 1000 * ++clear) & 65535
  expect(compareFrames(frame, under, kernels)).toMatchObject({
    changed: clear,
    changedUnderClear: clear,
    alpha: { max: 0 },
    colour: { max: 0 }
  })
  expect(() => compareFrames(frame, noise({ width: 15, height: 16, depth: 16 }), kernels)).toThrow(
    /15x16 instead of 16x16/
  )
})

describe('deliveries', () => {
  let frames: Frame[]
  let reference: FilesSpec
  beforeAll(async () => {
    frames = [0, 0.15, 0.3, 0.45].map(t => withDepth(moth(t), 8, kernels))
    reference = specAsFound('reference', 'reference', 'apng', [
      bytesFile('reference.png', await writeFilm('apng', frames))
    ])
  })

  async function proof(
    delivered: readonly Frame[],
    due: AlphaMode = STRAIGHT,
    { format = 'apng', rate = [12, 1] as [number, number], declared = due } = {}
  ): Promise<ProofReport> {
    const bytes = await writeFilm(format, delivered, { rate, alpha: declared })
    const spec = specAsFound(`d${Math.random()}`, 'delivered', format, [bytesFile('delivered', bytes)])
    const { width, height, depth } = frames[0]!
    const report = await prove(
      {
        reference,
        frames: frames.map((_, i) => i),
        expected: { width, height, frames: frames.length, rate: [12, 1], ...wholeForm(depth, due), bytes: null },
        delivered: { ...spec, interpretation: { ...spec.interpretation, alpha: due } }
      },
      { host, pool }
    )
    return ProofReport.parse(report)
  }

  const each = (map: (frame: Frame) => Frame): Frame[] => frames.map(map)
  const alpha = (map: (a: number, i: number) => number): Frame[] =>
    each(frame => ({
      ...frame,
      samples: frame.samples.map((code, i) => (i % 4 === 3 ? map(code, i) : code)) as Uint8Array
    }))

  test('an exact delivery is identical, in every mode the format declares', async () => {
    expect(await proof(frames)).toMatchObject({ verdict: 'identical', findings: [], reader: { independent: true } })
    for (const mode of [STRAIGHT, BLACK, WHITE]) {
      const report = await proof(
        each(frame => withAlphaMode(frame, mode, kernels)),
        mode,
        { format: 'quicktime-animation' }
      )
      expect(report.verdict).toBe('identical')
      expect(report.sha256).toMatch(/^[0-9a-f]{64}$/)
    }
  })

  test('colour changed only under clear pixels is a note, never an alarm', async () => {
    const report = await proof(
      each(frame => ({
        ...frame,
        samples: frame.samples.map((code, i, all) =>
          i % 4 < 3 && all[i - (i % 4) + 3] === 0 ? 90 : code
        ) as Uint8Array
      }))
    )
    expect(report.verdict).toBe('faithful')
    expect(report.findings).toMatchObject([{ id: 'colour-under-clear', severity: 'note' }])
  })

  test('one code of alpha is faithful, a few codes of colour are visible loss', async () => {
    expect((await proof(alpha(a => (a === 100 ? 101 : a)))).verdict).toBe('faithful')
    expect((await proof(alpha(a => (a > 100 && a < 150 ? a - 8 : a)))).verdict).toBe('visible-loss')
    const tinted = await proof(
      each(frame => ({
        ...frame,
        samples: frame.samples.map((code, i) => (i % 4 === 0 ? Math.min(255, code + 30) : code)) as Uint8Array
      }))
    )
    expect(tinted.verdict).toBe('visible-loss')
  })

  test('a film larger than was asked for is told, one near it is not', async () => {
    const bytes = await writeFilm('quicktime-animation', frames)
    const spec = specAsFound('large', 'delivered.mov', 'quicktime-animation', [bytesFile('delivered.mov', bytes)])
    const { width, height } = frames[0]!
    const of = (most: number) =>
      prove(
        {
          reference,
          frames: [0, 1, 2, 3],
          expected: { width, height, frames: 4, rate: [12, 1], ...wholeForm(8, STRAIGHT), bytes: null, most },
          delivered: spec
        },
        { host, pool }
      )
    expect((await of(bytes.length / 2)).findings.map(f => f.id)).toContain('larger-than-asked')
    expect((await of(bytes.length / 1.1)).findings.map(f => f.id)).not.toContain('larger-than-asked')
  })

  test('an unreadable frame breaks the proof and says why, and the rest is still compared', async () => {
    const bytes = await writeFilm('quicktime-animation', frames)
    bytes[Math.floor(bytes.length * 0.1)] = 255
    bytes.fill(0xfe, 40 + 14, 40 + 90)
    const spec = specAsFound('damaged', 'delivered.mov', 'quicktime-animation', [bytesFile('delivered.mov', bytes)])
    const { width, height } = frames[0]!
    const report = await prove(
      {
        reference,
        frames: [0, 1, 2, 3],
        expected: { width, height, frames: 4, rate: [12, 1], ...wholeForm(8, STRAIGHT), bytes: null },
        delivered: spec
      },
      { host, pool }
    )
    expect(report.verdict).toBe('broken')
    expect(report.findings[0]).toMatchObject({ id: 'unreadable', frames: [1] })
    expect(report.findings[0]!.sentence).toContain('frame 1')
  })

  test('what cannot be got at is no verdict: a worker that dies, a source that cannot be read, one that changed', async () => {
    const bytes = await writeFilm('quicktime-animation', frames)
    const spec = specAsFound('whole', 'delivered.mov', 'quicktime-animation', [bytesFile('delivered.mov', bytes)])
    const { width, height } = frames[0]!
    const request = {
      reference,
      frames: [0, 1, 2, 3],
      expected: { width, height, frames: 4, rate: [12, 1] as [number, number], ...wholeForm(8, STRAIGHT), bytes: null },
      delivered: spec
    }
    const dying: Pool<Tasks> = {
      ...pool,
      run: (name, args, options) =>
        name === 'compare' && args[0] && (args[0] as { deliveredIndex: number }).deliveredIndex === 2
          ? Promise.reject(new Error('a worker stopped while it ran "compare"'))
          : pool.run(name, args, options)
    }
    await expect(prove(request, { host, pool: dying })).rejects.toThrow(/a worker stopped/)

    const cut = await writeFilm('quicktime-animation', frames)
    cut.fill(0xfe, 40 + 14, 40 + 90)
    const damaged = specAsFound('cut', 'source.mov', 'quicktime-animation', [bytesFile('source.mov', cut)])
    await expect(prove({ ...request, reference: damaged }, { host, pool })).rejects.toMatchObject({
      kind: 'unreachable',
      matter: expect.stringMatching(/^the source cannot be read: source\.mov/) as string
    })

    const stamps = [[reference.files[0]!.path, 'as it was']] as const
    await expect(prove({ ...request, stamps }, { host, pool })).rejects.toThrow(/has changed since the pour/)
  })
})
