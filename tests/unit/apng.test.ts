import { deflateSync } from 'node:zlib'
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { concatenate } from '../../core/base/files/bytes'
import { chunk, SIGNATURE } from '../../core/media/pictures/png/chunks'
import { headerChunk } from '../../core/media/pictures/png/encode'
import { animationControl, frameControl, frameDataChunk, readFrames } from '../../core/media/pictures/apng/control'
import { formatById } from '../../core/open/registry'
import { memoryReader } from '../../core/base/files/file'
import { readPngInfo } from '../../core/media/pictures/png/header'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import {
  ALONE,
  anyNoise,
  bytesFile,
  damage,
  deliverable,
  firstDifference,
  noise,
  random,
  sharpFrame,
  survives,
  testHost,
  truth,
  vectorFile,
  writeFilm
} from './support'

const host = await testHost()
const apng = formatById('apng')

const open = async (bytes: Uint8Array) => apng.open('film', [bytesFile('film.png', bytes)], host)

test('an animation of another writer reads code for code, in any order', async () => {
  const source = await apng.open('apng8', [await vectorFile('apng8.png')], host)
  expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6, bitDepth: 8 })
  // its frames last 83 ms each, which is what it says, not the 12 frames a second it was meant to have
  expect(source.facts.rate).toEqual([1000, 83])
  for (const i of [0, 1, 2, 3, 4, 5, 2, 0, 5])
    expect(firstDifference((await source.frame(i)).samples, (await truth('straight8', i + 1)).samples)).toBeNull()
})

test('written animations read back code for code at both depths, with rate and plays', async () => {
  for (const depth of [8, 16] as const) {
    await fc.assert(
      fc.asyncProperty(anyNoise(depth), fc.integer({ min: 1, max: 4 }), async (first, count) => {
        const frames = Array.from({ length: count }, (_, i) =>
          noise({ width: first.width, height: first.height, depth, seed: i + 3 })
        )
        const bytes = await writeFilm('apng', frames, { rate: [24000, 1001], options: { plays: 3 } })
        for (const source of [
          await open(bytes),
          await apng.openForProof('film', [bytesFile('film.png', bytes)], host)
        ]) {
          expect(source.facts).toMatchObject({ frames: count, rate: [24000, 1001], plays: 3, bitDepth: depth })
          for (const [i, frame] of frames.entries()) expect((await source.frame(i)).samples).toEqual(frame.samples)
        }
      }),
      { numRuns: 20 }
    )
  }
})

test('its first picture is what a reader of still pictures sees', async () => {
  const frames = [1, 2].map(seed => noise({ width: 12, height: 9, depth: 8, seed }))
  expect((await sharpFrame(await writeFilm('apng', frames))).samples).toEqual(frames[0]!.samples)
})

test('rates that its 16-bit fractions cannot hold are refused in words', () => {
  expect(apng.refusesRate([24000, 1001])).toBeNull()
  expect(apng.refusesRate([100000, 1])).toMatch(/65535/)
})

/** One frame of a hand-made animation. */
interface Part {
  x: number
  y: number
  picture: Frame
  dispose: 0 | 1 | 2
  blend: 0 | 1
}

function handMade(width: number, height: number, parts: Part[]): Uint8Array {
  let sequence = 0
  const pieces = [SIGNATURE, headerChunk(width, height, 8, true), animationControl(parts.length, 0)]
  for (const [i, { x, y, picture, dispose, blend }] of parts.entries()) {
    pieces.push(
      frameControl(
        sequence++,
        {
          x,
          y,
          width: picture.width,
          height: picture.height,
          dispose: (['leave', 'clear', 'previous'] as const)[dispose],
          blend: blend ? 'over' : 'source'
        },
        [1, 10]
      )
    )
    const stride = picture.width * 4
    const rows = new Uint8Array((stride + 1) * picture.height)
    for (let row = 0; row < picture.height; row++)
      rows.set(picture.samples.subarray(row * stride, (row + 1) * stride), row * (stride + 1) + 1)
    const packed = deflateSync(rows)
    pieces.push(i === 0 ? chunk('IDAT', packed) : frameDataChunk(sequence++, packed))
  }
  return concatenate([...pieces, chunk('IEND')])
}

test('parts of the canvas are laid and disposed of as the standard says', async () => {
  const solid = (width: number, height: number, rgba: number[]): Frame => ({
    ...noise({ width, height, depth: 8 }),
    samples: Uint8Array.from({ length: width * height * 4 }, (_, i) => rgba[i % 4]!)
  })
  const bytes = handMade(4, 1, [
    { x: 0, y: 0, picture: solid(4, 1, [10, 20, 30, 255]), dispose: 0, blend: 0 },
    { x: 1, y: 0, picture: solid(2, 1, [200, 0, 0, 128]), dispose: 2, blend: 1 },
    { x: 0, y: 0, picture: solid(1, 1, [0, 0, 0, 0]), dispose: 1, blend: 0 },
    { x: 3, y: 0, picture: solid(1, 1, [1, 2, 3, 4]), dispose: 0, blend: 0 }
  ])
  const source = await open(bytes)
  const at = async (i: number): Promise<number[][]> => {
    const { samples } = await source.frame(i)
    return [0, 1, 2, 3].map(x => [...samples.slice(4 * x, 4 * x + 4)])
  }
  const base = [10, 20, 30, 255]
  const mixed = [105, 10, 15, 255]
  expect(await at(1)).toEqual([base, mixed, mixed, base])
  expect(await at(2)).toEqual([[0, 0, 0, 0], base, base, base])
  expect(await at(3)).toEqual([[0, 0, 0, 0], base, base, [1, 2, 3, 4]])
})

