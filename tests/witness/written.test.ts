/**
 * What Pour writes, seen by strangers: every format, depth, mode and setting that the table offers. Each delivery must
 * prove as well, since whatever the form offers has to.
 */
import { describe, expect, test } from 'vitest'
import { storedFrame } from '../../core/media/carriage/stored'
import type { Format } from '../../core/media/formats/format'
import { writtenFormats } from '../../core/open/registry'
import type { Rate } from '../../core/base/rate'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { withDepth } from '../../core/frame/depth'
import { bytesFile, widthFor, writeFilm } from '../unit/support'
import { codesOf, pictureTrack, see } from './library'
import { clip, COUNT } from './material'
import { colourBitsOf } from '../../core/job/outlet/outlet'
import { host, outletsOf, poured, sourceOf, type Poured } from './pour-all'
import { matrixOf, witnessed, type SeenFrame } from './seen'

/** Alpha below which a stranger that divides by it hands out no colour. */
const THIN = 0.01

/** Codes by which two decoders of one lossy stream may differ, of the delivered depth, and in the mean. */
const ROUNDING: Record<string, { colour: number; alpha: number; mean: number }> = {
  // whole numbers of twelve bits through transforms that round on their own ways; alpha is handed out at twelve bits
  prores: { colour: 192, alpha: 16, mean: 20 },
  jxl: { colour: 1, alpha: 1, mean: 0.2 },
  webm: { colour: 1, alpha: 0, mean: 0.1 },
  webp: { colour: 2, alpha: 0, mean: 0.6 },
  // between two colours or levels one rounds and the other cuts off; scaled chroma is divided in whole numbers by one
  texture: { colour: 4, alpha: 1, mean: 1 },
  // a transform in real numbers and one in whole ones: a code of luma and one of chroma, of ten bits or of eight
  vc3: { colour: 290, alpha: 0, mean: 33 },
  'vc3 of 8 bits': { colour: 1140, alpha: 0, mean: 132 },
  // whole numbers, as the same bits ask of both; twelve of them are handed out as sixteen by both
  wavelet: { colour: 0, alpha: 0, mean: 0 }
}

const kin = ({ id }: Format): string =>
  ['prores', 'texture', 'wavelet', 'vc3'].find(family => id.includes(family)) ?? id.split('-')[0]!

/** The largest difference of colour that can be seen and of alpha, and the mean of the first. */
function apart(found: SeenFrame['codes'], due: SeenFrame['codes'], hidden: boolean) {
  const worst = { colour: 0, alpha: 0, mean: 0 }
  let sum = 0
  for (let i = 0; i < due.length; i++) {
    const off = Math.abs(found[i]! - due[i]!)
    if (i % 4 === 3) worst.alpha = Math.max(worst.alpha, off)
    else if (hidden || due[i - (i % 4) + 3] !== 0) {
      worst.colour = Math.max(worst.colour, off)
      sum += off
    }
  }
  worst.mean = sum / due.length
  return worst
}

