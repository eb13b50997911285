/** Profiles, gammas and primaries of pictures: written by a library that shares no code with Pour, and by hand. */
import fc from 'fast-check'
import sharp, { type Sharp } from 'sharp'
import { describe, expect, test } from 'vitest'
import { profileFinding, readGamma, readProfile } from '../../core/media/colour-profile'
import { takeIn } from '../../core/run/intake/intake'
import { encodePng } from '../../core/media/pictures/png/encode'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import { formatById } from '../../core/open/registry'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { preparedSpec, type FilesSpec } from '../../core/source/source'
import type { Frame } from '../../core/frame/frame'
import { crc32 } from 'node:zlib'
import { bytesFile, deliverable, noise, testHost, vectorFile, writeFilm } from './support'

const host = await testHost()
const frame = noise({ width: 32, height: 24, depth: 8, seed: 8, runs: 0 })
const raw = (): Sharp =>
  sharp(Buffer.from(frame.samples as Uint8Array), { raw: { width: 32, height: 24, channels: 4 } })

async function opened(
  bytes: Uint8Array,
  name: string
): Promise<{ spec: FilesSpec; facts: Awaited<ReturnType<typeof openSource>>['facts'] }> {
  const { found } = await takeIn([bytesFile(name, bytes)], host)
  const spec = {
    ...found[0]!.spec,
    id: name,
    interpretation: { ...found[0]!.spec.interpretation, alpha: { mode: 'straight' as const } }
  }
  const source = await openSource(spec, host)
  await source.close()
  return { spec, facts: source.facts }
}

const ids = ({ findings }: { findings: readonly { id: string }[] }): string[] => findings.map(({ id }) => id)

describe('profiles that a library wrote', () => {
  test.each([
    ['png', (of: Sharp) => of.png()],
    ['tiff', (of: Sharp) => of.tiff({ compression: 'lzw' })],
    ['webp', (of: Sharp) => of.webp({ lossless: true })]
  ] as const)('%s: Display P3 is told by its number, sRGB is nothing to tell', async (kind, as) => {
    const wide = new Uint8Array(await as(raw().withIccProfile('p3', { attach: true })).toBuffer())
    const { facts } = await opened(wide, `wide.${kind}`)
    expect(facts.tags?.slice(0, 2)).toEqual([12, 13])
    expect(facts.colour).toBe('Display P3')
    expect(ids(facts)).not.toContain('colour-profile')
    const plain = await opened(new Uint8Array(await as(raw().withIccProfile('srgb')).toBuffer()), `plain.${kind}`)
    expect(plain.facts.tags ?? null).toBeNull()
    expect(ids(plain.facts)).not.toContain('colour-profile')
  })

  test('brought to sRGB it is what the library makes of it, to a code or two', async () => {
    // opaque, and colours that sRGB holds: of others both clamp, each in its way
    const samples = new Uint8Array(4 * 64)
    for (let p = 0; p < 64; p++) samples.set([60 + 2 * (p % 8) * 8, 70 + 15 * (p >> 3), 120 - (p % 5) * 9, 255], 4 * p)
    const of = (): Sharp => sharp(Buffer.from(samples), { raw: { width: 8, height: 8, channels: 4 } })
    // codes are kept and only named: what is converted on the way out is taken back by the name
    const inP3 = await of().withIccProfile('p3', { attach: true }).png().toBuffer()
    const due = await sharp(inP3).toColourspace('srgb').raw().toBuffer()
    const { spec } = await opened(new Uint8Array(inP3), 'wide.png')
    const step = newStep('a', stepKindById('bring-to-srgb'), { from: 'p3' })
    const source = await openSource(preparedSpec(spec, [step], {}), host)
    const made = await source.frame(0)
    await source.close()
    for (let i = 0; i < due.length; i++) expect(Math.abs(made.samples[i]! / 257 - due[i]!)).toBeLessThan(2)
  })
})

/** A profile of RGB by curves and a matrix, as version 2 has it. */
function profile(
  primaries: readonly (readonly [number, number, number])[],
  gamma: number,
  extra: string[] = []
): Uint8Array {
  const tags: [string, Uint8Array][] = []
  const put = (name: string, length: number, fill: (view: DataView) => void): void => {
    const view = new DataView(new ArrayBuffer(length))
    fill(view)
    tags.push([name, new Uint8Array(view.buffer)])
  }
  const letters = (view: DataView, at: number, text: string): void =>
    [...text].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)))
  put('desc', 32, view => {
    letters(view, 0, 'desc')
    view.setUint32(8, 9)
    letters(view, 12, 'Greenery\0')
  })
  ;['rXYZ', 'gXYZ', 'bXYZ'].forEach((name, n) =>
    put(name, 20, view => {
      letters(view, 0, 'XYZ ')
      primaries[n]!.forEach((value, i) => view.setInt32(8 + 4 * i, Math.round(value * 65536)))
    })
  )
  for (const name of ['rTRC', 'gTRC', 'bTRC'])
    put(name, 14, view => {
      letters(view, 0, 'curv')
      view.setUint32(8, 1)
      view.setUint16(12, Math.round(gamma * 256))
    })
  for (const name of extra) put(name, 32, view => letters(view, 0, 'mft2'))
  const table = 132 + 12 * tags.length
  const size = table + tags.reduce((sum, [, data]) => sum + 32 * Math.ceil(data.length / 32), 0)
  const view = new DataView(new ArrayBuffer(size))
  letters(view, 16, 'RGB XYZ ')
  letters(view, 36, 'acsp')
  view.setUint32(128, tags.length)
  let at = table
  tags.forEach(([name, data], n) => {
    letters(view, 132 + 12 * n, name)
    view.setUint32(136 + 12 * n, at)
    view.setUint32(140 + 12 * n, data.length)
    new Uint8Array(view.buffer).set(data, at)
    at += 32 * Math.ceil(data.length / 32)
  })
  return new Uint8Array(view.buffer)
}

