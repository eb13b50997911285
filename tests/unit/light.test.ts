/**
 * Light through steps: what is brighter than white, darker than black, or shines where alpha ends comes out as the
 * maths says, written apart from the core; and a step whose settings ask for nothing changes no bit.
 */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, prepared, preparedFacts, Step } from '../../core/prepare/preparation'
import type { Source, SourceFacts } from '../../core/source/source'
import { examine } from '../../core/judge/examine/examination'
import { lookAtStored } from '../../core/judge/examine/look'
import { brokenValues } from '../../core/frame/numbers'
import { noise, testHost } from './support'

const host = await testHost()
const { kernels } = host
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

const factsOf = (frame: Frame, frames: number): SourceFacts => ({
  name: 's',
  format: 'exr-sequence',
  kind: 'x',
  width: frame.width,
  height: frame.height,
  frames,
  rate: [24, 1],
  rateFrom: 'file',
  bitDepth: frame.depth,
  claim:
    frame.alpha.mode === 'premultiplied'
      ? { mode: 'premultiplied', matte: '#000000', says: '' }
      : { mode: frame.alpha.mode, matte: null, says: '' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 0,
  findings: []
})

const over = (...frames: Frame[]): Source => ({
  facts: factsOf(frames[0]!, frames.length),
  frame: index => Promise.resolve(frames[index]!),
  close: () => Promise.resolve()
})

const step = (kind: string, settings: Record<string, unknown> = {}): Step =>
  Step.parse(newStep(kind, stepKindById(kind), settings))

const made = (frames: Frame | Frame[], ...steps: Step[]): Promise<Frame> =>
  prepared(over(...(Array.isArray(frames) ? frames : [frames])), steps, new Map(), kernels).frame(0)

/** A float frame whose pixels are given one by one, premultiplied and linear as OpenEXR holds them. */
function light(
  width: number,
  height: number,
  at: (x: number, y: number) => readonly number[],
  more: Partial<Frame> = {}
): Frame {
  const samples = new Float32Array(4 * width * height)
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i += 4) samples.set(at(x, y), i)
  return { width, height, depth: 32, samples, alpha: BLACK, transfer: 'linear', ...more }
}

const bits = ({ samples }: Frame): Uint8Array =>
  new Uint8Array(samples.buffer.slice(samples.byteOffset, samples.byteOffset + samples.byteLength))

/** Sums of the premultiplied light of each channel, alpha last. */
function sums({ samples, alpha }: Frame): number[] {
  const total = [0, 0, 0, 0]
  for (let i = 0; i < samples.length; i += 4)
    for (let c = 0; c < 4; c++)
      total[c]! += c < 3 && alpha.mode === 'straight' ? samples[i + c]! * samples[i + 3]! : samples[i + c]!
  return total
}

/** A fire: bright in its middle, shining on far beyond its alpha; some of it below black, as filters leave it. */
const fire = (width = 64, height = 48): Frame =>
  light(width, height, (x, y) => {
    const far = Math.hypot((x - width / 2) / width, (y - height / 2) / height)
    const glow = 4 * Math.exp(-(far * far) / 0.02)
    const alpha = Math.max(0, Math.min(1, 1.4 - far * 6))
    return [glow, glow * 0.4, x === 3 && y === 3 ? -0.25 : glow * 0.05, alpha]
  })

/** Settings by which a step has nothing to do. */
const NEUTRAL: readonly (readonly [string, Record<string, unknown>])[] = [
  ['scale', { by: 100 }],
  ['scale', { by: 100, filter: 'nearest' }],
  ['fit', { width: 24, height: 18 }],
  ['fill', { width: 24, height: 18 }],
  ['stretch', { width: 24, height: 18 }],
  ['turn', { by: 0 }],
  ['crop', { box: null }],
  ['crop', { box: { x: 0, y: 0, width: 24, height: 18 } }],
  ['pad', {}],
  ['place', { width: 24, height: 18, corner: 'top-left', margin: 0 }],
  ['alpha-levels', { low: 0, high: 100, middle: 1 }],
  ['alpha-haze', { below: 0 }],
  ['alpha-specks', { size: 1 }],
  ['alpha-grow', { by: 0 }],
  ['alpha-soften', { by: 0 }],
  ['alpha-opacity', { to: 100 }],
  ['spill', { amount: 0 }],
  ['range', { from: 1, to: 100000 }],
  ['hold', { first: 0, last: 0 }],
  ['repeat', { times: 1 }],
  ['sound', { goes: 'along' }]
]

