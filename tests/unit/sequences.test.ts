import { readdir } from 'node:fs/promises'
import path from 'node:path'
import fc from 'fast-check'
import parseExr from 'parse-exr'
import sharp, { type TiffOptions } from 'sharp'
import TgaLoader from 'tga-js'
import { describe, expect, test } from 'vitest'
import type { ByteReader } from '../../core/base/files/file'
import { wholeForm } from '../../core/media/formats/form'
import { encodePng } from '../../core/media/pictures/png/encode'
import { storedFrame } from '../../core/media/carriage/stored'
import { optionValues } from '../../core/base/settings/field'
import { fromHalf, roundToHalf, toHalf } from '../../core/media/pictures/exr/half'
import { huffmanPack, huffmanUnpack } from '../../core/media/pictures/exr/huffman'
import { packRuns, predict, unpackRuns, unpredict } from '../../core/media/pictures/exr/pack'
import { packPiz, unpackPiz } from '../../core/media/pictures/exr/piz'
import { lzw } from '../oracles/lzw'
import { unpackLzw } from '../../core/media/pictures/tiff/lzw'
import { formatById } from '../../core/open/registry'
import type { FormatId } from '../../core/open/rows'
import { withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { OPAQUE, STRAIGHT, type AlphaMode, type Depth, type Frame } from '../../core/frame/frame'
import { coded, withTransfer } from '../../core/frame/transfer'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import {
  ALONE,
  bytesFile,
  damage,
  deliverable,
  firstDifference,
  noise,
  random,
  survives,
  testHost,
  truth,
  vectorFile,
  vectors
} from './support'

const host = await testHost()
const { kernels } = host
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

async function write(id: FormatId, frame: Frame, options = {}): Promise<Uint8Array> {
  return formatById(id).encode(host, frame, deliverable(frame, 1, { options }), ALONE)
}

async function read(id: FormatId, bytes: Uint8Array): Promise<Frame> {
  return (await formatById(id).open('picture', [bytesFile(`picture.${formatById(id).extension}`, bytes)], host)).frame(
    0
  )
}

async function openVector(id: FormatId, folder: string) {
  const names = (await readdir(path.join(vectors, folder))).sort()
  return formatById(id).open(folder, await Promise.all(names.map(name => vectorFile(`${folder}/${name}`))), host)
}

test.each([
  ['tiff-sequence', 'seq-tiff16', 'straight16'],
  ['tiff-sequence', 'seq-tiff8-lzw', 'straight8'],
  ['tga-sequence', 'seq-tga', 'straight8'],
  ['dpx-sequence', 'seq-dpx16', 'straight16']
] as const)('%s: %s of another writer reads code for code', async (id, folder, name) => {
  const source = await openVector(id, folder)
  expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6 })
  for (const i of [0, 3, 5])
    expect(firstDifference((await source.frame(i)).samples, (await truth(name, i + 1)).samples)).toBeNull()
})

test(
  'OpenEXR of another writer, linear and premultiplied, gives the coded straight truth: float exactly, ' +
    'half within its precision',
  async () => {
    for (const [folder, bound] of [
      ['seq-exr-float-rle', 0],
      ['seq-exr-half-zip', 40]
    ] as const) {
      const source = await openVector('exr-sequence', folder)
      expect(source.facts).toMatchObject({
        width: 96,
        height: 64,
        frames: 6,
        bitDepth: 32,
        claim: { mode: 'premultiplied' }
      })
      for (const i of [0, 4]) {
        const frame = withDepth(withAlphaMode(coded(await source.frame(i), kernels), STRAIGHT, kernels), 16, kernels)
        const due = await truth('straight16', i + 1)
        let worst = 0
        for (let p = 0; p < due.samples.length; p++) {
          const a = due.samples[p - (p % 4) + 3]!
          // dividing by a small alpha magnifies the rounding of halves; nothing of it can be seen
          if (p % 4 === 3 || a > 6000) worst = Math.max(worst, Math.abs(frame.samples[p]! - due.samples[p]!))
        }
        expect(worst).toBeLessThanOrEqual(bound)
      }
    }
  }
)

