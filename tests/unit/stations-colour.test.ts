/** Stations that are about colour: a screen of sRGB that heeds the file's label, and one that does not. */
import { describe, expect, test } from 'vitest'
import type { ColourTags } from '../../core/frame/colour-tags'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { withAlphaMode } from '../../core/frame/alpha'
import { flatScene } from '../../core/judge/stations/scene'
import { stationById } from '../../core/judge/stations/stations'
import { visit, type Visit } from '../../core/judge/stations/visit'
import type { SourceFacts } from '../../core/source/source'
import { testHost } from './support'

const { kernels } = await testHost()

/** Patches of straight colour with an alpha each. */
const patches = [
  [200, 100, 50, 255],
  [40, 180, 90, 128],
  [128, 128, 128, 255],
  [220, 200, 60, 60],
  [255, 255, 255, 255],
  [0, 0, 0, 0]
] as const

const frame: Frame = {
  width: patches.length,
  height: 2,
  depth: 8,
  samples: Uint8Array.from([...patches, ...patches].flat()),
  alpha: STRAIGHT,
  transfer: 'srgb'
}

const facts = (tags: ColourTags | null): SourceFacts =>
  ({ tags, frames: 1, rate: [25, 1], claim: { mode: 'straight', matte: null, says: '' } }) as unknown as SourceFacts

const at = (id: string, tags: ColourTags | null, shown = frame, due: AlphaMode = STRAIGHT): Promise<Visit> =>
  visit(
    {
      station: stationById(id)!,
      facts: facts(tags),
      due,
      index: 0,
      scene: flatScene('#000000'),
      frame: () => Promise.resolve(shown)
    },
    kernels
  )

const linear = (code: number): number => {
  const v = code / 255
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
}
const codeOf = (light: number): number => {
  const v = Math.min(1, Math.max(0, light))
  return 255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055)
}

/** XYZ of the light of three primaries that make D65's white, by the definition of CIE 1931. */
function xyzOf(places: readonly (readonly [number, number])[], light: readonly number[]): number[] {
  const columns = places.map(([x, y]) => [x / y, 1, (1 - x - y) / y])
  const white = [0.3127 / 0.329, 1, (1 - 0.3127 - 0.329) / 0.329]
  const amounts = solved(columns, white)
  return [0, 1, 2].map(n => columns.reduce((sum, column, c) => sum + column[n]! * amounts[c]! * light[c]!, 0))
}

/** What amounts of three columns make a sum, by Cramer's rule. */
function solved(columns: readonly (readonly number[])[], sum: readonly number[]): number[] {
  const det = (m: readonly (readonly number[])[]): number =>
    m[0]![0]! * (m[1]![1]! * m[2]![2]! - m[1]![2]! * m[2]![1]!) -
    m[1]![0]! * (m[0]![1]! * m[2]![2]! - m[0]![2]! * m[2]![1]!) +
    m[2]![0]! * (m[0]![1]! * m[1]![2]! - m[0]![2]! * m[1]![1]!)
  const whole = det(columns)
  return columns.map((_, c) => det(columns.map((column, n) => (n === c ? sum : column))) / whole)
}

const BT709 = [
  [0.64, 0.33],
  [0.3, 0.6],
  [0.15, 0.06]
] as const
const P3 = [
  [0.68, 0.32],
  [0.265, 0.69],
  [0.15, 0.06]
] as const
const BT2020 = [
  [0.708, 0.292],
  [0.17, 0.797],
  [0.131, 0.046]
] as const

/** Codes under some primaries as sRGB's codes. */
function asSrgb(places: readonly (readonly [number, number])[], rgb: readonly number[]): number[] {
  const xyz = xyzOf(places, rgb.map(linear))
  const columns = [0, 1, 2].map(c =>
    xyzOf(
      BT709,
      [0, 1, 2].map(n => (n === c ? 1 : 0))
    )
  )
  return solved(columns, xyz).map(codeOf)
}

