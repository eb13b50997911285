import fc from 'fast-check'
import { wholeForm } from '../../core/media/formats/form'
import { ALL_FORMATS, BufferSource, Input } from 'mediabunny'
import { describe, expect, test } from 'vitest'
import { decodeAlpha } from '../../core/media/codecs/prores/alpha'
import { parseFrame } from '../../core/media/codecs/prores/frame'
import { withinBudget } from '../../core/media/codecs/prores/rate'
import { formatById } from '../../core/open/registry'
import { withDepth } from '../../core/frame/depth'
import { OPAQUE, type Frame } from '../../core/frame/frame'
import { plainKernels } from '../oracles/kernels'
import { storedFrame } from '../../core/media/carriage/stored'
import { benchFrame } from '../../scripts/bench/clip'
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
  writeFilm
} from './support'

const host = await testHost()
const { kernels } = host
const ID = 'quicktime-prores-4444'
const format = formatById(ID)

/** Through the writer and back through the independent decoder. */
async function roundTrip(frames: Frame[], options = {}, id = ID): Promise<Frame[]> {
  const wide = frames.map(frame => withDepth(frame, 16, kernels))
  const source = await formatById(id).openForProof(
    'film',
    [bytesFile('film.mov', await writeFilm(id, wide, { options }))],
    host
  )
  const back: Frame[] = []
  for (let i = 0; i < frames.length; i++) back.push(await source.frame(i))
  await source.close()
  return back
}

/** PSNR in dB of colour over black, both straight. */
function psnr(a: Frame, b: Frame): number {
  let squares = 0
  for (let i = 0; i < a.samples.length; i += 4) {
    for (let c = 0; c < 3; c++)
      squares += ((a.samples[i + c]! * a.samples[i + 3]! - b.samples[i + c]! * b.samples[i + 3]!) / 65535) ** 2
  }
  return squares === 0 ? Infinity : 10 * Math.log10(65535 ** 2 / (squares / ((a.samples.length / 4) * 3)))
}

const alphaOf = (frame: Frame): Uint16Array =>
  Uint16Array.from({ length: frame.samples.length / 4 }, (_, i) => frame.samples[4 * i + 3]!)

test('alpha of 16 bits comes back code for code, whatever it is', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 16, max: 150 }),
      fc.integer({ min: 16, max: 40 }),
      fc.integer({ min: 1, max: 1e6 }),
      fc.constantFrom(0, 0.5, 0.97),
      async (width, height, seed, runs) => {
        const frame = noise({ width, height, depth: 16, seed, runs })
        const [back] = await roundTrip([frame])
        expect(firstDifference(alphaOf(back!), alphaOf(frame))).toBeNull()
      }
    ),
    { numRuns: 40 }
  )
})

test('alpha of 8 bits comes back as its rounded codes', async () => {
  const frame = noise({ width: 77, height: 35, depth: 16, runs: 0.6 })
  const [back] = await roundTrip([frame], { 'alpha-bits': '8' })
  const due = storedFrame(frame, wholeForm(16, frame.alpha, { alphaBits: 8 }), kernels)
  expect(firstDifference(alphaOf(back!), alphaOf(due))).toBeNull()
})

test('small differences of alpha, runs of every length, and steps around the turn of the code are kept', async () => {
  const next = random(7)
  const frame = noise({ width: 128, height: 32, depth: 16, runs: 0 })
  let alpha = 0
  for (let i = 0; i < 128 * 32;) {
    alpha = (alpha + Math.round((next() - 0.5) * 2 * [1, 64, 65, 130, 40000][Math.floor(next() * 5)]!) + 65536) & 65535
    for (let run = Math.floor(next() ** 4 * 300) + 1; run > 0 && i < 128 * 32; run--, i++)
      frame.samples[4 * i + 3] = alpha
  }
  const [back] = await roundTrip([frame])
  expect(firstDifference(alphaOf(back!), alphaOf(frame))).toBeNull()
})

test('without alpha there is no plane, and the film says so', async () => {
  const frame = { ...noise({ width: 32, height: 32, depth: 16, alpha: OPAQUE, runs: 0.9 }), alpha: OPAQUE }
  const source = await format.open('film', [bytesFile('film.mov', await writeFilm(ID, [frame]))], host)
  expect(source.facts.claim.mode).toBe('none')
  expect((await source.frame(0)).alpha).toEqual(OPAQUE)
})