test('sharp reads the TIFF that is written, at every depth and compression, and what sharp writes is read', async () => {
  for (const depth of [8, 16, 32] as Depth[]) {
    for (const compression of ['deflate', 'lzw', 'none']) {
      for (const alpha of [STRAIGHT, OPAQUE]) {
        const frame = noise({ width: 61, height: 37, depth, alpha, runs: 0.7 })
        const bytes = await write('tiff-sequence', frame, { compression })
        const meta = await sharp(bytes).metadata()
        expect([meta.width, meta.height, meta.channels]).toEqual([61, 37, alpha === OPAQUE ? 3 : 4])
        const raw = await sharp(bytes, { unlimited: true })
          .toColourspace(depth === 16 ? 'rgb16' : depth === 32 ? 'scrgb' : 'srgb')
          .raw({ depth: depth === 8 ? 'uchar' : depth === 16 ? 'ushort' : 'float' })
          .toBuffer()
        const own = new Uint8Array(raw)
        const found = depth === 8 ? own : depth === 16 ? new Uint16Array(own.buffer) : new Float32Array(own.buffer)
        const due = alpha === OPAQUE ? frame.samples.filter((_, i) => i % 4 !== 3) : frame.samples
        // sharp takes float through its own colour pipeline; there only the layout is compared
        if (depth !== 32) expect(firstDifference(found, due)).toBeNull()
        else expect(found.length).toBe(due.length)
        expect(firstDifference((await read('tiff-sequence', bytes)).samples, frame.samples)).toBeNull()
      }
    }
  }
  const frame = noise({ width: 50, height: 40, depth: 8, runs: 0.8 })
  for (const options of [
    { compression: 'lzw' },
    { compression: 'deflate', predictor: 'horizontal' },
    { compression: 'packbits' },
    { compression: 'none' },
    { compression: 'deflate', tile: true, tileWidth: 16, tileHeight: 16 },
    { compression: 'lzw', bigtiff: false }
  ] as TiffOptions[]) {
    const bytes = await sharp(Buffer.from(frame.samples.buffer), { raw: { width: 50, height: 40, channels: 4 } })
      .tiff(options)
      .toBuffer()
    expect(firstDifference((await read('tiff-sequence', bytes)).samples, frame.samples)).toBeNull()
  }
})

test('TIFF says how alpha is meant', async () => {
  for (const [alpha, mode] of [
    [STRAIGHT, 'straight'],
    [BLACK, 'premultiplied'],
    [OPAQUE, 'none']
  ] as const) {
    const bytes = await write('tiff-sequence', noise({ width: 8, height: 8, depth: 8, alpha }))
    const source = await formatById('tiff-sequence').open('t', [bytesFile('t.tif', bytes)], host)
    expect(source.facts.claim.mode).toBe(mode)
  }
})

test('LZW packs any bytes and unpacks to the same, and never runs away on damage', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e9 }),
      fc.integer({ min: 0, max: 20000 }),
      fc.constantFrom(2, 20, 256),
      (seed, length, range) => {
        const next = random(seed)
        const bytes = Uint8Array.from({ length }, () => next() * range)
        const packed = lzw(bytes)
        expect(firstDifference(unpackLzw(packed, length)!, bytes)).toBe(null)
        expect(firstDifference(host.kernels.lzw(bytes), packed)).toBe(null)
        const broken = damage(packed, seed)
        const unpacked = unpackLzw(broken, length)
        if (unpacked) expect(unpacked.length).toBe(length)
      }
    ),
    { numRuns: 200 }
  )
})

test('an independent reader reads the OpenEXR that is written, in every form', async () => {
  const noisy = withTransfer(
    withAlphaMode(withDepth(noise({ width: 45, height: 35, depth: 16, runs: 0.6 }), 32, kernels), BLACK, kernels),
    'linear',
    kernels
  )
  // few values keep PIZ's wavelet within 14 bits, many make it go beyond
  const few = { ...noisy, samples: (noisy.samples as Float32Array).map(value => Math.round(value * 8) / 8) }
  const forms = [noisy, few].flatMap(frame => ['half', 'float'].map(samples => ({ frame, samples })))
  for (const { frame, samples } of forms) {
    for (const compression of ['none', 'rle', 'zips', 'zip', 'piz']) {
      const due = samples === 'half' ? { ...frame, samples: roundToHalf(frame.samples as Float32Array) } : frame
      const bytes = await write('exr-sequence', due, { samples, compression })
      const parsed = parseExr(bytes.slice().buffer, 1015) as { data: Float32Array; width: number; height: number }
      expect([parsed.width, parsed.height]).toEqual([45, 35])
      // that reader hands rows from the bottom up
      const flipped = new Float32Array(parsed.data.length)
      for (let y = 0; y < 35; y++) flipped.set(parsed.data.subarray((34 - y) * 45 * 4, (35 - y) * 45 * 4), y * 45 * 4)
      expect(firstDifference(flipped, due.samples)).toBeNull()
      expect(firstDifference((await read('exr-sequence', bytes)).samples, due.samples)).toBeNull()
    }
  }
})

