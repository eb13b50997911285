/** The key by the colour beside each edge: both builds of it, and what it makes of noise, ramps and shared chroma. */
import { describe, expect, test } from 'vitest'
import { plainKernels } from '../oracles/kernels'
import type { BesideHow, ScreenPlate, Surface } from '../../core/frame/kernels/kernels'
import { wholePlate } from '../oracles/plate'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { estimatePlate } from '../../core/prepare/chroma'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, prepared, Step } from '../../core/prepare/preparation'
import type { SourceFacts } from '../../core/source/source'
import { screenNoise } from '../../core/prepare/screen-noise'
import { findShared, isShared } from '../../core/prepare/shared-chroma'
import { filmedAs, filmings, keyed, keyFigures, keyShots, type KeyFigures } from '../material/keys'
import { screenAt } from '../material/screen'
import { testHost } from './support'

const host = await testHost()
const { kernels } = host

const shot = (name: string) => keyShots.find(each => each.name === name)!.truth
const filming = (name: string) => filmings.find(each => each.name === name)!
const floats = (samples: ArrayLike<number>): Float32Array => Float32Array.from(samples, v => v / 255)

const how: BesideHow = {
  clear: 0.03,
  solid: 0.97,
  spill: 1,
  lean: 1,
  channel: 1,
  noise: { away: 0, cross: 0, colour: 0 },
  sure: true
}

async function figures(name: string, film: string, settings: Record<string, unknown> = {}): Promise<KeyFigures> {
  const frame = filmedAs(shot(name), filming(film))
  const key = { screen: '#2ba347', edges: 'beside', noise: 'measured', chroma: 'led', ...settings }
  return keyFigures(await keyed([frame], [{ kind: 'chroma-key', settings: key }], host), shot(name))
}

