import fc from 'fast-check'
import { wholeForm } from '../../core/media/formats/form'
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { ticksOf, timesOf } from '../../core/source/timing'
import { formatById } from '../../core/open/registry'
import type { FormatId } from '../../core/open/rows'
import type { Frame } from '../../core/frame/frame'
import { storedFrame } from '../../core/media/carriage/stored'
import type { Rate } from '../../core/base/rate'
import { withDepth } from '../../core/frame/depth'
import { moth } from '../../demo/scenes'
import {
  ALONE,
  bytesFile,
  damage,
  deliverable,
  firstDifference,
  noise,
  survives,
  testHost,
  truth,
  vectorFile,
  writeFilm
} from './support'

const host = await testHost()
const open = async (id: FormatId, bytes: Uint8Array) => formatById(id).open('film', [bytesFile('film', bytes)], host)

/** All frames of an animation as sharp composes them. */
async function pages(bytes: Uint8Array): Promise<{ frames: Uint8Array[]; delay: number[]; loop: number }> {
  const image = sharp(bytes, { pages: -1 })
  const meta = await image.metadata()
  const { data, info } = await image.ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  const height = meta.pageHeight ?? info.height
  const size = info.width * height * 4
  return {
    frames: Array.from(
      { length: data.length / size },
      (_, i) => new Uint8Array(data.subarray(i * size, (i + 1) * size))
    ),
    delay: meta.delay ?? [],
    loop: meta.loop ?? 0
  }
}

test('times never drift, and the rate they stand for is found again', () => {
  const rates: Rate[] = [
    [12, 1],
    [24, 1],
    [25, 1],
    [30, 1],
    [50, 1],
    [24000, 1001],
    [30000, 1001],
    [60, 1],
    [15, 1]
  ]
  for (const rate of rates) {
    for (const perSecond of [1000, 100]) {
      if (perSecond === 100 && rate[0] / rate[1] > 50) continue
      const ticks = Array.from({ length: 48 }, (_, i) => ticksOf(i, rate, perSecond))
      expect(Math.abs(ticks.reduce((a, b) => a + b, 0) / perSecond - (48 * rate[1]) / rate[0])).toBeLessThanOrEqual(
        0.5 / perSecond
      )
      const found = timesOf(ticks, perSecond)
      expect(found.findings).toEqual([])
      // two rates of the same rounded times over this length are told apart by nothing in the file
      expect(found.rate![0] / found.rate![1]).toBeCloseTo(rate[0] / rate[1], 1)
    }
  }
  expect(timesOf([10, 10, 50], 100)).toMatchObject({ rate: [10, 1], shown: [0, 1, 2, 2, 2, 2, 2] })
})

test.each([
  ['webp-animated', 'webp-lossless.webp', 0],
  ['webp-animated', 'webp-lossy.webp', 60],
  ['gif', 'binary.gif', 255]
] as const)('%s: %s of another writer is read as sharp reads it, in any order', async (id, file, colourBound) => {
  const vector = await vectorFile(file)
  const source = await formatById(id).open(file, [vector], host)
  expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6 })
  const theirs = await pages((vector as { bytes: Uint8Array }).bytes)
  for (const i of [0, 5, 2, 3, 1]) {
    const frame = await source.frame(i)
    const due = theirs.frames[i]!
    for (let p = 0; p < due.length; p += 4) {
      if (frame.samples[p + 3] !== due[p + 3])
        throw new Error(`frame ${i + 1}: alpha ${frame.samples[p + 3]} instead of ${due[p + 3]}`)
      if (due[p + 3] === 255) for (let c = 0; c < 3; c++) expect(frame.samples[p + c]).toBe(due[p + c])
    }
    if (colourBound === 0) expect(firstDifference(frame.samples, (await truth('straight8', i + 1)).samples)).toBeNull()
  }
})

