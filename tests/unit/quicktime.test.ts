import fc from 'fast-check'
import { ALL_FORMATS, BufferSource, EncodedPacketSink, Input } from 'mediabunny'
import { expect, test } from 'vitest'
import { formatById } from '../../core/open/registry'
import { decodeRle } from '../../core/media/codecs/animation/rle'
import { plainKernels } from '../oracles/kernels'
import { rleBound } from '../../core/frame/kernels/terms'
import { timeBase } from '../../core/media/containers/quicktime/write'
import { OPAQUE, type AlphaMode, type Frame } from '../../core/frame/frame'
import {
  anyNoise,
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
  writeFilm
} from './support'

const host = await testHost()
const animation = formatById('quicktime-animation')
const open = async (bytes: Uint8Array) => animation.open('film', [bytesFile('film.mov', bytes)], host)

test.each([
  ['rle32.mov', 'straight8', { mode: 'unknown' }],
  ['rle32-premultiplied.mov', 'premultiplied8', { mode: 'unknown' }],
  ['rle24.mov', 'on-white8', { mode: 'none' }]
])('%s of another writer reads code for code, in any order', async (file, name, claim) => {
  const source = await animation.open('film', [await vectorFile(file)], host)
  expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6, rate: [12, 1], bitDepth: 8, claim })
  for (const i of [0, 1, 2, 3, 4, 5, 3, 1, 4, 0]) {
    const due = (await truth(name, i + 1)).samples.slice()
    // the truth keeps the alpha that a film of 24 bits has lost
    if (claim.mode === 'none') for (let a = 3; a < due.length; a += 4) due[a] = 255
    expect(firstDifference((await source.frame(i)).samples, due)).toBeNull()
  }
})

test('written films read back code for code, at every small size', async () => {
  await fc.assert(
    fc.asyncProperty(anyNoise(8), fc.integer({ min: 1, max: 3 }), async (first, count) => {
      const frames = Array.from({ length: count }, (_, i) =>
        noise({ width: first.width, height: first.height, depth: 8, seed: i + 1, runs: 0.6 })
      )
      const source = await open(await writeFilm('quicktime-animation', frames))
      expect(source.facts.frames).toBe(count)
      for (const [i, frame] of frames.entries()) expect((await source.frame(i)).samples).toEqual(frame.samples)
    }),
    { numRuns: 60 }
  )
})

test('runs and literals of every length survive, and the size stays within its bound', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.integer({ min: 1, max: 300 }), fc.boolean()), { minLength: 1, maxLength: 8 }),
      stretches => {
        const words: number[] = []
        for (const [length, repeats] of stretches)
          for (let i = 0; i < length; i++) words.push(repeats ? 0x80402010 : (words.length * 2654435761) >>> 0)
        const pixels = new Uint8Array(Uint32Array.from(words).buffer)
        for (const kernels of [plainKernels, host.kernels]) {
          const encoded = kernels.rleEncode(pixels, null, words.length, 1, 32)
          expect(encoded.length).toBeLessThanOrEqual(rleBound(words.length, 1))
          expect(
            firstDifference(
              decodeRle(encoded, null, { width: words.length, height: 1, depth: 32 }, kernels, {
                file: 'test',
                place: 'frame 1'
              }),
              pixels
            )
          ).toBeNull()
        }
      }
    ),
    { numRuns: 400 }
  )
})

/** `frame` with some stretches of its pixels replaced. */
function changed(frame: Frame, seed: number): Frame {
  const other = noise({ width: frame.width, height: frame.height, depth: 8, seed, runs: 0.5, alpha: frame.alpha })
  const samples = frame.samples.slice()
  const next = random(seed)
  for (let n = 0; n < 4; n++) {
    const from = 4 * Math.floor(next() * (samples.length / 4))
    const stretch = other.samples.subarray(from, from + 4 * Math.floor(next() * 9))
    samples.set(stretch, from)
  }
  return { ...frame, samples }
}