describe('both builds', () => {
  test.each([
    ['hair', 'clean', 0],
    ['smoke', 'clean', 0],
    ['skin in motion', 'noise of 0.8 %', 0.02],
    ['lettering', 'noise of 2 %', 0.05],
    ['glass', '4:2:0', 0]
  ] as const)('agree on %s, %s', (name, film, noise) => {
    const { width, height, samples } = filmedAs(shot(name), filming(film))
    const rgba = floats(samples)
    const plate = estimatePlate(
      every => ({
        width,
        height: Math.ceil(height / every),
        rgba: rgba.filter((_, i) => Math.floor(i / (4 * width)) % every === 0)
      }),
      width,
      height,
      [0.17, 0.64, 0.28]
    )
    for (const screen of [plate, { rgba: wholePlate(plate, width, height) }] as ScreenPlate[]) {
      const [one, other] = [kernels, plainKernels].map(build => {
        const made = rgba.slice()
        const { sure } = build.keyBeside(
          made,
          screen,
          { width, height },
          { ...how, lean: 0.5, noise: { away: noise, cross: noise, colour: noise / 3 } }
        )
        return { made, sure: sure! }
      }) as [{ made: Float32Array; sure: Float32Array }, { made: Float32Array; sure: Float32Array }]
      // a pixel at a bound may fall to either side of it
      let apart = 0
      for (let p = 0; p < width * height; p++) {
        const off = Math.abs(one.made[4 * p + 3]! - other.made[4 * p + 3]!)
        const seen = [0, 1, 2].some(c => Math.abs(one.made[4 * p + c]! - other.made[4 * p + c]!) > 2e-3)
        if (off > 2e-3 || (seen && other.made[4 * p + 3]! > 0.05)) apart++
        expect(Number.isFinite(one.made[4 * p]! + one.sure[p]!)).toBe(true)
      }
      expect(apart).toBeLessThan(0.001 * width * height)
    }
  })

  test('agree on codes of 8 and of 16 bits, by the colour beside and by hue alone', () => {
    const { width, height, samples } = filmedAs(shot('hair'), filming('noise of 0.8 %'))
    const screen: ScreenPlate = {
      surfaces: [
        [0.17, 0.01, 0, -0.02, 0, 0],
        [0.64, 0.02, 0, -0.06, 0.01, -0.05],
        [0.28, 0, 0, -0.02, 0, -0.02]
      ]
    }
    const hue = { low: 0.1, high: 0.8, across: 1.4, spill: 1, lean: 0.5, channel: 1 }
    for (const codes of [samples as Uint8Array, Uint16Array.from(samples, v => v * 257)])
      for (const noise of [0, 0.02]) {
        const beside = { ...how, noise: { away: noise, cross: noise, colour: noise / 3 } }
        const made = [kernels, plainKernels].map(build => [
          build.keyBeside(codes.slice(), screen, { width, height }, beside).samples,
          build.keyHue(codes.slice(), screen, { width, height }, hue)
        ]) as [Uint16Array[], Uint16Array[]]
        for (const way of [0, 1]) {
          const [one, other] = [made[0][way]!, made[1][way]!]
          expect([one.constructor, one.length]).toEqual([Uint16Array, codes.length])
          let apart = 0
          for (let i = 3; i < one.length; i += 4) {
            const off = Math.max(
              ...[0, 1, 2, 3].map(c => Math.abs(one[i - c]! - other[i - c]!) * (c ? other[i]! / 65535 : 1))
            )
            if (off > 132) apart++
          }
          expect(apart).toBeLessThan(0.001 * width * height)
        }
      }
  })

  test('lead shared chroma alike, however it lies, in codes of 8 and 16 bits and in floats', () => {
    const film = filmedAs(shot('hair'), filming('4:2:0'))
    const sitings = ['own', 'repeated', 'first', 'middle'] as const
    for (const [width, height] of [
      [film.width, film.height],
      [37, 23],
      [1, 1],
      [2, 5]
    ] as const) {
      const bytes = new Uint8Array(4 * width * height)
      for (let y = 0; y < height; y++)
        bytes.set(
          film.samples.subarray(
            4 * ((y + 20) % film.height) * film.width,
            4 * ((y + 20) % film.height) * film.width + 4 * width
          ) as Uint8Array,
          4 * y * width
        )
      for (const across of sitings)
        for (const down of sitings)
          for (const samples of [
            bytes,
            Uint16Array.from(bytes, v => v * 257),
            Float32Array.from(bytes, v => v / 255)
          ]) {
            const [one, other] = [kernels, plainKernels].map(build =>
              build.ledByLuma(samples.slice(), { width, height }, { across, down })
            ) as [Uint16Array | Float32Array, Uint16Array | Float32Array]
            const full = samples instanceof Float32Array ? 1 : 65535
            expect([one.constructor, one.length]).toEqual([other.constructor, samples.length])
            // chroma whose span lies at the bound may fall to either side of it
            let apart = 0
            for (let i = 0; i < one.length; i++) if (!(Math.abs(one[i]! - other[i]!) <= 1e-4 * full)) apart++
            expect(apart, `${width}x${height} ${across} ${down} ${full}`).toBeLessThanOrEqual(0.001 * one.length)
          }
    }
  })

  test('refuse a picture that their memory cannot hold, in words', () => {
    const size = { width: 60_000, height: 60_000 }
    const flat = (v: number): Surface => [v, 0, 0, 0, 0, 0]
    const plate: ScreenPlate = { surfaces: [flat(0.17), flat(0.64), flat(0.28)] }
    for (const work of [
      () => kernels.ledByLuma(new Uint8Array(4), size, { across: 'middle', down: 'first' }),
      () => kernels.keyBeside(new Uint8Array(4), plate, size, how)
    ])
      expect(work).toThrow(/could not get [\d,]+ MiB of memory/)
  })

  test('take pictures of any size, down to one pixel, and those without any screen or with nothing else', () => {
    for (const [width, height] of [
      [1, 1],
      [3, 2],
      [5, 9],
      [17, 4],
      [33, 31]
    ] as const)
      for (const colour of [
        [0.17, 0.64, 0.28],
        [0.8, 0.3, 0.3]
      ] as const) {
        const rgba = Float32Array.from({ length: 4 * width * height }, (_, i) => (i % 4 === 3 ? 1 : colour[i % 4]!))
        const flat = (v: number): Surface => [v, 0, 0, 0, 0, 0]
        for (const build of [kernels, plainKernels]) {
          const made = rgba.slice()
          build.keyBeside(made, { surfaces: [flat(0.17), flat(0.64), flat(0.28)] }, { width, height }, how)
          const due = colour[0] === 0.8 ? 1 : 0
          expect([...made].filter((_, i) => i % 4 === 3).every(a => a === due)).toBe(true)
        }
      }
  })
})

