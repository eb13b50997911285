/** Files judged by themselves, the seam of loops, and the ranking of outlets. */
import { describe, expect, test } from 'vitest'
import type { FormatId } from '../../core/open/rows'
import { readAs, withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { AloneReport, proveAlone } from '../../core/judge/proof/alone'
import { DESTINATIONS } from '../../core/job/outlet/destinations'
import { rank, type Contender } from '../../core/judge/proof/rank'
import type { ProofReport } from '../../core/judge/proof/report'
import type { Verdict } from '../../core/judge/proof/grades'
import { measureSeam } from '../../core/judge/proof/seam'
import { specAsFound } from '../../core/open/stored'
import type { FilesSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import { moth } from '../../demo/scenes'
import { bytesFile, random, testHost, vectorFile, writeFilm } from './support'

const host = await testHost()
const { kernels } = host
const pool = inlinePool(host)
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

async function film(
  format: FormatId,
  frames: readonly Frame[],
  declared: AlphaMode = frames[0]!.alpha
): Promise<FilesSpec> {
  return specAsFound(`film ${Math.random()}`, 'film', format, [
    bytesFile('film', await writeFilm(format, frames, { alpha: declared }))
  ])
}

const alone = async (spec: FilesSpec): Promise<AloneReport> =>
  AloneReport.parse(JSON.parse(JSON.stringify(await proveAlone(spec, { host, pool }))))
const FLIGHT = [0, 0.1, 0.2].map(t => withDepth(moth(t), 8, kernels))

describe('alone', () => {
  test('a file that says what its pixels are agrees with itself', async () => {
    expect(await alone(await film('quicktime-png', FLIGHT))).toMatchObject({
      agrees: 'yes',
      claim: { mode: 'straight' },
      answer: { mode: 'straight' }
    })
    expect(
      await alone(
        await film(
          'quicktime-animation',
          FLIGHT.map(f => withAlphaMode(f, BLACK, kernels)),
          BLACK
        )
      )
    ).toMatchObject({ agrees: 'yes', answer: { mode: 'premultiplied', matte: '#000000' } })
  })

  test('a flag against the pixels is a contradiction, named both ways', async () => {
    const report = await alone(
      await film(
        'quicktime-animation',
        FLIGHT.map(f => readAs(withAlphaMode(f, BLACK, kernels), STRAIGHT)),
        STRAIGHT
      )
    )
    expect(report).toMatchObject({
      agrees: 'no',
      sentence: expect.stringContaining('The file says straight, but its pixels are premultiplied on black') as string
    })
    expect(report.findings.map(f => f.id)).toContain('claim-contradicts-pixels')
  })

  test('where nothing is said, or nothing can be told, the report says that', async () => {
    expect(
      (await alone(specAsFound('dpx', 'pod', 'dpx-sequence', [await vectorFile('seq-dpx16/pod.0001.dpx')]))).agrees
    ).toBe('unsaid')
    const hard = FLIGHT.map(f => ({
      ...f,
      samples: f.samples.map((code, i, all) =>
        i % 4 === 3 ? (code > 127 ? 255 : 0) : all[i - (i % 4) + 3]! > 127 ? code : 0
      ) as Uint8Array
    }))
    expect((await alone(await film('quicktime-png', hard))).agrees).toBe('unsure')
    expect(
      await alone(specAsFound('none', 'none', 'quicktime-prores-4444', [await vectorFile('prores4444-noalpha.mov')]))
    ).toMatchObject({ agrees: 'yes', claim: { mode: 'none' } })
  })
})

describe('the seam of a loop', () => {
  /** A square that goes round and comes back, `count` frames a turn. */
  const turning = (count: number, of: number): Frame[] =>
    Array.from({ length: count }, (_, i) => {
      const angle = (2 * Math.PI * (i % of)) / of
      const [cx, cy] = [48 + 24 * Math.cos(angle), 32 + 18 * Math.sin(angle)]
      const samples = new Uint8Array(96 * 64 * 4)
      for (let y = 0; y < 64; y++)
        for (let x = 0; x < 96; x++)
          if (Math.abs(x - cx) < 9 && Math.abs(y - cy) < 9) samples.set([220, 120, 40, 255], 4 * (y * 96 + x))
      return { width: 96, height: 64, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
    })
  const seam = async (frames: Frame[]): ReturnType<typeof measureSeam> =>
    measureSeam(await film('quicktime-png', frames), frames.length, [25, 1], { pool })

  test.each<[string, () => Frame[], string]>([
    ['closed', () => turning(24, 24), 'smooth'],
    ['with its first frame again at the end', () => turning(25, 24), 'repeats'],
    ['with four frames left out', () => turning(20, 24), 'jumps'],
    ['that moves away and stays there', () => turning(10, 80), 'jumps'],
    ['that stands still', () => Array.from({ length: 5 }, () => turning(1, 1)[0]!), 'still']
  ])('a clip %s is told apart', async (_, make, kind) => {
    expect(await seam(make())).toMatchObject({ kind })
  })

  test('what a lossy codec leaves of a repeated frame is still a repeated frame', async () => {
    const frames = turning(25, 24)
    const next = random(3)
    const noisy = frames.map(f => ({
      ...f,
      samples: f.samples.map((code, i, all) =>
        i % 4 < 3 && all[i - (i % 4) + 3]! > 0
          ? Math.max(0, Math.min(255, code + Math.round((next() - 0.5) * 8)))
          : code
      ) as Uint8Array
    }))
    expect(await seam(noisy)).toMatchObject({ kind: 'repeats' })
  })

  test('the stutter is told in milliseconds; two frames have no seam', async () => {
    expect((await seam(turning(25, 24)))!.sentence).toContain('one frame of 40 ms')
    expect(await seam(turning(2, 24))).toBeNull()
  })
})

describe('which outlet is best for what', () => {
  const all = [...new Set(DESTINATIONS.flatMap(destination => destination.stations))]
  const contender = (
    id: string,
    format: string,
    bytes: number,
    verdict: Verdict,
    stations: Contender['stations'] = {}
  ): Contender => ({
    id,
    name: id,
    format,
    bytes,
    carriesAlpha: id !== 'key',
    report: { verdict } as ProofReport,
    // all are visited, and right where nothing else is said
    stations: { ...Object.fromEntries(all.map(station => [station, 'right' as const])), ...stations }
  })
  const best = (of: readonly Contender[]): Record<string, string | null> =>
    Object.fromEntries(rank(of).map(r => [r.destination.id, r.best?.id ?? null]))

  test('broken deliveries are best nowhere; nothing that fits is said with what to pour', () => {
    const none = best([contender('a', 'quicktime-png', 1, 'broken')])
    expect(Object.keys(none)).toEqual(expect.arrayContaining(['editor', 'compositor', 'engine', 'web', 'archive']))
    expect(Object.values(none).every(each => each === null)).toBe(true)
    expect(rank([]).find(({ destination }) => destination.id === 'web')!.reason).toContain('WebM')
  })

  test('no best is named before every station of a destination has been visited', () => {
    const waiting = {
      ...contender('film', 'quicktime-prores-4444', 1, 'faithful'),
      stations: { asks: 'right' as const }
    }
    const [editor] = rank([waiting])
    expect([editor!.best, editor!.reason]).toEqual([null, 'Its stations have not all been visited yet.'])
    expect(best([contender('film', 'quicktime-prores-4444', 1, 'faithful')]).editor).toBe('film')
  })

  test('where no station stands for a destination that is said with its best', () => {
    const [slides] = rank([contender('deck', 'apng', 1, 'identical')]).filter(r => r.destination.id === 'slides')
    expect([slides!.best?.id, slides!.reason]).toEqual(['deck', expect.stringContaining('No station stands for it')])
  })

  test('an editor is given a film before a sequence, whose rate is lost there', () => {
    expect(
      best([
        contender('frames', 'png-sequence', 10, 'identical'),
        contender('film', 'quicktime-prores-4444', 900, 'faithful', { 'always-straight': 'setting' })
      ]).editor
    ).toBe('film')
  })

  test('the key alone is best for nothing while something carries alpha', () => {
    expect(
      best([
        contender('key', 'png-sequence', 1, 'identical', { 'always-straight': 'right' }),
        contender('whole', 'png-sequence', 900, 'identical')
      ])
    ).toMatchObject({ editor: 'whole', compositor: 'whole' })
    expect(best([contender('key', 'png-sequence', 1, 'identical')])).toMatchObject({ editor: 'key' })
  })

  test('stations come before size, size before nothing; on the web a smaller faithful file beats a larger exact one', () => {
    expect(
      best([
        contender('straight', 'quicktime-png', 900, 'identical', { 'always-straight': 'right' }),
        contender('multiplied', 'quicktime-animation', 100, 'identical', { 'always-straight': 'wrong' })
      ]).editor
    ).toBe('straight')
    expect(
      best([
        contender('large', 'quicktime-png', 900, 'identical'),
        contender('small', 'quicktime-raw', 100, 'identical')
      ]).editor
    ).toBe('small')
    expect(
      best([contender('small', 'webp-animated', 100, 'faithful'), contender('exact', 'apng', 900, 'identical')])[
        'web-picture'
      ]
    ).toBe('small')
    expect(
      best([contender('small', 'webp-animated', 100, 'visible-loss'), contender('exact', 'apng', 900, 'identical')])[
        'web-picture'
      ]
    ).toBe('exact')
  })
})