test('Huffman coding and PIZ give back what they packed, and never more than was asked from damaged data', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.integer({ min: 1, max: 3000 }),
      fc.constantFrom(1, 2, 40, 20000, 65536),
      (seed, length, range) => {
        const next = random(seed)
        const steep = next() < 0.5
        const symbols = Uint16Array.from({ length }, () => (steep ? next() ** 6 : next()) * range)
        const packed = huffmanPack(symbols)
        expect(firstDifference(huffmanUnpack(packed, length) ?? [], symbols)).toBeNull()
        const broken = huffmanUnpack(damage(packed, seed), length)
        if (broken && broken.length !== length) throw new Error('more than was asked for')
      }
    ),
    { numRuns: 300 }
  )
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 32 }),
      fc.constantFrom([1], [1, 1, 1, 1], [2, 2, 2], [1, 2]),
      fc.constantFrom(1, 300, 16384, 65536),
      (seed, width, lines, each, range) => {
        const next = random(seed)
        const values = Uint16Array.from(
          { length: width * lines * each.reduce((a, b) => a + b, 0) },
          () => next() * range
        )
        const raw = new Uint8Array(values.buffer)
        const packed = packPiz(raw, { each, width, lines })
        expect(firstDifference(unpackPiz(packed, raw.length, { each, width, lines }) ?? [], raw)).toBeNull()
        unpackPiz(damage(packed, seed), raw.length, { each, width, lines })
      }
    ),
    { numRuns: 300 }
  )
})

test('halves round to nearest, and every half is its own', () => {
  for (let h = 0; h < 65536; h++) {
    const value = fromHalf(h)
    if (Number.isNaN(value)) continue
    if (toHalf(value) !== h) throw new Error(`half ${h} came back as ${toHalf(value)}`)
  }
  expect(fromHalf(toHalf(1 + 2 ** -11))).toBe(1)
  expect(fromHalf(toHalf(1 + 3 * 2 ** -11))).toBe(1 + 2 ** -9)
  expect(fromHalf(toHalf(1e6))).toBe(Infinity)
  expect(fromHalf(toHalf(2 ** -25))).toBe(0)
  fc.assert(
    fc.property(fc.float({ noNaN: true, min: -65000, max: 65000 }), value => {
      const rounded = fromHalf(toHalf(value))
      const step = Math.max(2 ** -24, 2 ** (Math.floor(Math.log2(Math.abs(value) || 1)) - 10))
      expect(Math.abs(rounded - value)).toBeLessThanOrEqual(step / 2)
    })
  )
})

test('run lengths and differences undo each other', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 600 }), fc.boolean(), (bytes, flat) => {
      const data = flat ? bytes.map(b => b >> 6) : bytes
      expect(unpredict(predict(data))).toEqual(data)
      expect(unpackRuns(packRuns(data), data.length)).toEqual(data)
    }),
    { numRuns: 400 }
  )
})

test('an independent reader reads the TGA that is written', async () => {
  for (const alpha of [STRAIGHT, BLACK, OPAQUE]) {
    for (const runs of [true, false]) {
      const frame = noise({ width: 147, height: 21, depth: 8, alpha, runs: 0.8 })
      const bytes = await write('tga-sequence', frame, { runs })
      const loader = new TgaLoader()
      loader.load(bytes)
      const image = loader.getImageData({
        width: 147,
        height: 21,
        data: new Uint8ClampedArray(147 * 21 * 4)
      } as ImageData)
      expect(firstDifference(image.data, frame.samples)).toBeNull()
      const source = await formatById('tga-sequence').open('t', [bytesFile('t.tga', bytes)], host)
      expect(source.facts.claim.mode).toBe(alpha.mode)
      expect(firstDifference((await source.frame(0)).samples, frame.samples)).toBeNull()
    }
  }
})

test('going to linear light and back loses nothing of 16-bit codes, with alpha too', () => {
  const frame = noise({ width: 64, height: 64, depth: 16, runs: 0 })
  const back = withDepth(coded(withTransfer(frame, 'linear', kernels), kernels), 16, kernels)
  expect(firstDifference(back.samples, frame.samples)).toBeNull()
  const multiplied = withTransfer(withAlphaMode(withDepth(frame, 32, kernels), BLACK, kernels), 'linear', kernels)
  const straight = withDepth(withAlphaMode(coded(multiplied, kernels), STRAIGHT, kernels), 16, kernels)
  for (let i = 0; i < frame.samples.length; i += 4)
    if (frame.samples[i + 3]! > 1000)
      for (let c = 0; c < 4; c++)
        expect(Math.abs(straight.samples[i + c]! - frame.samples[i + c]!)).toBeLessThanOrEqual(1)
})