describe('settings that ask for nothing', () => {
  const odd = (frame: Frame): Frame => {
    const samples = frame.samples.slice() as Float32Array
    // hidden colour, no number, no end, alpha beyond its range
    samples.set([0.3, 7, -2, 0, NaN, 1, 2, 0.5, Infinity, 0, 0, 1, 0.5, 0.5, 0.5, 1.5], 0)
    return { ...frame, samples }
  }
  const floats = light(24, 18, (x, y) => [x / 5 - 1, y / 3, 4, x < 4 ? 0 : Math.min(1, y / 9)])
  const sources: [string, Frame][] = [
    ['8 bits', noise({ width: 24, height: 18, depth: 8, seed: 3 })],
    ['16 bits', noise({ width: 24, height: 18, depth: 16, seed: 4 })],
    ['16 bits, premultiplied with light', { ...noise({ width: 24, height: 18, depth: 16, seed: 5 }), alpha: BLACK }],
    ['straight floats', odd({ ...floats, alpha: STRAIGHT, transfer: 'srgb' })],
    ['straight linear floats', odd({ ...floats, alpha: STRAIGHT })],
    ['premultiplied linear floats', odd(floats)]
  ]
  test.each(sources)('%s: every bit stays, and so do the facts', async (_, frame) => {
    for (const [kind, settings] of NEUTRAL) {
      const steps = [step(kind, settings)]
      expect(bits(await made(frame, ...steps)), `${kind} ${JSON.stringify(settings)}`).toEqual(bits(frame))
      const { width, height, bitDepth, claim } = preparedFacts(factsOf(frame, 1), steps)
      expect({ width, height, bitDepth, claim }).toEqual({
        width: frame.width,
        height: frame.height,
        bitDepth: frame.depth,
        claim: factsOf(frame, 1).claim
      })
    }
    const all = NEUTRAL.map(([kind, settings]) => step(kind, settings))
    expect(bits(await made(frame, ...all))).toEqual(bits(frame))
  })
})