/** Holds a delivery against strangers: code for code where it is lossless, else against Pour's own reading of it. */
async function holds(format: Format, told: string, delivery: Poured, rate: Rate): Promise<void> {
  const { plan, report } = delivery
  const { frames, track, complaints, rounding = 0 } = await witnessed(format, delivery)
  expect(complaints, told).toEqual([])
  expect(frames.length, told).toBe(plan.frames.length)
  // a recipe may ask for a loss, and say so; nothing that is offered may break
  expect(`${told}: ${report.verdict}`).not.toContain('broken')
  const exact = format.lossless && format.exact?.(delivery.outlet.options) !== false
  if (exact) expect([told, report.file?.verdict]).toEqual([told, 'identical'])
  const source = await openSource(delivery.source, host)
  const files = delivery.files.filter(
    ({ name }) => !name.endsWith('.txt') && !plan.key?.deliverable.names.includes(name)
  )
  const spec = specAsFound(
    `own ${format.id} ${told}`,
    'own',
    format.id,
    files.map(({ name, bytes }) => bytesFile(name, bytes))
  )
  const own = await openSource(spec, host)
  for (const [n, seen] of frames.entries()) {
    const due = storedFrame(await source.frame(plan.frames[n]!), plan.deliverable, host.kernels)
    const place = `${told}, frame ${n + 1}`
    expect([place, seen.width, seen.height]).toEqual([place, due.width, due.height])
    if (exact) {
      // what is too thin to be divided says nothing
      if (rounding)
        for (let i = 3; i < due.samples.length; i += 4)
          if (due.samples[i]! < THIN) seen.codes.set(due.samples.subarray(i - 3, i) as never, i - 3)
      const { colour, alpha } = apart(seen.codes, due.samples, true)
      expect([place, colour > rounding ? colour : 0, alpha]).toEqual([place, 0, 0])
    } else {
      const narrow = ROUNDING[`${kin(format)} of ${colourBitsOf(format, delivery.outlet)} bits`]
      const bound = narrow ?? ROUNDING[kin(format)] ?? { colour: 0, alpha: 0, mean: 0 }
      const off = apart(seen.codes, (await own.frame(n)).samples, false)
      const within = off.colour <= bound.colour && off.alpha <= bound.alpha && off.mean <= bound.mean
      expect(within, `${place}: ${JSON.stringify(off)} beyond ${JSON.stringify(bound)}`).toBe(true)
    }
  }
  await source.close()
  await own.close()
  if (!track) return
  if (format.container) {
    expect([told, track.rate[0] / track.rate[1]]).toEqual([told, rate[0] / rate[1]])
    const seconds = track.pictures.map(
      ({ at }) => ((at - track.pictures[0]!.at) * track.timeBase[0]) / track.timeBase[1]
    )
    // Matroska counts in milliseconds
    const fine = format.container === 'matroska' ? 0.0005001 : 1e-9
    seconds.forEach((second, n) => expect(Math.abs(second - (n * rate[1]) / rate[0])).toBeLessThanOrEqual(fine))
  }
  // Y'CbCr names the matrix that it was made with
  if (track.pictures[0]!.planes.u && format.container)
    expect([told, matrixOf(track)]).toEqual([
      told,
      format.container === 'matroska' && plan.deliverable.height <= 576 ? 'bt601' : 'bt709'
    ])
}

const SHAPES = [
  [1, 1],
  [2, 1],
  [37, 23],
  [38, 24],
  [129, 71],
  [325, 183]
] as const

describe.each(writtenFormats.map(format => ({ id: format.id, format })))('$id', ({ format }) => {
  test.each(SHAPES)('%i x %i: each depth and mode is what strangers see', async (given, height) => {
    const width = widthFor(format, given)
    const source = await sourceOf(clip(width, height))
    const shapes = outletsOf(format).filter(({ told }) => /^\d+ bits/.test(told))
    // what differs by depth and mode differs at small sizes too; the large one tries many slices and blocks
    for (const { told, outlet } of width > 600 ? shapes.slice(-2) : shapes)
      await holds(format, told, await poured(source, outlet), [25, 1])
  })

  test.each([
    [37, 23],
    [38, 24]
  ])('%i x %i: each setting is what strangers see', async (width, height) => {
    const source = await sourceOf(clip(widthFor(format, width), height))
    for (const { told, outlet } of outletsOf(format).filter(({ told }) => !/^\d+ bits/.test(told)))
      await holds(format, told, await poured(source, outlet), [25, 1])
  })

  test('a source without alpha, at rates that are fractions', async () => {
    for (const rate of [
      [24000, 1001],
      [12, 1],
      [60, 1]
    ] as Rate[]) {
      const source = await sourceOf(clip(widthFor(format, 38), 24, false), rate)
      const opaque = outletsOf(format).find(({ told }) => told.endsWith('none')) ?? outletsOf(format)[0]!
      await holds(format, `${opaque.told} at ${rate.join('/')}`, await poured(source, opaque.outlet), rate)
    }
  })
})