test('a last frame that lasts as long as a frame was rounded to be leaves the rate as it is, whatever the length', () => {
  for (const rate of [
    [24, 1],
    [25, 1],
    [30, 1],
    [50, 1],
    [60, 1],
    [24000, 1001],
    [30000, 1001],
    [60000, 1001]
  ] as [number, number][])
    for (let frames = 4; frames <= 120; frames++) {
      const ticks = Array.from({ length: frames }, (_, i) => ticksOf(i, rate, 1000))
      ticks[frames - 1] = Math.round((1000 * rate[1]) / rate[0])
      const found = timesOf(ticks, 1000)
      // few frames cannot tell 24 from 23.976; the likelier is taken, and is within a thousandth
      expect(Math.abs(found.rate![0] / found.rate![1] / (rate[0] / rate[1]) - 1)).toBeLessThan(0.0011)
      expect(found.findings).toEqual([])
      if (rate[1] === 1) expect(found.rate).toEqual(rate)
    }
})

test('lossless WebP keeps every code, stills and animations, and sharp reads the same', async () => {
  const frames = [1, 2, 3].map(seed => noise({ width: 45, height: 31, depth: 8, seed, runs: 0.8 }))
  const bytes = await writeFilm('webp-animated', frames, { rate: [24, 1], options: { plays: 3 } })
  const source = await open('webp-animated', bytes)
  expect(source.facts).toMatchObject({ frames: 3, rate: [24, 1], plays: 3, claim: { mode: 'straight' } })
  for (const [i, frame] of frames.entries())
    expect(firstDifference((await source.frame(i)).samples, frame.samples)).toBeNull()
  const theirs = await pages(bytes)
  expect(theirs.frames).toHaveLength(3)
  expect(theirs.delay).toEqual([42, 41, 42])
  expect(theirs.loop).toBe(3)
  for (const [i, frame] of frames.entries()) {
    for (let p = 0; p < frame.samples.length; p += 4) {
      expect(theirs.frames[i]![p + 3]).toBe(frame.samples[p + 3])
      if (frame.samples[p + 3] === 255)
        for (let c = 0; c < 3; c++) expect(theirs.frames[i]![p + c]).toBe(frame.samples[p + c])
    }
  }
  const still = await formatById('webp-sequence').encode(host, frames[0]!, deliverable(frames[0]!, 1), ALONE)
  expect(firstDifference((await (await open('webp-sequence', still)).frame(0)).samples, frames[0]!.samples)).toBeNull()
})

test('lossy WebP keeps alpha exactly, near-lossless nearly', async () => {
  const frame = withDepth(moth(0.3), 8, host.kernels)
  for (const coding of ['lossy', 'near-lossless']) {
    const bytes = await formatById('webp-sequence').encode(
      host,
      frame,
      deliverable(frame, 1, { options: { coding, quality: 60 } }),
      ALONE
    )
    const back = await (await open('webp-sequence', bytes)).frame(0)
    for (let i = 3; i < frame.samples.length; i += 4)
      if (Math.abs(back.samples[i]! - frame.samples[i]!) > (coding === 'lossy' ? 0 : 8))
        throw new Error(`alpha ${back.samples[i]} instead of ${frame.samples[i]}`)
  }
})