describe('light', () => {
  test('a linear checker at half its size is half as bright, whatever it stands for in codes', async () => {
    const checker = light(32, 32, (x, y) => ((x + y) % 2 ? [1, 1, 1, 1] : [0, 0, 0, 1]))
    for (const [kind, settings] of [
      ['scale', { by: 50 }],
      ['fit', { width: 16, height: 16 }],
      ['stretch', { width: 16, height: 16 }],
      ['fill', { width: 16, height: 16 }]
    ] as const) {
      const { samples, width } = await made(checker, step(kind, settings))
      for (const c of [0, 1, 2]) expect(samples[4 * (8 * width + 8) + c]).toBeCloseTo(0.5, 2)
    }
  })

  test('what is scaled keeps its light: peaks, shine beyond alpha, and what lies below black', async () => {
    const frame = fire()
    const before = sums(frame)
    for (const by of [50, 75, 150, 200]) {
      const scaled = await made(frame, step('scale', { by }))
      const share = (scaled.width * scaled.height) / (frame.width * frame.height)
      sums(scaled).forEach((sum, c) =>
        expect(Math.abs(sum / (before[c]! * share) - 1), `${by} %, ${c}`).toBeLessThan(0.02)
      )
      const peak = Math.max(...scaled.samples)
      expect(peak).toBeGreaterThan(3)
      expect(peak).toBeLessThanOrEqual(Math.max(...frame.samples))
      expect(scaled.transfer).toBe('linear')
    }
  })

  test('turned, it keeps its light as well, and nothing rings beyond its neighbours', async () => {
    const frame = fire(48, 48)
    const before = sums(frame)
    for (const by of [10, 33.3, 90, -45]) {
      const turned = await made(frame, step('turn', { by, whole: true }))
      sums(turned).forEach((sum, c) => expect(Math.abs(sum / before[c]! - 1), `${by}°, ${c}`).toBeLessThan(0.03))
      const alphas = turned.samples.filter((_, i) => i % 4 === 3)
      expect(Math.max(...alphas)).toBeLessThanOrEqual(1)
      expect(Math.min(...alphas)).toBeGreaterThanOrEqual(0)
    }
  })

  test('opacity dims all light alike, where alpha covers it and where it ends', async () => {
    const frame = fire()
    const half = await made(frame, step('alpha-opacity', { to: 50 }))
    frame.samples.forEach((value, i) => expect(half.samples[i]).toBeCloseTo(value / 2, 6))
    // and a straight picture keeps its colour, as it always did
    const straight = light(4, 1, x => [3, -1, 0.5, x / 4], { alpha: STRAIGHT })
    const thin = await made(straight, step('alpha-opacity', { to: 50 }))
    straight.samples.forEach((value, i) => expect(thin.samples[i]).toBe(i % 4 === 3 ? value / 2 : value))
  })

  test.each([
    ['alpha-levels', { low: 10, high: 90 }],
    ['alpha-grow', { by: 2 }],
    ['alpha-soften', { by: 3 }],
    ['alpha-threshold', {}],
    ['alpha-specks', {}],
    ['alpha-invert', {}]
  ] as const)('%s leaves the light that lies where alpha has ended', async (kind, settings) => {
    const frame = fire()
    const after = await made(frame, step(kind, settings))
    for (let i = 0; i < frame.samples.length; i += 4)
      if (frame.samples[i + 3] === 0)
        for (let c = 0; c < 3; c++) expect(after.samples[i + c]).toBe(frame.samples[i + c])
  })

  test('spill taken off a bright green leaves its brightness beyond white; laid on a colour, light adds to it', async () => {
    const frame = light(
      3,
      1,
      x =>
        [
          [2, 4, 2, 1],
          [0.5, 1, 0.5, 0],
          [0.2, 0.4, 0.2, 0.5]
        ][x]!
    )
    const clean = await made(frame, step('spill', { channel: 'green', amount: 100 }))
    // the light of a clear pixel is treated as any other
    for (const p of [0, 1, 2])
      expect(clean.samples[4 * p + 1]! - clean.samples[4 * p]!).toBeLessThan(0.2 * frame.samples[4 * p + 1]!)
    expect(clean.samples[1]).toBeGreaterThan(1.5)
    expect(clean.samples[5]).toBeGreaterThan(0.4)
    expect(clean.samples[7]).toBe(0)
    const laid = await made(frame, step('flatten', { colour: '#000000' }))
    for (let i = 0; i < frame.samples.length; i++)
      expect(laid.samples[i]).toBeCloseTo(i % 4 === 3 ? 1 : frame.samples[i]!, 4)
  })

  test('a key before a screen keeps what is brighter than white', async () => {
    const frame = light(32, 16, x => (x < 16 ? [0.02, 0.5, 0.05, 1] : [6, 5, 4, 1]), { alpha: { mode: 'none' } })
    for (const edges of ['hue', 'beside']) {
      const keyed = await made(frame, step('chroma-key', { screen: '#26bc3f', edges, light: 'even' }))
      const at = 4 * (8 * 32 + 28)
      expect(keyed.samples[at]! * (keyed.alpha.mode === 'straight' ? keyed.samples[at + 3]! : 1)).toBeGreaterThan(5)
      expect(keyed.samples[4 * (8 * 32 + 4) + 3]).toBe(0)
    }
  })

  test('frames mixed in time are mixed as light', async () => {
    const [a, b] = [light(2, 1, () => [4, 0, -1, 0]), light(2, 1, () => [0, 2, 1, 1])]
    const mixed = await prepared(over(a, b, a, b), [step('close-loop', { over: 1 })], new Map(), kernels).frame(0)
    // of the last two, half and half
    const due = [...a.samples].map((value, i) => (value + b.samples[i]!) / 2)
    due.forEach((value, i) => expect(mixed.samples[i]).toBeCloseTo(value, 5))
  })

  test('integer pictures that shine beyond their alpha are scaled as light too', async () => {
    const samples = new Uint16Array(4 * 32 * 32)
    for (let y = 0, i = 0; y < 32; y++)
      for (let x = 0; x < 32; x++, i += 4) {
        const far = Math.hypot(x - 15.5, y - 15.5)
        const glow = Math.max(0, 60000 - far * 3600)
        samples.set([glow, glow * 0.7, 0, far < 5 ? 65535 : 0], i)
      }
    const frame: Frame = { width: 32, height: 32, depth: 16, samples, alpha: BLACK, transfer: 'srgb' }
    const half = await made(frame, step('scale', { by: 50 }))
    expect(half.alpha).toEqual(BLACK)
    sums(half).forEach((sum, c) => c !== 2 && expect(Math.abs((4 * sum) / sums(frame)[c]! - 1)).toBeLessThan(0.02))
  })
})