test('the bench clip and the vectors keep at least 48 dB at the default quality', async () => {
  const clip = [0, 20].map(i => benchFrame(i, 960, 540))
  const back = await roundTrip(clip)
  clip.forEach((frame, i) => expect(psnr(frame, back[i]!)).toBeGreaterThan(48))
  const pod = await Promise.all([1, 3, 6].map(n => truth('straight16', n)))
  for (const id of [ID, 'quicktime-prores-4444-xq']) {
    const read = await roundTrip(pod, {}, id)
    pod.forEach((frame, i) => expect(psnr(frame, read[i]!)).toBeGreaterThan(48))
  }
})

test('grey ramps and saturated colours stay within one code of 10 bits', async () => {
  const [width, height] = [1024, 64]
  const samples = new Uint16Array(width * height * 4)
  const patches = [
    [65535, 0, 0],
    [0, 65535, 0],
    [0, 0, 65535],
    [65535, 65535, 0],
    [0, 65535, 65535],
    [65535, 0, 65535],
    [65535, 65535, 65535],
    [0, 0, 0]
  ]
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const colour = y < 32 ? Array<number>(3).fill(Math.round((x * 65535) / (width - 1))) : patches[x >> 7]!
      samples.set([...colour, 65535], 4 * (y * width + x))
    }
  }
  const frame: Frame = { width, height, depth: 16, samples, alpha: { mode: 'straight' }, transfer: 'srgb' }
  const [back] = await roundTrip([frame])
  let worst = 0
  for (let i = 0; i < samples.length; i++) {
    // patches border on each other, and no transform keeps a hard edge between saturated colours: they are judged away
    // from it
    const x = (i >> 2) % width
    const y = Math.floor(i / 4 / width)
    if (y >= 32 && (y < 40 || (x & 127) < 8 || (x & 127) >= 120)) continue
    if (y >= 24 && y < 32) continue
    worst = Math.max(worst, Math.abs(back!.samples[i]! - samples[i]!))
  }
  expect(worst / 64).toBeLessThanOrEqual(1)
})

test('sizes from 16x16 to 7680x4320, odd ones too, are written and read', async () => {
  for (const [width, height] of [
    [16, 16],
    [17, 16],
    [16, 31],
    [129, 47],
    [511, 33],
    [720, 486]
  ] as const) {
    const frame = noise({ width, height, depth: 16, runs: 0.98 })
    const [back] = await roundTrip([frame])
    expect([back!.width, back!.height]).toEqual([width, height])
    expect(firstDifference(alphaOf(back!), alphaOf(frame))).toBeNull()
  }
  const strip = noise({ width: 7680, height: 16, depth: 16, runs: 0.995 })
  const samples = new Uint16Array(7680 * 4320 * 4)
  for (let y = 0; y < 4320; y += 16) samples.set(strip.samples, y * 7680 * 4)
  const [back] = await roundTrip([{ ...strip, height: 4320, samples }])
  expect(back!.height).toBe(4320)
  expect(firstDifference(alphaOf(back!), alphaOf({ ...strip, height: 4320, samples }))).toBeNull()
})

describe('rate', () => {
  /** Full-frame content that no profile could hold at its finest. */
  function rich(width: number, height: number): Frame {
    const next = random(3)
    const samples = new Uint16Array(width * height * 4)
    for (let i = 0; i < samples.length; i += 4) {
      const [x, y] = [(i / 4) % width, Math.floor(i / 4 / width)]
      const base = 32768 + 14000 * Math.sin(x * 0.05) * Math.cos(y * 0.04)
      for (let c = 0; c < 3; c++) samples[i + c] = Math.max(0, Math.min(65535, base + (next() - 0.5) * 9000 + c * 1500))
      samples[i + 3] = 65535
    }
    return { width, height, depth: 16, samples, alpha: { mode: 'straight' }, transfer: 'srgb' }
  }

  test.each([
    [ID, 330e6],
    ['quicktime-prores-4444-xq', 500e6]
  ])('%s comes within 10 %% of its usual size on full-frame content', async (id, rate) => {
    const frame = rich(1920, 1080)
    const encoded = await formatById(id).encode(host, frame, deliverable(frame, 1), ALONE)
    // alpha, which is solid here, takes next to nothing
    const usual = (rate * 1001) / 30000 / 8
    expect(Math.abs(encoded.length / usual - 1)).toBeLessThan(0.1)
    const half = await formatById(id).encode(host, frame, deliverable(frame, 1, { options: { rate: 50 } }), ALONE)
    expect(Math.abs(half.length / (usual / 2) - 1)).toBeLessThan(0.1)
  })

  test('simple content takes what it needs and is never padded', async () => {
    const frame = { ...noise({ width: 1920, height: 1080, depth: 16, runs: 1 }) }
    expect((await format.encode(host, frame, deliverable(frame, 1), ALONE)).length).toBeLessThan(60_000)
  })

  test('a choice never goes beyond the finest or the coarsest index', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 200 }),
        fc.integer({ min: 1, max: 8 }),
        fc.integer({ min: 1, max: 5000 }),
        fc.integer({ min: 1, max: 1e6 }),
        (slices, finest, each, budget) => {
          const cost = (n: number, index: number): number => Math.ceil((each * (1 + (n % 5))) / index)
          const chosen = [...Array.from(withinBudget(budget, finest)(slices, cost))]
          expect(chosen).toHaveLength(slices)
          for (const index of chosen) {
            expect(index).toBeGreaterThanOrEqual(finest)
            expect(index).toBeLessThanOrEqual(224)
          }
          const total = chosen.reduce((sum, index, n) => sum + cost(n, index), 0)
          const least = chosen.reduce((sum, _, n) => sum + cost(n, 224), 0)
          if (least <= budget) expect(total).toBeLessThanOrEqual(budget * 1.1 + 5 * each)
        }
      ),
      { numRuns: 2000, examples: [[5, 1, 3, 19]] }
    )
  })
})