test('frames that hold only what changed read back code for code, from any frame, at every key interval', async () => {
  await fc.assert(
    fc.asyncProperty(
      anyNoise(8),
      fc.integer({ min: 2, max: 7 }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.boolean(),
      async (first, interval, seed, solid) => {
        const frames = [
          solid ? noise({ width: first.width, height: first.height, depth: 8, seed, alpha: OPAQUE }) : first
        ]
        for (let i = 1; i < 6; i++) frames.push(i === 3 ? frames[2]! : changed(frames[i - 1]!, seed + i))
        const source = await open(
          await writeFilm('quicktime-animation', frames, { options: { 'key-interval': interval } })
        )
        for (const i of [0, 1, 2, 3, 4, 5, 2, 5, 0, 3])
          expect(firstDifference((await source.frame(i)).samples, frames[i]!.samples)).toBeNull()
      }
    ),
    { numRuns: 150 }
  )
})

test('both builds write the same bytes and name the same fault', () => {
  fc.assert(
    fc.property(
      anyNoise(8),
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.constantFrom(24 as const, 32 as const),
      fc.boolean(),
      (frame, seed, depth, builds) => {
        const { width, height } = frame
        const before = builds ? (changed(frame, seed).samples as Uint8Array) : null
        const [plain, wasm] = [plainKernels, host.kernels].map(kernels =>
          kernels.rleEncode(frame.samples as Uint8Array, before, width, height, depth)
        )
        expect(firstDifference(wasm!, plain!)).toBeNull()
        const hurt = damage(plain!, seed)
        const at = before ? 14 : 6
        const [a, b] = [plainKernels, host.kernels].map(kernels =>
          kernels.rleDecode(hurt, at, before, { line: 0, lines: height, width, height, depth })
        )
        expect(b).toEqual(a)
      }
    ),
    { numRuns: 600 }
  )
})

test('a held frame costs next to nothing, and key frames are listed for other readers', async () => {
  const frame = noise({ width: 64, height: 40, depth: 8, seed: 3 })
  const held = await writeFilm(
    'quicktime-animation',
    Array.from({ length: 8 }, () => frame),
    { options: { 'key-interval': 4 } }
  )
  const input = new Input({ source: new BufferSource(held.buffer), formats: ALL_FORMATS })
  const kinds: string[] = []
  const sizes: number[] = []
  for await (const packet of new EncodedPacketSink((await input.getPrimaryVideoTrack())!).packets()) {
    kinds.push(packet.type)
    sizes.push(packet.byteLength)
  }
  expect(kinds).toEqual(['key', 'delta', 'delta', 'delta', 'key', 'delta', 'delta', 'delta'])
  expect(sizes.filter((_, i) => i % 4 !== 0).every(size => size === 14)).toBe(true)
})

test('with its index first a film is laid out to play while it arrives, and other readers find the same in it', async () => {
  const frames = [1, 2, 3].map(seed => noise({ width: 21, height: 13, depth: 8, seed }))
  const first = await writeFilm('quicktime-animation', frames, { options: { 'fast-start': true } })
  const last = await writeFilm('quicktime-animation', frames)
  const at = (bytes: Uint8Array, type: string): number => Buffer.from(bytes).indexOf(type)
  expect(at(first, 'moov')).toBeLessThan(at(first, 'mdat'))
  expect(at(last, 'moov')).toBeGreaterThan(at(last, 'mdat'))
  for (const bytes of [first, last]) {
    const packets = new EncodedPacketSink(
      (await new Input({
        source: new BufferSource(bytes.buffer as ArrayBuffer),
        formats: ALL_FORMATS
      }).getPrimaryVideoTrack())!
    )
    let n = 0
    for await (const packet of packets.packets())
      expect(packet.data).toEqual(plainKernels.rleEncode(frames[n++]!.samples as Uint8Array, null, 21, 13, 32))
    expect(n).toBe(3)
    const source = await open(bytes)
    for (const [i, frame] of frames.entries()) expect((await source.frame(i)).samples).toEqual(frame.samples)
  }
  const shape = deliverable(frames[0]!, 3, { options: { 'fast-start': true, timecode: '01:00:00:00' } })
  const encoded = frames.reduce(
    (sum, frame) => sum + plainKernels.rleEncode(frame.samples as Uint8Array, null, 21, 13, 32).length,
    0
  )
  expect(animation.wrappedSize(encoded, shape)).toBe((await writeFilm('quicktime-animation', frames, shape)).length)
})

test.each([
  [[25, 1], '01:00:00:00'],
  [[24000, 1001], '10:59:59:23'],
  [[30000, 1001], '01:02:00;02'],
  [[60000, 1001], '23:59:59;59'],
  [[12, 1], '00:00:00:00']
] as [[number, number], string][])('at %j a film that starts at %s says so', async (rate, timecode) => {
  const frames = [1, 2].map(seed => noise({ width: 8, height: 6, depth: 8, seed }))
  for (const fast of [true, false]) {
    const bytes = await writeFilm('quicktime-animation', frames, { rate, options: { timecode, 'fast-start': fast } })
    const source = await open(bytes)
    expect(source.facts).toMatchObject({ timecode, rate, frames: 2 })
    expect((await source.frame(1)).samples).toEqual(frames[1]!.samples)
    const input = new Input({ source: new BufferSource(bytes.buffer), formats: ALL_FORMATS })
    expect(await (await input.getPrimaryVideoTrack())!.getInternalCodecId()).toBe('rle ')
  }
  expect((await open(await writeFilm('quicktime-animation', frames, { rate }))).facts.timecode).toBeNull()
})

test('a frame of 7680x4320 is written and read', async () => {
  const strip = noise({ width: 7680, height: 48, depth: 8, runs: 0.9 })
  const samples = new Uint8Array(7680 * 4320 * 4)
  for (let y = 0; y < 4320; y += 48)
    samples.set(strip.samples.subarray(0, Math.min(48, 4320 - y) * 7680 * 4), y * 7680 * 4)
  const source = await open(await writeFilm('quicktime-animation', [{ ...strip, height: 4320, samples }]))
  expect(Buffer.compare((await source.frame(0)).samples as Uint8Array, samples)).toBe(0)
})

test('an independent reader finds size, count, exact times and every frame of the film', async () => {
  const frames = [1, 2, 3, 4, 5].map(seed => noise({ width: 21, height: 13, depth: 8, seed }))
  for (const rate of [
    [12, 1],
    [24000, 1001],
    [25, 1],
    [30000, 1001],
    [60000, 1001],
    [1, 2],
    [4115, 226]
  ] as [number, number][]) {
    const bytes = await writeFilm('quicktime-animation', frames, { rate })
    const input = new Input({ source: new BufferSource(bytes.buffer), formats: ALL_FORMATS })
    const track = (await input.getPrimaryVideoTrack())!
    expect(await track.getInternalCodecId()).toBe('rle ')
    expect([await track.getCodedWidth(), await track.getCodedHeight()]).toEqual([21, 13])
    expect(await track.computeDuration()).toBeCloseTo((5 * rate[1]) / rate[0], 9)
    const sink = new EncodedPacketSink(track)
    let n = 0
    for await (const packet of sink.packets()) {
      expect(packet.timestamp).toBeCloseTo((n * rate[1]) / rate[0], 9)
      expect(packet.data).toEqual(plainKernels.rleEncode(frames[n]!.samples as Uint8Array, null, 21, 13, 32))
      n++
    }
    expect(n).toBe(5)
    expect((await open(bytes)).facts.rate).toEqual(rate)
  }
})

test('the alpha mode is declared in the graphics mode and read as declared', async () => {
  const modes: [AlphaMode, object][] = [
    [{ mode: 'straight' }, { mode: 'straight', matte: null }],
    [
      { mode: 'premultiplied', matte: '#000000' },
      { mode: 'premultiplied', matte: '#000000' }
    ],
    [
      { mode: 'premultiplied', matte: '#ffffff' },
      { mode: 'premultiplied', matte: '#ffffff' }
    ],
    [
      { mode: 'premultiplied', matte: '#3fae4b' },
      { mode: 'unknown', matte: '#3fae4b' }
    ]
  ]
  for (const [alpha, claim] of modes) {
    const bytes = await writeFilm('quicktime-animation', [noise({ width: 4, height: 4, depth: 8, alpha })])
    expect((await open(bytes)).facts.claim).toMatchObject(claim)
  }
})

test('colour tags, square pixels and progressive frames are written', async () => {
  const { facts } = await open(await writeFilm('quicktime-animation', [noise({ width: 4, height: 4, depth: 8 })]))
  expect(facts).toMatchObject({ colour: 'nclc 1-1-1', pixelAspect: [1, 1], findings: [] })
})

test('the time base keeps the fraction exact and the scale at 600 or more', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 100000 }), fc.integer({ min: 1, max: 5000 }), (n, d) => {
      const { scale, duration } = timeBase([n, d])
      expect(scale * d).toBe(duration * n)
      expect(scale).toBeGreaterThanOrEqual(600)
    })
  )
})