describe('noise', () => {
  test('is measured to a fifth of what it is, and none is found in a clean screen', () => {
    for (const [film, noise] of [
      ['noise of 0.8 %', 0.008],
      ['noise of 2 %', 0.02]
    ] as const) {
      const { width, height, samples } = filmedAs(shot('hair'), filming(film))
      const rgba = floats(samples)
      const screen = new Float32Array(rgba.length)
      for (let p = 0; p < width * height; p++) screen.set(screenAt(p % width, Math.floor(p / width)), 4 * p)
      const found = screenNoise({ width, height, samples: rgba, unit: 1 }, { rgba: screen })
      expect(Math.abs(found.colour / noise - 1)).toBeLessThan(0.2)
      expect(found.away).toBeGreaterThan(noise)
    }
  })

  test('of 0.8 % leaves no haze, and edges nearly as they are without it', async () => {
    for (const name of ['hair', 'pink ball with soft edges', 'white', 'olive', 'cyan', 'yellow', 'skin in motion']) {
      const [found, left] = [
        await figures(name, 'noise of 0.8 %'),
        await figures(name, 'noise of 0.8 %', { noise: 'none' })
      ]
      expect(found.haze, name).toBeLessThan(0.005)
      expect(left.haze, name).toBeGreaterThan(0.1)
      expect(found.holes, name).toBeLessThan(0.015)
      expect(found.softAlpha, name).toBeLessThan(0.04)
    }
  })

  test('sets clear and solid of the key by hue as well', async () => {
    for (const name of ['hair', 'olive']) {
      expect((await figures(name, 'noise of 0.8 %', { edges: 'hue' })).haze, name).toBeLessThan(0.005)
      expect((await figures(name, 'noise of 0.8 %', { edges: 'hue', noise: 'none' })).haze, name).toBeGreaterThan(0.1)
    }
  })
})

test('hues near the screen come out as well as those far from it', async () => {
  for (const name of ['olive', 'cyan', 'yellow', 'blue', 'grey']) {
    const { softAlpha, edge } = await figures(name, 'clean')
    expect(softAlpha, name).toBeLessThan(0.006)
    expect(edge, name).toBeLessThan(0.4)
  }
})

test('a wide soft edge is no colour of the subject’s own: motion blur is told by the colour it comes from', async () => {
  const { softAlpha } = await figures('skin in motion', 'clean')
  expect(softAlpha).toBeLessThan(0.02)
})

describe('shared chroma', () => {
  test('is found, and how it lies', () => {
    const of = (film: string) => {
      const { width, height, samples } = filmedAs(shot('white'), filming(film))
      return findShared({ width, height, samples, unit: 1 / 255 })
    }
    expect(of('4:2:0')).toEqual({ across: 'middle', down: 'middle' })
    expect(of('4:2:2')).toEqual({ across: 'middle', down: 'own' })
    for (const film of ['clean', 'noise of 2 %']) expect(of(film)).toEqual({ across: 'own', down: 'own' })
  })

  test('a picture enlarged as a whole shares nothing, nor does one as it was drawn', () => {
    const { width, height, samples } = filmedAs(shot('white'), filming('clean'))
    const rgba = new Float32Array(16 * width * height)
    for (let y = 0; y < 2 * height; y++)
      for (let x = 0; x < 2 * width; x++)
        for (let c = 0; c < 4; c++)
          rgba[4 * (y * 2 * width + x) + c] = samples[4 * ((y >> 1) * width + (x >> 1)) + c]! / 255
    expect(findShared({ width: 2 * width, height: 2 * height, samples: rgba, unit: 1 })).toEqual({
      across: 'own',
      down: 'own'
    })
    expect(isShared(findShared({ width, height, samples, unit: 1 / 255 }))).toBe(false)
  })

  test('led by luma, edges are found better in every hue, and twice as well where luma tells', async () => {
    for (const film of ['4:2:2', '4:2:0', '4:2:0 with noise of 0.8 %']) {
      for (const name of ['white', 'yellow', 'lettering', 'black']) {
        const [led, kept] = [await figures(name, film), await figures(name, film, { chroma: 'kept' })]
        expect(led.softAlpha, `${name}, ${film}`).toBeLessThan(0.5 * kept.softAlpha)
      }
      for (const name of ['olive', 'cyan', 'blue', 'grey', 'hair']) {
        const [led, kept] = [await figures(name, film), await figures(name, film, { chroma: 'kept' })]
        expect(led.softAlpha, `${name}, ${film}`).toBeLessThan(kept.softAlpha)
      }
    }
  })
})