test('the kernels code what their plain twins code, but for a coefficient on the edge of rounding', () => {
  let alike = 0
  let all = 0
  for (const [seed, width, height] of [
    [1, 50, 35],
    [2, 128, 16],
    [3, 33, 49],
    [4, 160, 32]
  ] as const) {
    const frame = noise({ width, height, depth: 16, seed, runs: 0.9 })
    for (const alphaBits of [0, 8, 16] as const) {
      for (const index of [2, 9, 40, 150]) {
        const how = { alphaBits, fill: seed % 2 === 0, kr: 0.2126, kb: 0.0722 }
        const choose = (slices: number): Uint8Array => new Uint8Array(slices).fill(index)
        const [ours, twin] = [
          kernels.prores(frame.samples as Uint16Array, width, height, how, choose),
          plainKernels.prores(frame.samples as Uint16Array, width, height, how, choose)
        ]
        expect(ours.sizes.length).toBe(twin.sizes.length)
        let [a, b] = [0, 0]
        ours.sizes.forEach((size, n) => {
          const due = twin.sizes[n]!
          all++
          if (size === due && Buffer.compare(ours.data.subarray(a, a + size), twin.data.subarray(b, b + due)) === 0)
            alike++
          expect(Math.abs(size - due)).toBeLessThan(8)
          a += size
          b += due
        })
      }
    }
  }
  expect(alike / all).toBeGreaterThan(0.8)
})

test('what a slice is weighed at is what it comes to, whatever its content and however finely it is coded', () => {
  for (const [seed, runs, width, height] of [
    [1, 0, 50, 35],
    [2, 0.9, 128, 48],
    [3, 0.5, 33, 49],
    [4, 0.98, 16, 16]
  ] as const) {
    const { samples } = noise({ width, height, depth: 16, seed, runs })
    for (const index of [1, 2, 5, 40, 150, 224]) {
      const weighed: number[] = []
      const { sizes } = kernels.prores(
        samples as Uint16Array,
        width,
        height,
        { alphaBits: 0, fill: false, kr: 0.2126, kb: 0.0722 },
        (slices, cost) => {
          for (let n = 0; n < slices; n++) weighed.push(cost(n, index))
          return new Uint8Array(slices).fill(index)
        }
      )
      // six bytes are the slice's header
      expect(weighed.map(size => size + 6)).toEqual([...sizes])
    }
  }
})

test.each([
  [12, false, 48, 35],
  [10, false, 48, 35],
  [12, true, 48, 35],
  [10, true, 48, 36],
  [8, true, 35, 35],
  [8, true, 1, 1],
  [10, true, 18, 17]
])(
  "Y'CbCr becomes RGB as its twin makes it, within a code: %i bits, half %s, %i a row",
  (bits, half, stride, width) => {
    const next = random(5)
    const length = (half ? stride + 2 * Math.ceil(stride / 2) : 3 * stride) * 16
    const planes = Uint16Array.from({ length }, () => Math.floor(next() * 2 ** bits))
    const picture = { planes, stride, planeSize: stride * 16, width, height: 13, bits, half }
    const alpha = Uint16Array.from({ length: width * 13 }, () => Math.floor(next() * 65536))
    for (const a of [alpha, null]) {
      const [ours, twin] = [
        kernels.yccToRgba(picture, a, { kr: 0.2126, kb: 0.0722 }),
        plainKernels.yccToRgba(picture, a, { kr: 0.2126, kb: 0.0722 })
      ]
      ours.forEach((code, i) => expect(Math.abs(code - twin[i]!)).toBeLessThanOrEqual(1))
    }
  }
)

