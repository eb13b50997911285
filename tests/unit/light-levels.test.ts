/** Mastering display and light levels: read, carried where a file can say them, told where it cannot. */
import { holdsAlpha } from '../../core/media/formats/traits/carrying'
import { crc32 } from 'node:zlib'
import { describe, expect, test } from 'vitest'
import { readAll } from '../../core/base/files/file'
import { writtenFormats } from '../../core/open/registry'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { readMastering, sayLevels, writeMastering, type LightLevels } from '../../core/source/light-levels'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { encodePng } from '../../core/media/pictures/png/encode'
import { pour } from '../../core/run/pour/pour'
import { expectationOf } from '../../core/judge/proof/expectation'
import { prove } from '../../core/judge/proof/prove'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { SourceSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import { memoryFiles } from './memory-files'
import { bytesFile, testHost } from './support'

const host = await testHost()
const pool = inlinePool(host)

const LEVELS: LightLevels = {
  mastering: {
    places: [
      [0.68, 0.32],
      [0.265, 0.69],
      [0.15, 0.06],
      [0.3127, 0.329]
    ],
    most: 1000,
    least: 0.005
  },
  content: { most: 900, mean: 180 }
}

const frame: Frame = {
  width: 24,
  height: 16,
  depth: 16,
  samples: new Uint16Array(4 * 384).map((_, i) => (i % 4 === 3 ? 65535 : (i * 97) % 40000)),
  alpha: STRAIGHT,
  transfer: 'srgb'
}

const source = (tags: [number, number, number] | null): SourceSpec => {
  const spec = specAsFound(`hdr ${Math.random()}`, 'hdr', 'png-sequence', [
    bytesFile('hdr_0001.png', encodePng(host, frame, { tags, levels: LEVELS }))
  ])
  return { ...spec, interpretation: { ...spec.interpretation, rate: [25, 1], rateFrom: 'asked' } }
}

/** Files that can say them. */
const SAYS = new Set([
  'png-sequence',
  'apng',
  'png-sheet',
  'packed-sheet',
  'quicktime-png',
  'quicktime-raw',
  'quicktime-texture',
  'quicktime-texture-scaled',
  'quicktime-ffv1',
  'quicktime-animation',
  'quicktime-prores-4444',
  'quicktime-prores-4444-xq',
  'quicktime-wavelet',
  'quicktime-vc3',
  'matroska-ffv1',
  'matroska-wavelet',
  'webm-vp9',
  'webm-vp8'
])

async function made(id: string) {
  const row = writtenFormats.find(each => each.id === id)!
  const reference = source([9, 16, 0])
  const opened = await openSource(reference, host)
  expect(opened.facts.levels).toEqual(LEVELS)
  const parts = holdsAlpha(row) ? {} : ({ parts: 'colour-only' } as const)
  const outlet = { ...newOutlet('o', row), ...parts, depth: row.depths.at(-1)!.depth }
  const plan = planPour(opened.facts, outlet, null)
  await opened.close()
  const held = memoryFiles(row, plan.fileName)
  await pour({ source: reference, plan, target: held.target }, { host, pool })
  const found = specAsFound(`made ${Math.random()}`, 'made', id, held.files())
  const delivered = { ...found, interpretation: { ...found.interpretation, alpha: plan.due.alpha } }
  const file = await openSource(delivered, host)
  await file.close()
  const report = await prove(
    { reference, frames: plan.frames, expected: expectationOf(plan, null), delivered },
    { host, pool }
  )
  return { facts: file.facts, report, bytes: await readAll(await host.openFile(held.files()[0]!)) }
}

test.each(writtenFormats.map(row => row.id))('%s carries them or the ledger says that it does not', async id => {
  const { facts, report } = await made(id)
  const told = report.ledger.find(line => line.id === 'light-levels')
  if (SAYS.has(id)) {
    expect(facts.levels!.content).toEqual(LEVELS.content)
    expect(facts.levels!.mastering!.most).toBeCloseTo(1000, 4)
    expect(facts.levels!.mastering!.least).toBeCloseTo(0.005, 6)
    facts.levels!.mastering!.places.forEach((place, n) =>
      place.forEach((v, k) => expect(v).toBeCloseTo(LEVELS.mastering!.places[n]![k]!, 4))
    )
    expect(told).toBeUndefined()
  } else {
    expect(facts.levels ?? null).toBeNull()
    expect(told).toMatchObject({ stage: 'recipe', severity: 'note', asked: false })
    expect(told!.sentence).toContain('1,000 cd/m²')
  }
})

describe('as the standards lay them', () => {
  const after = (bytes: Uint8Array, name: string): DataView => {
    const at = Buffer.from(bytes).indexOf(name, 0, 'latin1')
    expect(at).toBeGreaterThan(0)
    return new DataView(bytes.buffer, bytes.byteOffset + at + name.length)
  }

  test('PNG: red, green, blue, white in 0.00002, luminance in 0.0001', async () => {
    const { bytes } = await made('png-sequence')
    const m = after(bytes, 'mDCV')
    expect(Array.from({ length: 8 }, (_, n) => m.getUint16(2 * n))).toEqual([
      34000, 16000, 13250, 34500, 7500, 3000, 15635, 16450
    ])
    expect([m.getUint32(16), m.getUint32(20)]).toEqual([10_000_000, 50])
    const c = after(bytes, 'cLLI')
    expect([c.getUint32(0), c.getUint32(4)]).toEqual([9_000_000, 1_800_000])
  })

  test('QuickTime: green, blue, red, white; levels in whole cd/m2', async () => {
    const { bytes } = await made('quicktime-png')
    const m = after(bytes, 'mdcv')
    expect(Array.from({ length: 8 }, (_, n) => m.getUint16(2 * n))).toEqual([
      13250, 34500, 7500, 3000, 34000, 16000, 15635, 16450
    ])
    const c = after(bytes, 'clli')
    expect([c.getUint16(0), c.getUint16(2)]).toEqual([900, 180])
  })
})

test('are put in words, and damaged ones are none', () => {
  expect(sayLevels(LEVELS)).toBe('mastered on 0.005 to 1,000 cd/m², 900 cd/m² at most and 180 in its brightest frame')
  expect(sayLevels({ mastering: null, content: LEVELS.content })).toBe(
    '900 cd/m² at most and 180 in its brightest frame'
  )
})

test('a chunk or a figure that is damaged is none, and the picture is read', async () => {
  const whole = Buffer.from(encodePng(host, frame, { tags: [9, 16, 0], levels: LEVELS }))
  const at = whole.indexOf('mDCV') - 4
  const longer = Buffer.alloc(12 + 30)
  longer.writeUInt32BE(30, 0)
  longer.write('mDCV', 4, 'latin1')
  longer.writeUInt32BE(crc32(longer.subarray(4, 38)), 38)
  const bytes = Buffer.concat([whole.subarray(0, at), longer, whole.subarray(at + 36)])
  const opened = await openSource(
    specAsFound('x', 'x', 'png-sequence', [bytesFile('x.png', new Uint8Array(bytes))]),
    host
  )
  expect(opened.facts.levels).toEqual({ mastering: null, content: LEVELS.content })
  expect((await opened.frame(0)).samples).toEqual(frame.samples)
  await opened.close()
  const wild = {
    places: [
      [9, -1],
      [0, 0],
      [0, 0],
      [0, 0]
    ] as [number, number][],
    most: 1e9,
    least: -5
  }
  const back = readMastering(writeMastering(wild, 'film'), 'film')!
  expect(back.places[0]).toEqual([65535 / 50000, 0])
  expect([back.most, back.least]).toEqual([0xffffffff / 10000, 0])
})

test('without a label that means other light they are read and not passed on', async () => {
  const opened = await openSource(source(null), host)
  await opened.close()
  // a picture of sRGB has no cICP to go with them, and none were written
  expect(opened.facts.levels ?? null).toBeNull()
})