describe('a screen that heeds labels', () => {
  test.each([
    ['Display P3', [12, 13, 0], P3],
    ['BT.2020', [9, 14, 0], BT2020]
  ] as const)('shows %s as the maths of its primaries say', async (name, tags, places) => {
    for (const [shown, due] of [
      [frame, STRAIGHT],
      [
        withAlphaMode(frame, { mode: 'premultiplied', matte: '#000000' }, kernels),
        { mode: 'premultiplied', matte: '#000000' }
      ]
    ] as [Frame, AlphaMode][]) {
      const { pixels, standing, sentence } = await at('heeds-colour', tags, shown, due)
      patches.forEach(([r, g, b, a], n) => {
        const meant = asSrgb(places, [r, g, b])
        // premultiplied codes of 8 bits hold straight colour to half a code divided by alpha
        const room = due.mode === 'straight' ? 1 : 2.5
        for (let c = 0; c < 3; c++) expect(Math.abs(pixels[4 * n + c]! - (meant[c]! * a) / 255)).toBeLessThan(room)
      })
      expect(standing).toBe('right')
      expect(sentence).toContain(name)
    }
  })
})

describe('a screen that ignores labels', () => {
  test('shows codes as they are, and is as far off as they are', async () => {
    const { pixels, standing, error, sentence } = await at('ignores-colour', [12, 13, 0])
    patches.forEach(([r, g, b, a], n) =>
      [r, g, b].forEach((v, c) => expect(Math.abs(pixels[4 * n + c]! - (v * a) / 255)).toBeLessThan(1))
    )
    const due = Math.max(
      ...patches.flatMap(([r, g, b, a]) => asSrgb(P3, [r, g, b]).map((v, c) => (Math.abs(v - [r, g, b][c]!) * a) / 255))
    )
    expect(standing).toBe('wrong')
    expect(Math.abs(error.codes - due)).toBeLessThan(1.5)
    expect(sentence).toMatch(/^Colours are up to \d+ codes off.*Display P3.*Bring colour to sRGB/)
  })

  test('PQ is shown far too dark', async () => {
    const white: Frame = { ...frame, samples: frame.samples.map((_, i) => (i % 4 === 3 ? 255 : 148)) }
    const [heeds, ignores] = [
      await at('heeds-colour', [9, 16, 9], white),
      await at('ignores-colour', [9, 16, 9], white)
    ]
    // the code 148 of PQ is 203 cd/m2, which is reference white (BT.2408); highlights draw it in a little
    expect(heeds.pixels[0]).toBeGreaterThan(240)
    expect(ignores.pixels[0]).toBe(148)
    expect(ignores.standing).toBe('wrong')
  })
})

test('without a label, or with one that says sRGB, both are right', async () => {
  for (const id of ['heeds-colour', 'ignores-colour'])
    for (const tags of [null, [1, 1, 1], [1, 13, 0], [2, 2, 2], [6, 6, 6]] as const)
      expect((await at(id, tags)).standing).toBe('right')
})

test('a label that is not drawn is said not to be, and never called right', async () => {
  for (const id of ['heeds-colour', 'ignores-colour'])
    for (const tags of [
      [11, 4, 0],
      [9, 8, 0]
    ] as const) {
      const { standing, sentence } = await at(id, tags)
      expect(standing).toBe('setting')
      expect(sentence).toContain('not drawn here')
    }
})

test('light under wide primaries is coded first, and then brought by its primaries alone', async () => {
  const samples = new Float32Array(4 * 2)
  samples.set([0.3, 0.5, 0.1, 1, 0.1, 0.05, 0.2, 0.5])
  const light: Frame = {
    width: 2,
    height: 1,
    depth: 32,
    samples,
    alpha: { mode: 'premultiplied', matte: '#000000' },
    transfer: 'linear'
  }
  const { pixels } = await at('heeds-colour', [12, 8, 0], light, { mode: 'premultiplied', matte: '#000000' })
  const columns = [0, 1, 2].map(c =>
    xyzOf(
      BT709,
      [0, 1, 2].map(n => (n === c ? 1 : 0))
    )
  )
  const due = solved(columns, xyzOf(P3, [0.3, 0.5, 0.1])).map(codeOf)
  for (let c = 0; c < 3; c++) expect(Math.abs(pixels[c]! - due[c]!)).toBeLessThan(1)
})