test('truncated and mutated animations end in one clear error each', async () => {
  const original = await writeFilm(
    'apng',
    [1, 2, 3].map(seed => noise({ width: 15, height: 8, depth: 8, seed }))
  )
  let refused = 0
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 2 ** 31 - 1 }), async seed => {
      const outcome = await survives(async () => {
        const source = await open(damage(original, seed))
        for (let i = 0; i < source.facts.frames; i++) await source.frame(i)
      })
      if (outcome === 'refused') refused++
    }),
    { numRuns: 1500 }
  )
  expect(refused).toBeGreaterThan(500)
})

test('the size promised before pouring counts every byte around the frames', async () => {
  const frames = [1, 2, 3].map(seed => noise({ width: 20, height: 20, depth: 8, seed }))
  const shape = deliverable(frames[0]!, 3, { options: { optimise: false } })
  const encoded = await Promise.all(frames.map(frame => apng.encode(host, frame, shape, ALONE)))
  expect(
    apng.wrappedSize(
      encoded.reduce((sum, e) => sum + e.length, 0),
      shape
    )
  ).toBe((await writeFilm('apng', frames, shape)).length)
})

/** A spot of colour on clear, at a place; with a haze over all where wanted. */
function spot(x: number, depth: 8 | 16, haze: number): Frame {
  const [width, height] = [40, 24]
  const full = depth === 8 ? 255 : 65535
  const samples = depth === 8 ? new Uint8Array(4 * width * height) : new Uint16Array(4 * width * height)
  for (let p = 0; p < width * height; p++) {
    const [u, v] = [p % width, Math.floor(p / width)]
    const distance = Math.hypot(u - x, v - 12)
    if (distance < 6)
      samples.set(
        [
          full,
          Math.round((full * u) / width),
          0,
          distance < 4 || haze === 255 ? full : Math.round((full * (6 - distance)) / 2)
        ],
        4 * p
      )
    // a solid ground has a texture that costs bytes wherever it is stored again
    else if (haze)
      samples.set(
        haze === 255 ? [(u * 37 + v * 91) % 251, (u * v * 13) % 241, (u * u + v) % 239, 255] : [9, 8, 7, haze],
        4 * p
      )
  }
  return { width, height, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

test.each([
  ['a spot that leaps over clear', 8, 0],
  ['a spot that leaps over clear, at 16 bits', 16, 0],
  ['a spot over a haze', 8, 20],
  ['a spot over a solid colour', 8, 255]
] as [string, 8 | 16, number][])('%s is stored as what changed, code for code, and smaller', async (_, depth, haze) => {
  const frames = [6, 8, 30, 30, 12, 33].map(x => spot(x, depth, haze))
  const [small, whole] = [
    await writeFilm('apng', frames),
    await writeFilm('apng', frames, { options: { optimise: false } })
  ]
  expect(small.length).toBeLessThan(whole.length)
  for (const bytes of [small, whole]) {
    const source = await open(bytes)
    for (const i of [0, 1, 2, 3, 4, 5, 3, 0, 5])
      expect(firstDifference((await source.frame(i)).samples, frames[i]!.samples)).toBeNull()
  }
})

test('over clear the canvas is wiped between leaps, over a solid colour what changed is laid over', async () => {
  const controls = async (haze: number): Promise<{ dispose: string[]; blend: string[]; area: number[] }> => {
    const bytes = await writeFilm(
      'apng',
      [6, 30, 8].map(x => spot(x, 8, haze))
    )
    const reader = memoryReader('a', bytes)
    const parts = await readFrames(reader, await readPngInfo(reader))
    return {
      dispose: parts.map(p => p.dispose),
      blend: parts.map(p => p.blend),
      area: parts.map(p => p.width * p.height)
    }
  }
  const clear = await controls(0)
  expect(clear.dispose).toEqual(['clear', 'clear', 'leave'])
  expect(clear.area.slice(1).every(area => area <= 13 * 13)).toBe(true)
  expect((await controls(255)).blend.slice(1)).toEqual(['over', 'over'])
})

test('any frames, with colour under clear pixels, come back code for code from what changed', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(8 as const, 16 as const),
      fc.integer({ min: 1, max: 12 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      async (depth, width, height, seed) => {
        const next = random(seed)
        const frames = [noise({ width, height, depth, seed })]
        for (let i = 1; i < 5; i++) {
          const samples = frames[i - 1]!.samples.slice()
          if (next() < 0.3) samples.fill(0)
          const other = noise({ width, height, depth, seed: seed + i }).samples
          const from = 4 * Math.floor(next() * width * height)
          samples.set(other.subarray(from, from + 4 * Math.ceil(next() * 12)), from)
          frames.push({ ...frames[0]!, samples })
        }
        const source = await open(await writeFilm('apng', frames))
        for (const [i, frame] of frames.entries())
          expect(firstDifference((await source.frame(i)).samples, frame.samples)).toBeNull()
      }
    ),
    { numRuns: 200 }
  )
})