test('a pull within alpha that was there leaves clear what was clear', async () => {
  fc.assert(
    await fc.asyncProperty(
      fc.constantFrom('flat-background', 'shadow-to-alpha', 'luma-key'),
      fc.integer({ min: 0, max: 255 }),
      async (kind, alpha) => {
        const samples = new Uint8Array(4 * 16)
        for (let p = 0; p < 16; p++) samples.set([p * 16, 90, 30, p % 2 ? alpha : 0], 4 * p)
        const frame: Frame = { width: 16, height: 1, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
        const after = await made(frame, step(kind))
        const full = after.depth === 8 ? 255 : 65535
        for (let p = 0; p < 16; p++)
          expect(after.samples[4 * p + 3]! / full).toBeLessThanOrEqual(samples[4 * p + 3]! / 255 + 1e-4)
      }
    )
  )
})

describe('values that are none', () => {
  const odd = light(8, 4, (x, y) =>
    x === 2 && y === 1
      ? [NaN, 1, 2, 0.5]
      : x === 5 && y === 2
        ? [Infinity, 1, 1, 1]
        : x === 6
          ? [1, 1, 1, 1.5]
          : [1, 0.5, 0.25, 1]
  )

  test('are counted with their place, apart from alpha beyond its range', () => {
    expect(brokenValues(odd)).toEqual({ broken: 2, first: { x: 2, y: 1 }, beyond: 4, least: 0, most: 1.5 })
    expect(brokenValues(light(2, 2, () => [-3, 70000, 0, 1]))).toBeNull()
    // sums that overflow are no broken values
    expect(brokenValues(light(1, 1, () => [3e38, 3e38, 3e38, 1]))).toBeNull()
    expect(brokenValues(noise({ width: 4, height: 4, depth: 16, seed: 1 }))).toBeNull()
  })

  test('are mended from around or with 0, and nothing else is touched', async () => {
    for (const [from, due] of [
      ['around', 1],
      ['zero', 0]
    ] as const) {
      const after = await made(odd, step('mend-values', { from }))
      expect(brokenValues(after)).toBeNull()
      odd.samples.forEach((was, i) => {
        const [x, y] = [(i >> 2) % 8, Math.floor((i >> 2) / 8)]
        const wrong = !Number.isFinite(was) || (i % 4 === 3 && was > 1)
        if (!wrong) expect(after.samples[i], `${x}, ${y}`).toBe(was)
        else expect(after.samples[i]).toBe(i % 4 === 3 ? 1 : due)
      })
    }
    const kept = await made(odd, step('mend-values', { holds: false }))
    expect(brokenValues(kept)).toMatchObject({ broken: 0, beyond: 4 })
    // a picture of nothing but such values becomes 0
    const none = await made(
      light(12, 12, () => [NaN, NaN, NaN, NaN]),
      step('mend-values')
    )
    expect(none.samples.every(value => value === 0)).toBe(true)
  })

  test('are found in a clip, offered two ways on, and light beyond alpha is no sign of straight colour', () => {
    const seen = [odd, odd].map((frame, n) => ({ frame: n + 1, look: lookAtStored(frame, kernels) }))
    const { findings } = examine(seen, factsOf(odd, 2))
    const broken = findings.find(({ id }) => id === 'broken-values')!
    expect(broken).toMatchObject({
      severity: 'fault',
      frames: [1, 2],
      mend: { kind: 'mend-values' },
      orElse: { kind: 'mend-values' }
    })
    expect(broken.sentence).toContain('4 pixels in 2 frames')
    expect(broken.sentence).toContain('frame 1 at 2, 1')
    expect(findings.find(({ id }) => id === 'alpha-beyond-range')!.sentence).toContain('from 0 to 1.5')
    const thin = light(64, 48, x => (x < 24 ? [0, 0, 0, 0] : [0.5, 0.5, 0.5, x < 32 ? 0 : 0.05]))
    const { alpha } = examine([{ frame: 1, look: lookAtStored(thin, kernels) }], factsOf(thin, 1))
    expect(alpha).toMatchObject({ mode: 'premultiplied', matte: '#000000' })
    expect(alpha.evidence.sentence).toContain('Light runs on beyond alpha')
  })
})

describe('filters', () => {
  const edge = (depth: 16 | 32): Frame => {
    const full = depth === 16 ? 65535 : 1
    const samples = depth === 16 ? new Uint16Array(4 * 40 * 30) : new Float32Array(4 * 40 * 30)
    for (let y = 0, i = 0; y < 30; y++)
      for (let x = 0; x < 40; x++, i += 4)
        samples.set([0.8 * full, 0.3 * full, 0, x < 17 ? 0.6 * full : x < 30 ? 0 : full], i)
    return { width: 40, height: 30, depth, samples, alpha: STRAIGHT, transfer: 'srgb' } as Frame
  }
  test.each([
    ['lanczos', 30],
    ['lanczos', 50],
    ['lanczos', 150],
    ['smooth', 30],
    ['smooth', 150],
    ['nearest', 50]
  ] as const)('%s at %i %%: alpha never rings beyond what lies beside it', async (filter, by) => {
    for (const depth of [16, 32] as const) {
      const frame = edge(depth)
      const scaled = await made(frame, step('scale', { by, filter }))
      const full = depth === 16 ? 65535 : 1
      const ratio = frame.width / scaled.width
      for (let y = 0; y < scaled.height; y++)
        for (let x = 0; x < scaled.width; x++) {
          const at = (x + 0.5) * ratio - 0.5
          const reach = Math.max(1, ratio) / 2 + 1
          const near = Array.from({ length: frame.width }, (_, n) => n)
            .filter(n => Math.abs(n - at) <= (filter === 'smooth' ? 3 * reach : reach))
            .map(n => frame.samples[4 * n + 3]! / full)
          const alpha = scaled.samples[4 * (y * scaled.width + x) + 3]! / full
          expect(alpha).toBeGreaterThanOrEqual(Math.min(...near) - 2e-5)
          expect(alpha).toBeLessThanOrEqual(Math.max(...near) + 2e-5)
        }
    }
  })

  test('smooth weights are above 0, and keep what is even as it is', async () => {
    const even = light(20, 20, () => [0.5, 3, -0.25, 0.75])
    for (const by of [35, 50, 130]) {
      const { samples } = await made(even, step('scale', { by, filter: 'smooth' }))
      samples.forEach((value, i) => expect(value).toBeCloseTo([0.5, 3, -0.25, 0.75][i % 4]!, 5))
    }
    const point = light(21, 21, (x, y) => (x === 10 && y === 10 ? [1, 1, 1, 1] : [0, 0, 0, 0]))
    const { samples } = await made(point, step('scale', { by: 60, filter: 'smooth' }))
    expect(Math.min(...samples)).toBe(0)
  })
})

describe('scaling sRGB codes', () => {
  /** Black and white pixels by turns, solid. */
  const checker = (depth: 8 | 16): Frame => {
    const full = depth === 8 ? 255 : 65535
    const samples = depth === 8 ? new Uint8Array(4 * 64) : new Uint16Array(4 * 64)
    for (let p = 0; p < 64; p++) {
      const v = (p + (p >> 3)) % 2 ? full : 0
      samples.set([v, v, v, full], 4 * p)
    }
    return { width: 8, height: 8, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
  }
  const meanOf = ({ samples, depth }: Frame): number =>
    Array.from(samples).reduce((sum, v, i) => (i % 4 === 0 ? sum + v : sum), 0) /
    (samples.length / 4) /
    (depth === 8 ? 255 : 65535)

  test.each(['scale', 'stretch', 'fit', 'fill'])(
    '%s gives half the code in codes, and half the light in light',
    async kind => {
      const size = kind === 'scale' ? { by: 50 } : { width: 4, height: 4 }
      for (const depth of [8, 16] as const) {
        const codes = await made(checker(depth), step(kind, { ...size, filter: 'smooth' }))
        const lit = await made(checker(depth), step(kind, { ...size, filter: 'smooth', space: 'light' }))
        expect(meanOf(codes)).toBeCloseTo(0.5, 2)
        // IEC 61966-2-1: half the light of white is the code of 0.7354
        expect(meanOf(lit)).toBeCloseTo(1.055 * 0.5 ** (1 / 2.4) - 0.055, 2)
      }
    }
  )

  test('one colour comes out as it was, whatever it is computed in', async () => {
    const samples = new Uint16Array(4 * 100).map((_, i) => [12345, 45678, 60001, (i >> 2) % 7 ? 65535 : 30000][i % 4]!)
    const even: Frame = { width: 10, height: 10, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
    for (const [kind, settings] of [
      ['scale', { by: 50 }],
      ['scale', { by: 170 }],
      ['turn', { by: 30 }]
    ] as const) {
      const lit = await made(even, step(kind, { ...settings, space: 'light' }))
      for (let i = 0; i < lit.samples.length; i += 4)
        if (lit.samples[i + 3]! > 600)
          for (let c = 0; c < 3; c++) expect(Math.abs(lit.samples[i + c]! - samples[c]!)).toBeLessThan(24)
    }
  })
})