test('spill is held to what is asked, and the step by itself holds to the same', async () => {
  const frame = filmedAs(shot('white'), filming('spill of 8 %'))
  const greens: number[] = []
  for (const held of ['larger', 'average', 'double', 'smaller']) {
    const found = await keyed(
      [frame],
      [{ kind: 'chroma-key', settings: { screen: '#2ba347', edges: 'beside', held } }],
      host
    )
    const i = 4 * (90 * frame.width + 220)
    const [r, g, b] = [found[i]!, found[i + 1]!, found[i + 2]!]
    const bound = {
      larger: Math.max(r, b),
      average: (r + b) / 2,
      double: (Math.max(r, b) + 2 * Math.min(r, b)) / 3,
      smaller: Math.min(r, b)
    }
    expect(g).toBeLessThanOrEqual(bound[held as 'larger'] + 0.002)
    greens.push(g)
    const alone = await keyed([frame], [{ kind: 'spill', settings: { channel: 'green', held } }], host)
    for (let c = 0; c < 3; c++) expect(alone[i + c]).toBeCloseTo(found[i + c]!, 2)
  }
  expect(greens).toEqual([...greens].sort((a, b) => b - a))
})

describe('what is held out of a key', () => {
  const truth = shot('white')
  const frames = [0, 1, 2].map(take => filmedAs(truth, filming('clean'), take))
  const alphaAt = (found: Float32Array, x: number, y: number): number => found[4 * (y * truth.width + x) + 3]!
  const square = (frame: number, x: number, y: number) => ({
    frame,
    kind: 'rectangle' as const,
    points: [
      [x, y],
      [x + 30, y + 30]
    ] as [number, number][]
  })

  test.each(['beside', 'hue'])('stays in its own colour, or goes, by %s', async edges => {
    const settings = { screen: '#2ba347', edges, stays: [square(1, 4, 4)], goes: [square(1, 205, 75)] }
    const found = await keyed(frames, [{ kind: 'chroma-key', settings }], host)
    expect(alphaAt(found, 20, 20)).toBe(1)
    const i = 4 * (20 * truth.width + 20)
    for (let c = 0; c < 3; c++) expect(found[i + c]).toBeCloseTo(frames[1]!.samples[i + c]! / 255, 3)
    expect(alphaAt(found, 220, 90)).toBe(0)
    // elsewhere the key is as it is without
    const plain = await keyed(frames, [{ kind: 'chroma-key', settings: { screen: '#2ba347', edges } }], host)
    for (const [x, y] of [
      [110, 90],
      [60, 40],
      [250, 90]
    ] as const)
      expect(alphaAt(found, x, y)).toBe(alphaAt(plain, x, y))
  })

  test('moves between the frames it is drawn at', async () => {
    const settings = { screen: '#2ba347', stays: [square(1, 0, 4), square(3, 100, 4)] }
    const found = await keyed(frames, [{ kind: 'chroma-key', settings }], host)
    expect(alphaAt(found, 65, 20)).toBe(1)
    expect(alphaAt(found, 15, 20)).toBe(0)
  })
})