test('a GIF holds what the cut leaves: alpha on or off, few colours exactly, disposal and times right', async () => {
  const flat = (shift: number): Frame => {
    const frame = noise({ width: 40, height: 24, depth: 8, seed: 3, runs: 0.95 })
    for (let i = 0; i < frame.samples.length; i += 4) {
      const n = (Math.floor(i / 4) + shift) % 40 < 20
      frame.samples.set(n ? [200, 40 + shift * 8, 16, 255] : [0, 0, 0, 0], i)
    }
    return frame
  }
  const frames = [0, 3, 7].map(flat)
  const bytes = await writeFilm('gif', frames, { rate: [12, 1], options: { dither: false, plays: 0 } })
  const theirs = await pages(bytes)
  expect(theirs.delay).toEqual([80, 90, 80])
  expect(theirs.loop).toBe(0)
  const source = await open('gif', bytes)
  expect(source.facts).toMatchObject({ frames: 3, rate: [12, 1], plays: 0 })
  for (const [i, frame] of frames.entries()) {
    const ours = await source.frame(i)
    for (let p = 0; p < frame.samples.length; p += 4) {
      expect([ours.samples[p + 3], theirs.frames[i]![p + 3]]).toEqual([frame.samples[p + 3], frame.samples[p + 3]])
      // palettes of five and six bits a channel move a colour by up to seven codes
      if (frame.samples[p + 3])
        for (let c = 0; c < 3; c++)
          expect(Math.abs(ours.samples[p + c]! - frame.samples[p + c]!)).toBeLessThanOrEqual(8)
    }
  }
})

test('soft edges are cut at the threshold, on the matte or in their own colour', () => {
  const frame: Frame = {
    width: 3,
    height: 1,
    depth: 8,
    samples: Uint8Array.from([100, 0, 0, 127, 100, 0, 0, 128, 100, 0, 0, 255]),
    alpha: { mode: 'straight' },
    transfer: 'srgb'
  }
  const form = wholeForm(8, frame.alpha, { alphaBits: 1 })
  expect([...storedFrame(frame, { ...form, cut: { threshold: 0.5, matte: null } }, host.kernels).samples]).toEqual([
    0, 0, 0, 0, 100, 0, 0, 255, 100, 0, 0, 255
  ])
  expect([...storedFrame(frame, { ...form, cut: { threshold: 0.5, matte: '#ffffff' } }, host.kernels).samples]).toEqual(
    [0, 0, 0, 0, 177, 127, 127, 255, 100, 0, 0, 255]
  )
})

test('dithering keeps alpha and stays near the colours', async () => {
  const frame = withDepth(moth(0.1), 8, host.kernels)
  const cut = storedFrame(
    frame,
    wholeForm(8, frame.alpha, { alphaBits: 1, cut: { threshold: 0.5, matte: null } }),
    host.kernels
  )
  const back = await (await open('gif', await writeFilm('gif', [cut], { options: { dither: true } }))).frame(0)
  let sum = 0
  let count = 0
  for (let i = 0; i < cut.samples.length; i += 4) {
    if (back.samples[i + 3] !== cut.samples[i + 3]) throw new Error('alpha changed')
    if (!cut.samples[i + 3]) continue
    count++
    sum += Math.abs(back.samples[i]! - cut.samples[i]!)
  }
  expect(sum / count).toBeLessThan(3)
})

test('a rate GIF cannot hold is refused in words', () => {
  expect(formatById('gif').refusesRate([60, 1])).toBeNull()
  expect(formatById('gif').refusesRate([120, 1])).toMatch(/hundredths/)
})

test('truncated and mutated WebP and GIF end in one clear error each, or in a picture', async () => {
  const frames = [1, 2].map(seed => noise({ width: 21, height: 17, depth: 8, seed, runs: 0.7 }))
  const originals: [FormatId, Uint8Array][] = [
    ['gif', await writeFilm('gif', frames)],
    ['gif', ((await vectorFile('binary.gif')) as { bytes: Uint8Array }).bytes],
    ['webp-animated', await writeFilm('webp-animated', frames)]
  ]
  let refused = 0
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 2 ** 31 - 1 }),
      fc.constantFrom(...originals),
      async (seed, [id, original]) => {
        const outcome = await survives(async () => {
          const source = await open(id, damage(original, seed))
          for (let i = 0; i < Math.min(4, source.facts.frames); i++) await source.frame(i)
        })
        if (outcome === 'refused') refused++
      }
    ),
    { numRuns: 1500 }
  )
  expect(refused).toBeGreaterThan(300)
})