/**
 * Bounds of alpha in 16-bit codes: that writer kept 10 significant bits, truncated, and 8 of those for its 8-bit plane.
 */
test.each([
  ['prores4444-a16.mov', 'straight', 96],
  ['prores4444-a8.mov', 'straight', 290],
  ['prores4444xq-a16.mov', 'straight', 96],
  ['prores4444-noalpha.mov', 'none', 65535]
])('%s of another writer is read within its bounds', async (file, mode, alphaBound) => {
  const id = file.includes('xq') ? 'quicktime-prores-4444-xq' : ID
  const source = await formatById(id).open('film', [await vectorFile(file)], host)
  expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6, rate: [12, 1], bitDepth: 16 })
  for (const i of [0, 5, 2]) {
    const frame = await source.frame(i)
    const due = await truth('straight16', i + 1)
    let worst = 0
    let visible = 0
    let sum = 0
    for (let p = 0; p < due.samples.length; p += 4) {
      if (mode !== 'none') worst = Math.max(worst, Math.abs(frame.samples[p + 3]! - due.samples[p + 3]!))
      if (due.samples[p + 3] !== 65535) continue
      visible++
      for (let c = 0; c < 3; c++) sum += Math.abs(frame.samples[p + c]! - due.samples[p + c]!)
    }
    expect(frame.alpha.mode).toBe(mode)
    expect(worst).toBeLessThanOrEqual(alphaBound)
    // solid pixels differ by under 1 % on average: the coding's loss, and a matrix rightly guessed
    expect(sum / visible / 3 / 65535).toBeLessThan(0.01)
  }
  if (mode === 'none') expect(source.facts.claim.mode).toBe('none')
})

test('a film is tagged alike in the frame header and the film, and its times are exact', async () => {
  const frames = [1, 2, 3].map(seed => noise({ width: 48, height: 32, depth: 16, seed, runs: 0.9 }))
  const bytes = await writeFilm(ID, frames, { rate: [24000, 1001] })
  const input = new Input({ source: new BufferSource(bytes.buffer), formats: ALL_FORMATS })
  const track = (await input.getPrimaryVideoTrack())!
  expect(await track.computeDuration()).toBeCloseTo((3 * 1001) / 24000, 9)
  expect(await track.getInternalCodecId()).toBe('ap4h')
  expect(await track.getColorSpace()).toMatchObject({ primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' })
  const at = Buffer.from(bytes).indexOf('icpf') - 4
  expect(parseFrame(bytes.subarray(at), 'film', 'frame 1')).toMatchObject({
    width: 48,
    height: 32,
    alphaBits: 16,
    primaries: 1,
    matrix: 1,
    fields: null
  })
})

test('truncated and mutated frames end in one clear error each, or in a picture', async () => {
  const frame = noise({ width: 60, height: 40, depth: 16, runs: 0.9 })
  const film = await writeFilm(ID, [frame])
  let refused = 0
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 2 ** 31 - 1 }), fc.boolean(), async (seed, inFrame) => {
      const at = Buffer.from(film).indexOf('icpf') - 4
      const size = new DataView(film.buffer).getUint32(at)
      let bytes = damage(film, seed)
      if (inFrame) {
        bytes = film.slice()
        const broken = damage(film.subarray(at, at + size), seed)
        bytes.set(broken, at)
      }
      const outcome = await survives(async () => {
        const source = await format.open('film', [bytesFile('film.mov', bytes)], host)
        try {
          await source.frame(0)
        } finally {
          await source.close()
        }
      })
      if (outcome === 'refused') refused++
    }),
    { numRuns: 1200 }
  )
  expect(refused).toBeGreaterThan(300)
  expect(() => decodeAlpha(new Uint8Array(10), plainKernels, 'film.mov', 'frame 1')).toThrow(/film.mov, frame 1/)
})