describe('alpha steadied over time', () => {
  const steady = { kind: 'alpha-steady', settings: {} }
  const key = { kind: 'chroma-key', settings: { screen: '#2ba347', edges: 'hue', noise: 'none' } }

  test('what noise leaves of a still where nothing is goes for the most part, and what is there stays', async () => {
    const truth = shot('hair')
    const frames = [0, 1, 2, 3, 4].map(take => filmedAs(truth, filming('noise of 0.8 %'), take))
    const [plain, held] = [await keyed(frames, [key], host), await keyed(frames, [key, steady], host)]
    const off = (found: Float32Array, clear: boolean): number =>
      found.reduce(
        (sum, v, i) => (i % 4 === 3 && truth.pixels[i]! < 0.001 === clear ? sum + Math.abs(v - truth.pixels[i]!) : sum),
        0
      )
    expect(off(held, true)).toBeLessThan(0.6 * off(plain, true))
    expect(off(held, false)).toBeLessThan(1.01 * off(plain, false))
  })

  test('what moves stays as it is, and so do the first and the last frame', async () => {
    const still = filmedAs(shot('grey'), filming('clean'))
    const other = filmedAs(shot('hair'), filming('clean'))
    const moved = await keyed([still, other, still], [key, steady], host)
    const alone = await keyed([still, other, still], [key], host)
    let changed = 0
    for (let i = 3; i < moved.length; i += 4) if (Math.abs(moved[i]! - alone[i]!) > 0.12) changed++
    expect(changed).toBe(0)
    expect(await keyed([other], [key, steady], host)).toEqual(await keyed([other], [key], host))
    expect(await keyed([still, other], [key, steady], host)).toEqual(await keyed([still, other], [key], host))
  })
})

test('whoever gives up a frame takes no neighbour from another that waits for it', async () => {
  const frames = [0, 1, 2, 3].map(take => filmedAs(shot('grey'), filming('noise of 0.8 %'), take))
  const facts = {
    width: frames[0]!.width,
    height: frames[0]!.height,
    frames: frames.length,
    rate: [25, 1],
    bitDepth: 8,
    claim: { mode: 'straight', matte: null, says: '' },
    pixelAspect: [1, 1],
    findings: []
  } as unknown as SourceFacts
  const source = {
    facts,
    async frame(n: number, signal?: AbortSignal) {
      await new Promise(resolve => setTimeout(resolve, 5))
      signal?.throwIfAborted()
      return frames[n]!
    },
    close: () => Promise.resolve()
  }
  const made = prepared(source, [Step.parse(newStep('s', stepKindById('alpha-steady')))], new Map(), kernels)
  const gone = new AbortController()
  const [first, second] = [made.frame(1, gone.signal), made.frame(2)]
  gone.abort()
  await expect(first).rejects.toThrow()
  expect((await second).width).toBe(frames[0]!.width)
})

test('dither moves from frame to frame where it is asked to, and in the mean over time nothing is lost', async () => {
  const samples = new Uint16Array(4 * 64).map((_, i) =>
    i % 4 === 3 ? [0, 65535, 30011][(i >> 2) % 3]! : 20000 + 37 * i
  )
  const frame: Frame = { width: 64, height: 1, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
  const count = 129
  const made = (moves: string) =>
    Promise.all(
      Array.from({ length: count }, (_, n) =>
        keyed(
          Array.from({ length: 2 * n + 1 }, () => frame),
          [{ kind: 'depth', settings: { bits: '8', dither: true, moves } }],
          host
        )
      )
    )
  const [standing, moving] = [await made('stands'), await made('moves')]
  expect(standing.every(each => each.every((v, i) => v === standing[0]![i]))).toBe(true)
  let differ = 0
  for (let i = 0; i < samples.length; i++) {
    const mean = moving.reduce((sum, each) => sum + each[i]!, 0) / count
    expect(Math.abs(mean - samples[i]! / 65535) * 255).toBeLessThan(0.16)
    if (moving.some(each => each[i] !== moving[0]![i])) differ++
    // clear stays clear, solid solid
    if (i % 4 === 3 && samples[i] !== 30011) expect(moving.every(each => each[i] === samples[i]! / 65535)).toBe(true)
  }
  expect(differ).toBeGreaterThan(100)
})