test.each(['quicktime-prores-4444', 'matroska-ffv1', 'quicktime-animation', 'webm-vp9', 'apng'])(
  '%s at 1920 x 1080',
  async id => {
    const format = writtenFormats.find(format => format.id === id)!
    const source = await sourceOf(clip(1920, 1080).slice(0, 2))
    expect(COUNT).toBeGreaterThan(2)
    await holds(format, '1080p', await poured(source, outletsOf(format)[0]!.outlet), [25, 1])
  },
  240_000
)

test.each(
  [
    [1920, 1080],
    [1280, 720]
  ].flatMap(([width, height]) =>
    ['high-10', 'high', 'standard', 'light'].map(coding => [width!, height!, coding] as const)
  )
)(
  'VC-3 by its kinds for %i x %i, %s',
  async (width, height, coding) => {
    const id = coding === 'high' ? 'mxf-vc3' : 'quicktime-vc3'
    const format = writtenFormats.find(format => format.id === id)!
    const source = await sourceOf(clip(width, height, true, 1))
    const { outlet } = outletsOf(format)[0]!
    await holds(format, coding, await poured(source, { ...outlet, options: { ...outlet.options, coding } }), [25, 1])
  },
  240_000
)

describe('fields and the shape of pixels', () => {
  test.each(
    (['quicktime-prores-4444', 'mxf-prores-4444', 'quicktime-animation', 'matroska-ffv1', 'avi-png'] as const).flatMap(
      id => (['top-first', 'bottom-first'] as const).map(fields => [id, fields] as const)
    )
  )('%s, %s', async (id, fields) => {
    const format = writtenFormats.find(format => format.id === id)!
    const [width, height] = [62, 46]
    const frames = clip(width, height)
    const bytes = await writeFilm(
      id,
      frames.map(frame => withDepth(frame, format.depths.at(-1)!.depth, host.kernels)),
      {
        rate: [25, 1],
        fields,
        pixelAspect: [16, 11]
      }
    )
    const seen = see(bytes, `film.${format.extension}`)
    const track = pictureTrack(seen)
    expect(seen.complaints).toEqual([])
    expect(track.pictures.length).toBe(frames.length)
    const [across, down] = track.pictures[0]!.aspect[0] ? track.pictures[0]!.aspect : track.aspect
    expect(across / down).toBeCloseTo(16 / 11, 2)
    // 2 and 3: the first line stored and shown is that of the top field, or of the bottom one
    if (!id.startsWith('avi'))
      expect([2, 3, 4, 5].includes(track.fieldOrder) || track.pictures[0]!.interlaced).toBe(true)
    if (!id.includes('prores')) return
    // coded as two pictures, which decode to the lines they were made of
    for (const [n, picture] of track.pictures.entries()) {
      expect([picture.interlaced, picture.topFirst]).toEqual([true, fields === 'top-first'])
      const found = codesOf(picture, 16, { matrix: 'bt709' })
      let alpha = 0
      for (let i = 3; i < found.length; i += 4) alpha = Math.max(alpha, Math.abs(found[i]! - frames[n]!.samples[i]!))
      expect(alpha).toBeLessThanOrEqual(16)
    }
    const source = await openSource(specAsFound(`fields ${id} ${fields}`, 'f', id, [bytesFile('f', bytes)]), host)
    expect(source.facts.fields).toBe(fields)
    for (const [n, picture] of track.pictures.entries()) {
      const off = apart(codesOf(picture, 16, { matrix: 'bt709' }), (await source.frame(n)).samples, false)
      expect(off.colour).toBeLessThanOrEqual(ROUNDING.prores!.colour)
    }
    await source.close()
  })
})
