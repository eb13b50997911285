import { deflateSync } from 'node:zlib'
import fc from 'fast-check'
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { memoryReader } from '../../core/base/files/file'
import { concatenate } from '../../core/base/files/bytes'
import { chunk, SIGNATURE } from '../../core/media/pictures/png/chunks'
import { encodePng } from '../../core/media/pictures/png/encode'
import { readPngInfo } from '../../core/media/pictures/png/header'
import { formatById } from '../../core/open/registry'
import { OPAQUE, type Frame } from '../../core/frame/frame'
import { anyNoise, bytesFile, damage, noise, sharpFrame, survives, testHost } from './support'

const host = await testHost()
const png = formatById('png-sequence')

async function read(bytes: Uint8Array): Promise<Frame> {
  const source = await png.open('picture', [bytesFile('picture.png', bytes)], host)
  return source.frame(0)
}

test('sharp reads what is written, code for code, at 8 and 16 bits', async () => {
  for (const depth of [8, 16] as const) {
    await fc.assert(
      fc.asyncProperty(anyNoise(depth), async frame => {
        const bytes = await encodePng(host, frame)
        expect((await sharpFrame(bytes)).samples).toEqual(frame.samples)
        expect((await read(bytes)).samples).toEqual(frame.samples)
      }),
      { numRuns: 60 }
    )
  }
})

test('a frame without alpha becomes colour type 2', async () => {
  for (const depth of [8, 16] as const) {
    const frame = noise({ width: 31, height: 17, depth, alpha: OPAQUE })
    const bytes = await encodePng(host, frame)
    expect((await sharp(bytes).metadata()).channels).toBe(3)
    expect((await sharpFrame(bytes)).samples).toEqual(frame.samples)
    expect((await read(bytes)).alpha).toEqual(OPAQUE)
  }
})

test('the proof reads through a decoder that is not the writer', async () => {
  const frame = noise({ width: 33, height: 9, depth: 16 })
  const source = await png.openForProof('p', [bytesFile('p.png', await encodePng(host, frame))], host)
  expect((await source.frame(0)).samples).toEqual(frame.samples)
  expect(png.proofReader.independent).toBe(true)
})

test('a frame of 7680x4320 is written and read', async () => {
  const small = noise({ width: 7680, height: 64, depth: 8, runs: 0.95 })
  const samples = new Uint8Array(7680 * 4320 * 4)
  for (let y = 0; y < 4320; y += 64)
    samples.set(small.samples.subarray(0, Math.min(64, 4320 - y) * 7680 * 4), y * 7680 * 4)
  const bytes = await encodePng(host, { ...small, height: 4320, samples })
  const back = await sharpFrame(bytes)
  expect(back.height).toBe(4320)
  expect(Buffer.compare(back.samples as Uint8Array, samples)).toBe(0)
})

test('what sharp writes is read, interlaced and with a palette too', async () => {
  const frame = noise({ width: 37, height: 23, depth: 8, runs: 0.7 })
  const raw = (f: Frame) =>
    sharp(Buffer.from(f.samples.buffer), { raw: { width: f.width, height: f.height, channels: 4 } })
  for (const options of [
    {},
    { progressive: true },
    { palette: true, colours: 16 },
    { palette: true, colours: 16, progressive: true }
  ]) {
    const bytes = await raw(frame).png(options).toBuffer()
    expect((await read(bytes)).samples).toEqual((await sharpFrame(bytes)).samples)
  }
  const grey = await raw(frame).toColourspace('b-w').png({ progressive: true }).toBuffer()
  expect((await read(grey)).samples).toEqual((await sharpFrame(grey)).samples)
})

const CHANNELS: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }

/** A PNG made by hand: any colour type and depth, filter 0, Adam7 when asked, with tRNS. */
function handMade(
  [colourType, bitDepth]: readonly [number, number],
  [width, height]: readonly [number, number],
  { interlaced, transparent, seed }: { interlaced: boolean; transparent: boolean; seed: number }
): Uint8Array {
  const bits = CHANNELS[colourType]! * bitDepth
  const passes = interlaced
    ? [
        [0, 0, 8, 8],
        [4, 0, 8, 8],
        [0, 4, 4, 8],
        [2, 0, 4, 4],
        [0, 2, 2, 4],
        [1, 0, 2, 2],
        [0, 1, 1, 2]
      ]
    : [[0, 0, 1, 1]]
  const source = noise({ width: 64, height: 64, depth: 8, seed, runs: 0.2 }).samples
  const rows: number[] = []
  let n = 0
  for (const [x, y, sx, sy] of passes) {
    const w = Math.ceil((width - x!) / sx!)
    const h = Math.ceil((height - y!) / sy!)
    if (w <= 0 || h <= 0) continue
    for (let row = 0; row < h; row++) {
      rows.push(0)
      for (let b = 0; b < Math.ceil((w * bits) / 8); b++) rows.push(source[n++ % source.length]!)
    }
  }
  const header = new Uint8Array(13)
  new DataView(header.buffer).setUint32(0, width)
  new DataView(header.buffer).setUint32(4, height)
  header.set([bitDepth, colourType, 0, 0, interlaced ? 1 : 0], 8)
  const parts = [SIGNATURE, chunk('IHDR', header)]
  if (colourType === 3)
    parts.push(
      chunk(
        'PLTE',
        Uint8Array.from({ length: 3 * 2 ** bitDepth }, (_, i) => (i * 37) & 255)
      )
    )
  if (transparent)
    parts.push(
      chunk(
        'tRNS',
        colourType === 3
          ? Uint8Array.from({ length: 2 ** bitDepth }, (_, i) => (i * 91) & 255)
          : new Uint8Array(CHANNELS[colourType]! * 2).fill(0)
      )
    )
  const packed = deflateSync(Uint8Array.from(rows))
  // the picture data in two chunks, as writers are free to do
  parts.push(chunk('IDAT', packed.subarray(0, 5)), chunk('IDAT', packed.subarray(5)), chunk('IEND'))
  return concatenate(parts)
}

test('every colour type and depth, plain and interlaced, with and without transparency, is read as sharp reads it', async () => {
  const kinds: [number, number][] = [
    [0, 1],
    [0, 2],
    [0, 4],
    [0, 8],
    [0, 16],
    [2, 8],
    [2, 16],
    [3, 1],
    [3, 2],
    [3, 4],
    [3, 8],
    [4, 8],
    [4, 16],
    [6, 8],
    [6, 16]
  ]
  for (const [type, depth] of kinds) {
    for (const interlaced of [false, true]) {
      for (const transparent of type === 4 || type === 6 ? [false] : [false, true]) {
        for (const [width, height] of [
          [1, 1],
          [5, 3],
          [19, 12]
        ] as const) {
          const bytes = handMade([type, depth], [width, height], {
            interlaced,
            transparent,
            seed: type * 31 + depth + width
          })
          const ours = await read(bytes)
          const theirs = await sharpFrame(bytes)
          const name =
            `type ${type}, ${depth} bit, ` +
            `${width}x${height}${interlaced ? ', interlaced' : ''}${transparent ? ', tRNS' : ''}`
          expect(ours.depth, name).toBe(depth === 16 ? 16 : 8)
          expect([...ours.samples], name).toEqual([...theirs.samples])
        }
      }
    }
  }
})

test('colour tags are said in words', async () => {
  const info = await readPngInfo(memoryReader('p', await encodePng(host, noise({ width: 2, height: 2, depth: 8 }))))
  expect(info.colour).toBe('sRGB')
})

test('truncated and mutated files end in one clear error each, or in a picture', async () => {
  const originals = [
    await encodePng(host, noise({ width: 24, height: 13, depth: 16 })),
    handMade([3, 4], [19, 12], { interlaced: true, transparent: true, seed: 5 }),
    handMade([2, 8], [9, 9], { interlaced: false, transparent: true, seed: 6 })
  ]
  const outcomes = { read: 0, refused: 0 }
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 2 ** 31 - 1 }),
      fc.constantFrom(...originals),
      async (seed, original) => {
        const bytes = damage(original, seed)
        outcomes[await survives(() => read(bytes))]++
        outcomes[
          await survives(async () => (await png.openForProof('p', [bytesFile('p.png', bytes)], host)).frame(0))
        ]++
      }
    ),
    { numRuns: 1500 }
  )
  expect(outcomes.refused).toBeGreaterThan(1000)
})

test('a header that promises more pixels than the file can hold is refused before memory is taken', async () => {
  const header = new Uint8Array([0, 0, 0x40, 0, 0, 0, 0x20, 0, 8, 6, 0, 0, 0])
  const bytes = concatenate([
    SIGNATURE,
    chunk('IHDR', header),
    chunk('IDAT', deflateSync(new Uint8Array(100))),
    chunk('IEND')
  ])
  await expect(read(bytes)).rejects.toThrow(/cannot hold a picture of 16384x8192/)
})