test('truncated and mutated TIFF, OpenEXR, TGA and DPX end in one clear error each, or in a picture', async () => {
  const float = withTransfer(
    withAlphaMode(withDepth(noise({ width: 20, height: 33, depth: 16 }), 32, kernels), BLACK, kernels),
    'linear',
    kernels
  )
  const dpx = ((await vectorFile('seq-dpx16/pod.0001.dpx')) as { bytes: Uint8Array }).bytes
  const originals: [FormatId, Uint8Array][] = [
    [
      'tiff-sequence',
      await write('tiff-sequence', noise({ width: 20, height: 15, depth: 16 }), { compression: 'lzw' })
    ],
    [
      'tiff-sequence',
      await write('tiff-sequence', noise({ width: 20, height: 15, depth: 8 }), { compression: 'deflate' })
    ],
    ['exr-sequence', await write('exr-sequence', float, { compression: 'zip' })],
    ['exr-sequence', await write('exr-sequence', float, { compression: 'rle', samples: 'float' })],
    ['exr-sequence', await write('exr-sequence', float, { compression: 'piz' })],
    ['tga-sequence', await write('tga-sequence', noise({ width: 20, height: 15, depth: 8 }))],
    ['dpx-sequence', dpx]
  ]
  let refused = 0
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 2 ** 31 - 1 }),
      fc.constantFrom(...originals),
      async (seed, [id, original]) => {
        if ((await survives(() => read(id, damage(original, seed)))) === 'refused') refused++
      }
    ),
    { numRuns: 3000 }
  )
  expect(refused).toBeGreaterThan(500)
})

test.each(['tiff-sequence', 'tga-sequence', 'webp-sequence', 'png-sequence'] as const)(
  'gaps of a %s are held where that is asked, and closed where not',
  async id => {
    const frames = [1, 2, 3].map(seed => noise({ width: 9, height: 7, depth: 8, seed }))
    const files = await Promise.all(
      frames.map(async (frame, i) => bytesFile(`f_${[1, 2, 5][i]}.x`, await write(id, frame, {})))
    )
    const spec = { ...specAsFound(`gaps ${id}`, 'gaps', id, files), numbers: [1, 2, 5] }
    const held = await openSource({ ...spec, interpretation: { ...spec.interpretation, holdGaps: true } }, host)
    expect(held.facts.frames).toBe(5)
    const [before, kept, after] = [await held.frame(1), await held.frame(3), await held.frame(4)]
    expect(firstDifference(kept.samples, before.samples)).toBeNull()
    expect(firstDifference(after.samples, before.samples)).not.toBeNull()
    await held.close()
    const closed = await openSource(spec, host)
    expect(closed.facts.frames).toBe(3)
    await closed.close()
  }
)

describe('measuring a picture', () => {
  const cases = ['exr-sequence', 'tiff-sequence', 'tga-sequence', 'png-sequence'].map(id => ({ id }))
  test.each(cases)('$id reads its header and no more', async ({ id }) => {
    const host = await testHost()
    const format = formatById(id)
    const { depth } = format.depths[0]!
    const picture = noise({ width: 800, height: 300, depth: depth === 32 ? 16 : depth, runs: 0 })
    const form = wholeForm(depth, STRAIGHT, { transfer: format.transfer ?? 'srgb' })
    const shape = deliverable(picture, 1, {
      ...form,
      options: optionValues(format.options, {}),
      alpha: format.alpha.straight.can ? STRAIGHT : { mode: 'premultiplied', matte: '#000000' }
    })
    const bytes = await format.encode(host, storedFrame(picture, shape, host.kernels), shape, null)
    let read = 0
    const reader: ByteReader = {
      name: `picture.${format.extension}`,
      size: bytes.length,
      read: (offset, length) => {
        const part = bytes.subarray(offset, offset + length)
        read += part.length
        return Promise.resolve(part)
      },
      close: () => Promise.resolve()
    }
    expect(bytes.length).toBeGreaterThan(300_000)
    expect(await format.measure(reader)).toMatchObject({ width: 800, height: 300 })
    expect(read).toBeLessThan(140_000)
  })
})

test('pictures asked for at once are each their own', async () => {
  const frames = [1, 2, 3, 4, 5].map(seed => noise({ width: 9, height: 7, depth: 8, seed }))
  const files = frames.map((frame, i) => bytesFile(`s_${i}.png`, encodePng(host, frame)))
  const source = await formatById('png-sequence').open('s', files, host)
  const made = await Promise.all([4, 0, 3, 1, 2].map(async n => [n, await source.frame(n)] as const))
  for (const [n, frame] of made) expect(firstDifference(frame.samples, frames[n]!.samples)).toBeNull()
  await source.close()
})