test('the size promised before pouring counts every byte around the frames', async () => {
  const frames = [1, 2, 3].map(seed => noise({ width: 20, height: 20, depth: 8, seed }))
  const shape = deliverable(frames[0]!, 3)
  const encoded = frames.map(frame => plainKernels.rleEncode(frame.samples as Uint8Array, null, 20, 20, 32).length)
  expect(
    animation.wrappedSize(
      encoded.reduce((a, b) => a + b, 0),
      shape
    )
  ).toBe((await writeFilm('quicktime-animation', frames)).length)
})

test('truncated and mutated films end in one clear error each', async () => {
  const own = await writeFilm(
    'quicktime-animation',
    [1, 2, 3].map(seed => noise({ width: 15, height: 8, depth: 8, seed }))
  )
  const foreign = await vectorFile('rle24.mov')
  const originals = [own, (foreign as { bytes: Uint8Array }).bytes]
  let refused = 0
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 2 ** 31 - 1 }),
      fc.constantFrom(...originals),
      async (seed, original) => {
        const outcome = await survives(async () => {
          const source = await open(damage(original, seed))
          for (let i = 0; i < Math.min(8, source.facts.frames); i++) await source.frame(i)
        })
        if (outcome === 'refused') refused++
      }
    ),
    { numRuns: 3000 }
  )
  expect(refused).toBeGreaterThan(500)
})

test('a film of another codec is refused with the codec named', async () => {
  const bytes = await writeFilm('quicktime-animation', [noise({ width: 4, height: 4, depth: 8, alpha: OPAQUE })])
  const at = Buffer.from(bytes).indexOf('stsd')
  bytes.set(Buffer.from('xyz1'), at + 16)
  await expect(open(bytes)).rejects.toThrow(/"xyz1".*ask for ProRes 4444/)
  bytes.set(Buffer.from('mjpb'), at + 16)
  await expect(open(bytes)).rejects.toThrow(/JPEG pictures in fields, which have no alpha \("mjpb"\)/)
})
