/**
 * Patches of known colour under every label, through every format and the step that belongs to the label: carried,
 * converted, or told. The maths are written apart from the core; see `material/patches.ts`.
 */
import sharp from 'sharp'
import { describe, expect, test } from 'vitest'
import { readProfile } from '../../core/media/colour-profile'
import { readAll } from '../../core/base/files/file'
import { writeProfile } from '../../core/media/profile-write'
import { isWide, sameTags, sayTags } from '../../core/frame/colour-tags'
import type { Format } from '../../core/media/formats/format'
import { holdsAlpha } from '../../core/media/formats/traits/carrying'
import { saysColour } from '../../core/media/formats/labels'
import { formatById, writtenFormats } from '../../core/open/registry'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { encodePng } from '../../core/media/pictures/png/encode'
import { pour } from '../../core/run/pour/pour'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, preparedFacts, type Step } from '../../core/prepare/preparation'
import { expectationOf } from '../../core/judge/proof/expectation'
import { prove } from '../../core/judge/proof/prove'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { preparedSpec, type FilesSpec, type SourceSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import {
  at,
  BLOCK,
  codedPatches,
  COLUMNS,
  LABELS,
  patches,
  srgbCode,
  to709,
  WIDTH,
  type Label
} from '../material/patches'
import { memoryFiles } from './memory-files'
import { bytesFile, testHost } from './support'

const host = await testHost()
const { kernels } = host
const pool = inlinePool(host)

const sourceOf = ({ tags }: Label): SourceSpec => {
  const spec = specAsFound(`patches ${Math.random()}`, 'patches', 'png-sequence', [
    bytesFile('patches_0001.png', encodePng(host, codedPatches, tags ? { tags } : {}))
  ])
  return { ...spec, interpretation: { ...spec.interpretation, rate: [24, 1], rateFrom: 'asked' } }
}

async function poured(source: SourceSpec, format: string, steps: Step[] = [], more: Partial<Outlet> = {}) {
  const row = formatById(format)
  const reference = preparedSpec(source, steps, {})
  const opened = await openSource(reference, host)
  const { facts } = opened
  await opened.close()
  const deepest = row.depths.at(-1)!
  const plan = planPour(preparedFacts(facts, []), { ...newOutlet('o', row), depth: deepest.depth, ...more }, null)
  const held = memoryFiles(row, plan.fileName)
  await pour({ source: reference, plan, target: held.target }, { host, pool })
  const found = specAsFound(`made ${Math.random()}`, 'made', row.id, held.files())
  const delivered = { ...found, interpretation: { ...found.interpretation, alpha: plan.due.alpha } }
  const report = await prove(
    { reference, frames: plan.frames, expected: expectationOf(plan, null), delivered },
    { host, pool }
  )
  const file = await openSource(delivered, host)
  const made = await file.frame(0)
  await file.close()
  return { report, made, facts: file.facts, colourBits: deepest.colourBits }
}

/** Straight floats of whatever a file held, in the transfer it has. */
const straight = (made: Frame): Float32Array =>
  withDepth(withAlphaMode(made, STRAIGHT, kernels), 32, kernels).samples as Float32Array

/** Of a format without alpha its colour as it is. */
const BARE = (row: Format): Partial<Outlet> =>
  holdsAlpha(row) ? {} : { parts: 'colour-alpha', alpha: { mode: 'none' } }

/** Formats that lose colour: how far a flat patch may be off, of 1. */
const LOSSY: Record<string, number> = {
  // two colours of 5, 6 and 5 bits a block
  'quicktime-texture': 0.02,
  'quicktime-texture-scaled': 0.02,
  // hard edges of patches reach two codes of ten bits into them
  'quicktime-wavelet': 0.003,
  'avi-wavelet': 0.003,
  'quicktime-vc3': 0.005,
  'mxf-vc3': 0.005,
  'matroska-wavelet': 0.003,
  'webm-vp9': 0.02,
  'webm-vp8': 0.03,
  'webp-animated': 0.02,
  'webp-sequence': 0.02,
  gif: 0.15
}
const roomOf = (format: string, bits: number): number => LOSSY[format] ?? (bits >= 12 ? 0.0015 : 0.5 / 255 + 1e-4)

describe.each(writtenFormats.map(row => [row.id, row] as const))('%s', (id, row) => {
  test.each(LABELS.map(label => [label.name, label] as const))('under %s', async (_, label) => {
    const { report, made, facts, colourBits } = await poured(sourceOf(label), id, [], BARE(row))
    const rgba = straight(made)
    const told = report.ledger.find(line => line.id === 'colour-tags')
    if (row.transfer === 'linear') expect(saysColour(row, label.tags)).toBe(true)
    if (row.transfer === 'linear') {
      // light of the true primaries, and the primaries said
      expect(made.transfer).toBe('linear')
      patches.forEach(([r, g, b, a], n) => {
        if (a === 0) return
        const due = label.light([r, g, b])
        const found = at(rgba, n)
        for (let c = 0; c < 3; c++)
          expect(Math.abs(found[c]! / (due[c]! || 1) - (due[c] ? 1 : 0)), `${n}`).toBeLessThan(
            due[c]! < 0.001 ? 0.05 : 0.003
          )
      })
      expect(facts.tags ? facts.tags[0] : 1).toBe(label.tags?.[0] ?? 1)
      expect(told).toBeUndefined()
      expect(report.ledger.filter(line => line.severity === 'loss')).toEqual([])
      expect(report.verdict).toBe('faithful')
      return
    }
    // codes are as they were ...
    const room = roomOf(id, colourBits)
    patches.forEach(([r, g, b, a], n) => {
      if (a < 0.5) return
      const found = at(rgba, n)
      ;[r, g, b].forEach((v, c) => expect(Math.abs(found[c]! - v), `${n}, ${c}`).toBeLessThan(room / (a === 1 ? 1 : a)))
    })
    // ... and either named as they were, or told; which of both is known before
    expect(saysColour(row, label.tags)).toBe(!label.tags || sameTags(facts.tags, label.tags))
    if (!label.tags) expect(isWide(facts.tags)).toBe(false)
    else if (sameTags(facts.tags, label.tags)) expect(told).toBeUndefined()
    else {
      expect(told).toMatchObject({ severity: 'loss', asked: false })
      expect(told!.sentence).toContain(sayTags(label.tags))
      expect(report.verdict).toBe('visible-loss')
    }
  })
})

test('codes that were to be kept are lost by nobody’s mistake: told, and no loss of the whole way', async () => {
  const spec = sourceOf(LABELS[1]!) as FilesSpec
  const kept = { ...spec, interpretation: { ...spec.interpretation, codesKept: 'Display P3' } }
  const { report } = await poured(kept, 'tga-sequence')
  expect(report.ledger.find(line => line.id === 'colour-tags')).toMatchObject({ severity: 'loss', asked: true })
  expect(report.verdict).not.toBe('visible-loss')
  // what was decided of another colour was not decided of this one
  const other = { ...spec, interpretation: { ...spec.interpretation, codesKept: 'BT.2020' } }
  expect((await poured(other, 'tga-sequence')).report.verdict).toBe('visible-loss')
})

test('alpha alone loses no label, for there is no colour in it', async () => {
  const { report } = await poured(sourceOf(LABELS[1]!), 'tga-sequence', [], { parts: 'alpha-only' })
  expect(report.ledger.find(line => line.id === 'colour-tags')).toBeUndefined()
})

describe('brought to sRGB', () => {
  test.each(LABELS.filter(label => label.step).map(label => [label.name, label] as const))('%s', async (_, label) => {
    const step = newStep('s', stepKindById('bring-to-srgb'), { from: label.step! })
    for (const id of ['png-sequence', 'tiff-sequence', 'exr-sequence']) {
      const { report, made, facts } = await poured(sourceOf(label), id, [step])
      const rgba = straight(made)
      patches.forEach(([r, g, b, a], n) => {
        if (a < 0.5) return
        const light = to709(label.places, label.light([r, g, b]))
        // highlights of PQ and HLG are drawn in, which is a choice of the step's own
        if (['PQ', 'HLG'].includes(label.name) && Math.max(...light) > 0.7) return
        const found = at(rgba, n)
        light.forEach((v, c) => {
          const due = Math.min(1, Math.max(0, v))
          const is = id === 'exr-sequence' ? srgbCode(found[c]!) : found[c]!
          expect(Math.abs(is - srgbCode(due)), `${id}, ${n}, ${c}`).toBeLessThan(0.002)
        })
      })
      expect(isWide(facts.tags) && facts.tags![1] !== 8).toBe(false)
      expect(report.ledger.find(line => line.id === 'colour-tags')).toBeUndefined()
    }
  })
})

test('light from 0.1 to 10,000 cd/m2 comes out of PQ as it is, within a part in a hundred', async () => {
  const inverse = (nits: number): number => {
    const y = (nits / 10000) ** (1305 / 8192)
    return ((0.8359375 + 18.8515625 * y) / (1 + 18.6875 * y)) ** (2523 / 32)
  }
  const nits = [0.1, 1, 10, 100, 203, 1000, 4000, 10000]
  const samples = new Uint16Array(4 * 8).map((_, i) =>
    i % 4 === 3 ? 65535 : Math.round(65535 * inverse(nits[i >> 2]!))
  )
  const ramp: Frame = { width: 8, height: 1, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
  const reference = specAsFound('nits', 'nits', 'png-sequence', [
    bytesFile('nits_0001.png', encodePng(host, ramp, { tags: [9, 16, 0] }))
  ])
  const opened = await openSource(reference, host)
  const row = formatById('exr-sequence')
  const plan = planPour(opened.facts, newOutlet('o', row), null)
  await opened.close()
  const held = memoryFiles(row, plan.fileName)
  await pour({ source: reference, plan, target: held.target }, { host, pool })
  const file = await openSource(specAsFound('made', 'made', row.id, held.files()), host)
  const made = straight(await file.frame(0))
  await file.close()
  nits.forEach((due, n) => expect(Math.abs((made[4 * n]! * 203) / due - 1)).toBeLessThan(0.01))
})

describe('profiles that are written', () => {
  /** What a stranger shows on a screen of sRGB, of the patches that are solid. */
  async function shown(format: string, label: Label): Promise<{ rgb: number[][]; icc: boolean }> {
    const row = formatById(format)
    const reference = sourceOf(label)
    const opened = await openSource(reference, host)
    const plan = planPour(opened.facts, { ...newOutlet('o', row), depth: 8 }, null)
    await opened.close()
    const held = memoryFiles(row, plan.fileName)
    await pour({ source: reference, plan, target: held.target }, { host, pool })
    const [file] = held.files()
    const bytes = Buffer.from(await readAll(await host.openFile(file!)))
    const { icc } = await sharp(bytes).metadata()
    const { data, info } = await sharp(bytes).toColourspace('srgb').raw().toBuffer({ resolveWithObject: true })
    const rgb = patches.map((_, n) => {
      const i = info.channels * ((Math.floor(n / COLUMNS) * BLOCK + 4) * WIDTH + (n % COLUMNS) * BLOCK + 4)
      return [data[i]!, data[i + 1]!, data[i + 2]!]
    })
    return { rgb, icc: icc !== undefined }
  }

  test.each(['tiff-sequence', 'webp-sequence', 'webp-animated'])('a stranger shows %s as its label means', async id => {
    for (const label of LABELS.filter(each => ['Display P3', 'BT.2020', 'gamma 2.2'].includes(each.name))) {
      const { rgb, icc } = await shown(id, label)
      expect(icc, label.name).toBe(true)
      patches.forEach(([r, g, b, a], n) => {
        if (a !== 1) return
        to709(label.places, label.light([r, g, b])).forEach((v, c) => {
          const due = 255 * srgbCode(Math.min(1, Math.max(0, v)))
          // near black the curves are steep, and a code of 8 bits is much light
          const room = id.startsWith('webp') ? 8 : due < 24 ? 4 : 2.5
          expect(Math.abs(rgb[n]![c]! - due), `${id}, ${label.name}, ${n}, ${c}`).toBeLessThan(room)
        })
      })
    }
    expect((await shown(id, LABELS[0]!)).icc).toBe(false)
  })

  test('are read back as the tags they were made of, and the same tags are the same bytes', () => {
    for (const tags of [
      [12, 13, 0],
      [9, 14, 0],
      [1, 4, 0],
      [9, 8, 0],
      [12, 4, 0]
    ] as const) {
      const profile = writeProfile(tags)!
      expect(profile.length % 4).toBe(0)
      expect(writeProfile(tags)).toEqual(profile)
      const found = readProfile(profile)
      expect(found.tags![0]).toBe(tags[0])
      expect([13, 14].includes(tags[1]) ? 13 : tags[1]).toBe(found.tags![1])
    }
    for (const tags of [[9, 16, 0], [9, 18, 0], [11, 13, 0], null] as const) expect(writeProfile(tags)).toBeNull()
  })
})