/** IEC 61966-2-5 under D50, as its published profiles have it. */
const OPRGB = [
  [0.60974, 0.31111, 0.01947],
  [0.20528, 0.62567, 0.06087],
  [0.14919, 0.06322, 0.74457]
] as const

describe('profiles by curve and matrix', () => {
  test('opRGB is told with what it is off by, and can be brought to sRGB', () => {
    const found = readProfile(profile(OPRGB, 563 / 256))
    expect(found).toMatchObject({ name: 'Greenery', tags: null, known: 'op-rgb' })
    expect(found.off!.most).toBeGreaterThan(8)
    const finding = profileFinding(found)!
    expect(finding.sentence).toMatch(/“Greenery”.*ΔE [\d.]+ on average and [\d.]+ at most/)
    expect(finding.mend).toMatchObject({ kind: 'bring-to-srgb', settings: { from: 'op-rgb' } })
  })

  test('one that also has tables is not read by its matrix, and says so', () => {
    const found = readProfile(profile(OPRGB, 2.2, ['A2B0']))
    expect(found).toMatchObject({ name: 'Greenery', tags: null, off: null })
    expect(profileFinding(found)!.sentence).toContain('how far that is off is not known')
  })

  test('whatever bytes come, the answer is one, and takes no time', () => {
    const good = profile(OPRGB, 2.2)
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { maxLength: 40 }),
        fc.nat(good.length),
        (changes, cut) => {
          const bytes = good.slice(0, cut)
          for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value
          const found = readProfile(bytes, 'x')
          if (found.off) expect(Number.isFinite(found.off.most)).toBe(true)
          expect(typeof found.name).toBe('string')
        }
      ),
      { numRuns: 300 }
    )
  })
})

describe('gamma and primaries', () => {
  const BT709 = [
    [0.64, 0.33],
    [0.3, 0.6],
    [0.15, 0.06]
  ] as const
  test.each([
    ['the usual gamma is that of sRGB', 0.45455, BT709, [1, 13, 0]],
    [
      'primaries alone',
      null,
      [
        [0.68, 0.32],
        [0.265, 0.69],
        [0.15, 0.06]
      ],
      [12, 13, 0]
    ],
    ['light itself', 1, null, [1, 8, 0]],
    ['another power', 0.55, null, null]
  ] as const)('%s', (_, gamma, primaries, tags) => {
    expect(readGamma(gamma, primaries)!.tags).toEqual(tags)
  })
  test('what there cannot be is nothing', () => {
    expect(readGamma(0, null)).toBeNull()
    expect(
      readGamma(null, [
        [0, 0],
        [0, 0],
        [0, 0]
      ])
    ).toBeNull()
  })

  test('codes that are light are light to whatever asks: twice the light is twice the value', async () => {
    const png = encodePng(
      host,
      { ...noise({ width: 8, height: 8, depth: 16, seed: 2, runs: 0 }), alpha: { mode: 'straight' } },
      { tags: [1, 8, 0] }
    )
    const { spec, facts } = await opened(png, 'light.png')
    expect(facts).toMatchObject({ colour: 'linear light' })
    expect(facts.tags ?? null).toBeNull()
    const source = await openSource(spec, host)
    const read: Frame = await source.frame(0)
    await source.close()
    expect(read.transfer).toBe('linear')
    // and through OpenEXR it is the number that it was
    const exr = formatById('exr-sequence')
    const form = deliverable(read, 1, {
      alpha: { mode: 'premultiplied', matte: '#000000' },
      transfer: 'linear',
      depth: 32
    })
    const { storedFrame } = await import('../../core/media/carriage/stored')
    const due = storedFrame(read, form, host.kernels)
    expect(exr.id).toBe('exr-sequence')
    for (let i = 0; i < 64; i += 4) {
      const a = read.samples[i + 3]! / 65535
      for (let c = 0; c < 3; c++) expect(due.samples[i + c]).toBeCloseTo((read.samples[i + c]! / 65535) * a, 4)
    }
  })
})