test('alpha slices decode as their plain twin reads them, whole, cut short or damaged', () => {
  const bits = (values: readonly (readonly [value: number, count: number])[]): Uint8Array => {
    const digits = values.map(([value, count]) => value.toString(2).padStart(count, '0')).join('')
    return Uint8Array.from({ length: Math.ceil(digits.length / 8) }, (_, i) =>
      parseInt(digits.slice(8 * i, 8 * i + 8).padEnd(8, '0'), 2)
    )
  }
  type Code = [value: number, count: number][]
  const step = (wide: boolean) =>
    fc.oneof(
      fc.integer({ min: 0, max: wide ? 65535 : 255 }).map((v): Code => [
        [1, 1],
        [v, wide ? 16 : 8]
      ]),
      fc.integer({ min: 0, max: wide ? 127 : 15 }).map((v): Code => [
        [0, 1],
        [v, wide ? 7 : 4]
      ])
    )
  const runOf = (n: number): Code =>
    n === 0
      ? [[1, 1]]
      : n < 16
        ? [
            [0, 1],
            [n, 4]
          ]
        : [
            [0, 1],
            [0, 4],
            [n, 11]
          ]
  const counts = { good: 0, bad: 0 }
  fc.assert(
    fc.property(
      fc
        .boolean()
        .chain(wide =>
          fc.tuple(
            fc.constant(wide),
            fc.array(
              fc.tuple(
                step(wide),
                fc.oneof(fc.constant(0), fc.integer({ min: 0, max: 15 }), fc.integer({ min: 0, max: 700 }))
              ),
              { minLength: 1, maxLength: 60 }
            )
          )
        ),
      fc.integer({ min: 1, max: 8 }),
      fc.integer({ min: 0, max: 15 }),
      fc.integer({ min: 1, max: 16 }),
      fc.option(fc.tuple(fc.nat(), fc.integer({ min: 1, max: 255 }))),
      ([wide, parts], mbs, cut, height, harm) => {
        // as many pixels as the slice has, then perhaps a byte of it harmed and all behind it lost
        const code: Code = []
        let left = 256 * mbs
        for (let n = 0; left > 0; n++) {
          const [value, wanted] = parts[n % parts.length]!
          const run = Math.min(left - 1, n < parts.length ? wanted : 2047)
          code.push(...value, ...runOf(run))
          left -= 1 + run
        }
        let data = bits(code)
        if (harm) {
          data = data.slice(0, (harm[0] % data.length) + 1)
          data[data.length - 1]! ^= harm[1]
        }
        const width = 16 * mbs - cut
        const slices = [{ x: 0, y: 0, mbs, offset: 0, size: data.length }]
        const [due, found] = [plainKernels, kernels].map(k => k.proresAlpha(data, slices, width, height, wide ? 16 : 8))
        if (typeof due === 'number') counts.bad++
        else counts.good++
        expect(found).toEqual(due)
      }
    ),
    { numRuns: 400 }
  )
  expect(Math.min(counts.good, counts.bad)).toBeGreaterThan(20)
})

test('what was just encoded is read back as it will be from the file, and a damaged frame does not stop the next', async () => {
  const frames = [1, 2, 3].map(seed => noise({ width: 70, height: 34, depth: 16, seed, runs: 0.5 }))
  const wanted = deliverable(frames[0]!, frames.length)
  const encoded = await Promise.all(frames.map(frame => format.encode(host, frame, wanted, null)))
  const fromFile = await roundTrip(frames)
  const reader = await format.readBack!(wanted, host)
  // asked for all at once: each waits for its turn
  const read = await Promise.all(encoded.map(bytes => reader.frame(bytes)))
  for (const [i, frame] of read.entries()) expect(firstDifference(frame.samples, fromFile[i]!.samples)).toBeNull()
  for (let n = 0; n < 200; n++) {
    const bytes = damage(encoded[n % 3]!, n + 1)
    const settled = await reader.frame(bytes).then(
      frame => frame.samples.length,
      (error: unknown) => error
    )
    if (settled instanceof Error) expect(settled.message).toContain('the encoded frame')
    else expect(settled).toBe(4 * 70 * 34)
  }
  expect(firstDifference((await reader.frame(encoded[0]!)).samples, fromFile[0]!.samples)).toBeNull()
  await reader.close()
  // the file gives those very bytes, by which they are known again
  const source = await format.openForProof('film', [bytesFile('film.mov', await writeFilm(ID, frames))], host)
  for (const [i, bytes] of encoded.entries()) expect(firstDifference(await source.encoded!(i), bytes)).toBeNull()
  await source.close()
})