test('OpenEXR carries the primaries of what is poured, and they are read back', async () => {
  const light: Frame = {
    width: 8,
    height: 4,
    depth: 32,
    samples: new Float32Array(128).fill(0.5),
    alpha: { mode: 'premultiplied', matte: '#000000' },
    transfer: 'linear'
  }
  for (const [tags, said] of [
    [[12, 13, 0], 'linear light, Display P3'],
    [[9, 13, 0], 'linear light, BT.2020'],
    [null, 'linear light']
  ] as const) {
    const shape = deliverable(light, 1, { tags, rate: [25, 1] })
    const bytes = await formatById('exr-sequence').encode(host, light, shape, null)
    const { facts } = await opened(bytes, 'p.exr')
    expect(facts.colour).toBe(said)
    expect(facts.tags?.slice(0, 2) ?? null).toEqual(tags ? tags.slice(0, 2) : null)
  }
})

test('DPX and limited-range PNG say what their codes are: nothing is guessed, and what can be done is offered', async () => {
  const dpx = ((await vectorFile('seq-dpx16/pod.0001.dpx')) as { bytes: Uint8Array }).bytes
  const told = async (transfer: number): Promise<string[]> => {
    const bytes = dpx.slice()
    bytes[801] = transfer
    const { facts } = await opened(bytes, 'pod.0001.dpx')
    return facts.findings
      .filter(({ id }) => id === 'colour-transfer')
      .map(({ severity, mend }) => `${severity} ${mend ? mend.label : 'told'}`)
  }
  expect(await told(2)).toEqual(['note Take it as light'])
  expect(await told(1)).toEqual(['warning told'])
  expect(await told(3)).toEqual(['warning told'])
  expect(await told(6)).toEqual([])
  expect(await told(0)).toEqual([])

  const png = encodePng(host, frame, { tags: [12, 13, 0] })
  const at = Buffer.from(png).indexOf('cICP')
  expect(png[at + 7]).toBe(1)
  expect(ids((await opened(png, 'full.png')).facts)).not.toContain('limited-range-colour')
  const chunk = png.slice(at, at + 8)
  chunk[7] = 0
  const limited = png.slice()
  limited.set(chunk, at)
  new DataView(limited.buffer).setUint32(at + 8, crc32(chunk))
  const { facts } = await opened(limited, 'limited.png')
  expect(facts.findings.find(({ id }) => id === 'limited-range-colour')).toMatchObject({
    mend: { kind: 'bring-to-srgb', settings: { from: 'limited' } }
  })

  // the same picture as the packets of a film
  const film = async (tags: [number, number, number], range: number): Promise<string[]> => {
    const bytes = await writeFilm('quicktime-png', [frame], { tags })
    const place = Buffer.from(bytes).indexOf('cICP')
    expect(place).toBeGreaterThan(0)
    bytes[place + 7] = range
    new DataView(bytes.buffer).setUint32(place + 8, crc32(bytes.subarray(place, place + 8)))
    return ids((await opened(bytes, 'film.mov')).facts)
  }
  expect(await film([12, 13, 0], 1)).not.toContain('limited-range-colour')
  expect(await film([12, 13, 0], 0)).toContain('limited-range-colour')
})

test('a TIFF whose profile lies beyond its end is read, and told as one with a profile that cannot be', async () => {
  const bytes = new Uint8Array(
    await raw().withIccProfile('p3', { attach: true }).tiff({ compression: 'lzw' }).toBuffer()
  )
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const directory = view.getUint32(4, true)
  for (let n = 0, at = directory + 2; n < view.getUint16(directory, true); n++, at += 12)
    if (view.getUint16(at, true) === 34675) view.setUint32(at + 8, bytes.length - 4, true)
  const { facts } = await opened(bytes, 'short.tif')
  expect([facts.width, facts.height]).toEqual([32, 24])
  expect(ids(facts)).toContain('colour-profile')
})

test('AVIF under a wide profile is told to be brought to sRGB, and is; without one nothing is told', async () => {
  const raw = Buffer.from(Array.from({ length: 256 }, () => [200, 100, 50]).flat())
  const picture = sharp(raw, { raw: { width: 16, height: 16, channels: 3 } })
  const wide = await picture.clone().withIccProfile('p3').avif({ lossless: true }).toBuffer()
  const plain = await picture.clone().avif({ lossless: true }).toBuffer()

  for (const [bytes, told] of [
    [wide, true],
    [plain, false]
  ] as const) {
    const source = await openSource(
      specAsFound('a', 'a', 'avif-sequence', [bytesFile('a.avif', new Uint8Array(bytes))]),
      host
    )
    const finding = source.facts.findings.find(each => each.id === 'colour-brought')
    if (told) expect(finding?.sentence).toMatch(/brings it to sRGB/)
    else expect(finding).toBeUndefined()
    const { samples } = await source.frame(0)
    for (const [c, due] of [200, 100, 50].entries()) expect(Math.abs(samples[c]! - due)).toBeLessThanOrEqual(2)
    await source.close()
  }
})
