/** Stations: each must show what its family of programs really shows, and say so. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { HexColour } from '../../core/base/colour'
import type { FormatId } from '../../core/open/rows'
import { readAs, withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { OPAQUE, STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import type { Rate } from '../../core/base/rate'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { paint } from '../../core/judge/stations/paint'
import { receive, StationAsk } from '../../core/run/reception'
import { flatScene, IN_PLACE, type StationScene } from '../../core/judge/stations/scene'
import { compose, pictureError } from '../../core/judge/stations/show'
import { believed, BLACK_MATTE, taking } from '../../core/judge/stations/station'
import { stationById, stations } from '../../core/judge/stations/stations'
import { againstSource, frameShown, visit, type Visit } from '../../core/judge/stations/visit'
import type { SourceFacts } from '../../core/source/source'
import { moth, pot } from '../../demo/scenes'
import { bytesFile, firstDifference, noise, testHost, vectorFile, writeFilm } from './support'

const host = await testHost()
const { kernels } = host
const FRAME = withDepth(moth(0.1), 8, kernels)
const SKY = '#4a7ba6'

async function at(
  id: string,
  frames: readonly Frame[],
  due: AlphaMode,
  { format = 'quicktime-png' as FormatId, scene = flatScene(SKY), index = 0, rate = [12, 1] as Rate } = {}
): Promise<Visit> {
  const spec = specAsFound(`${id} ${Math.random()}`, 'delivered', format, [
    bytesFile('delivered', await writeFilm(format, frames, { rate }))
  ])
  const source = await openSource(spec, host)
  return visit(
    { station: stationById(id)!, facts: source.facts, due, index, scene, frame: i => source.frame(i) },
    kernels
  )
}

const black = withAlphaMode(FRAME, BLACK_MATTE, kernels)
const edited = (frame: Frame, map: (pixel: number[]) => number[]): Frame => {
  const samples = frame.samples.slice()
  for (let i = 0; i < samples.length; i += 4)
    samples.set(map([samples[i]!, samples[i + 1]!, samples[i + 2]!, samples[i + 3]!]), i)
  return { ...frame, samples }
}
/** The wing's own colour under every clear pixel: what edge fill does for an even subject. */
const filled = edited(FRAME, ([r, g, b, a]) => (a === 0 ? [133, 82, 49, 0] : [r!, g!, b!, a!]))

test('the one that goes round tells a first frame that comes twice, and a jump', async () => {
  const turn = (from: number, count: number, span: number): Frame[] =>
    Array.from({ length: count }, (_, i) => withDepth(moth(from + (span * i) / count), 8, kernels))
  const loop = turn(0, 12, 1)
  expect(await at('goes-round', loop, STRAIGHT)).toMatchObject({ standing: 'right' })
  expect(await at('goes-round', [...loop, loop[0]!], STRAIGHT)).toMatchObject({
    standing: 'wrong',
    sentence: expect.stringContaining('one frame of 83 ms') as string
  })
  expect(await at('goes-round', turn(0, 12, 0.5), STRAIGHT)).toMatchObject({
    standing: 'setting',
    seen: 'It jumps at every turn.'
  })
  expect(stationById('goes-round')!.refuses({ facts: { frames: 1 } as never, due: STRAIGHT })).not.toBeNull()
})

describe('how stations take a straight and a premultiplied delivery', () => {
  const table: [station: string, straight: Visit['standing'], premultiplied: Visit['standing']][] = [
    ['reads-the-label', 'right', 'right'],
    ['always-straight', 'right', 'wrong'],
    ['always-premultiplied', 'wrong', 'right'],
    ['alpha-off', 'setting', 'setting'],
    ['asks', 'setting', 'setting'],
    ['on-black', 'setting', 'setting'],
    ['linear-light', 'setting', 'setting'],
    ['engine-premultiplied', 'wrong', 'right'],
    ['cut-out', 'wrong', 'wrong'],
    ['plain-player', 'wrong', 'wrong']
  ]
  // the page wipes colour under clear pixels, as renderers do
  const clean = edited(FRAME, ([r, g, b, a]) => (a === 0 ? [0, 0, 0, 0] : [r!, g!, b!, a!]))
  test.each(table)('%s', async (id, straight, premultiplied) => {
    // straight colour over a clear field of another colour: what premultiplied readers add on
    const bright = edited(clean, ([r, g, b, a]) => (a === 0 ? [200, 200, 200, 0] : [r!, g!, b!, a!]))
    expect((await at(id, [id.includes('premultiplied') ? bright : clean], STRAIGHT)).standing).toBe(straight)
    expect((await at(id, [black], BLACK_MATTE)).standing).toBe(premultiplied)
  })

  test('the wrong readings err the way they are known to', async () => {
    const dark = await at('always-straight', [black], BLACK_MATTE, { scene: flatScene('#ffffff') })
    expect(dark.error.tends).toBe('darker')
    expect(dark.sentence).toMatch(/^Edges turn \d+ codes too dark, in [\d.]+ % of the picture\. Pour a straight outlet/)
    const light = await at('always-premultiplied', [FRAME], STRAIGHT, { scene: flatScene('#000000') })
    expect(light.error.tends).toBe('lighter')
    expect((await at('asks', [black], BLACK_MATTE)).sentence).toContain('Answer “premultiplied”')
    expect((await at('asks', [FRAME], STRAIGHT)).error.codes).toBeLessThanOrEqual(1)
  })

  test('the engine with straight filtering shows a rim from clear black, and none once edges are filled', async () => {
    const wiped = edited(FRAME, ([r, g, b, a]) => (a === 0 ? [0, 0, 0, 0] : [r!, g!, b!, a!]))
    const rim = await at('engine-straight', [wiped], STRAIGHT, { scene: flatScene('#ffffff') })
    expect(rim).toMatchObject({ standing: 'wrong', error: { tends: 'darker' } })
    expect(rim.sentence).toContain('Edge fill')
    const without = await at('engine-straight', [filled], STRAIGHT, { scene: flatScene('#ffffff') })
    expect(without.error.codes).toBeLessThan(rim.error.codes / 2)
  })

  test(
    'colour changed only under clear pixels is seen by the stations that filter straight, and by no other ' +
      'that honours alpha',
    async () => {
      const loud = edited(FRAME, ([r, g, b, a]) => (a === 0 ? [255, 0, 255, 0] : [r!, g!, b!, a!]))
      for (const id of ['engine-straight', 'small-draw'])
        expect((await at(id, [loud], STRAIGHT)).error.codes).toBeGreaterThan(
          (await at(id, [filled], STRAIGHT)).error.codes + 20
        )
      for (const id of ['reads-the-label', 'always-straight', 'linear-light', 'cut-out'])
        expect((await at(id, [loud], STRAIGHT)).error.codes).toBe((await at(id, [filled], STRAIGHT)).error.codes)
    }
  )

  test('on/off alpha is taken alike by all that honour it: linear light and cutting change nothing', async () => {
    const hard = edited(FRAME, ([r, g, b, a]) => [r!, g!, b!, a! > 127 ? 255 : 0])
    for (const id of ['linear-light', 'cut-out']) expect((await at(id, [hard], STRAIGHT)).standing).toBe('right')
  })

  test('a file without alpha is opaque everywhere, for every station alike', async () => {
    const solid: Frame = { ...edited(FRAME, ([r, g, b]) => [r!, g!, b!, 255]), alpha: { mode: 'none' } }
    for (const station of stations.filter(s => s.kind === 'picture')) {
      const source = await openSource(
        specAsFound(`solid ${station.id}`, 'delivered', 'quicktime-animation', [
          bytesFile('delivered', await writeFilm('quicktime-animation', [solid]))
        ]),
        host
      )
      expect(believed(source.facts)).toEqual({ mode: 'none' })
      const seen = await visit(
        {
          station,
          facts: source.facts,
          due: { mode: 'none' },
          index: 0,
          scene: flatScene(SKY),
          frame: i => source.frame(i)
        },
        kernels
      )
      expect({ id: station.id, codes: seen.error.codes }).toEqual({ id: station.id, codes: 0 })
    }
  })
})

describe('time', () => {
  const frames = Array.from({ length: 12 }, (_, i) => noise({ width: 8, height: 8, depth: 8, seed: i + 1 }))

  test('thirty frames a second are assumed for sequences: the frame shown and the length follow', async () => {
    const thirty = stationById('takes-thirty')!
    const facts = {
      ...(
        await openSource(
          specAsFound('t', 't', 'quicktime-png', [bytesFile('t', await writeFilm('quicktime-png', frames))]),
          host
        )
      ).facts
    }
    expect(thirty.refuses({ facts, due: STRAIGHT })).toContain('own rate')
    const sequence = { ...facts, format: 'png-sequence' }
    expect([0, 1, 2, 4, 11].map(i => frameShown(thirty, { facts: sequence, due: STRAIGHT }, i))).toEqual([
      0, 2, 5, 10, 11
    ])
    const none = { codes: 0, max: 0, mean: 0, share: 0, tends: 'neither' as const }
    expect(
      thirty.judge({ facts: sequence, due: STRAIGHT }, { error: none, mistaken: null, seam: null, label: null })
    ).toEqual({
      standing: 'setting',
      sentence:
        'Takes 0.4 s instead of 1 s: everything moves 2.5 times too fast. Set 12 frames a second for the sequence.'
    })
    expect(
      thirty.judge(
        { facts: { ...sequence, rate: [30, 1] }, due: STRAIGHT },
        { error: none, mistaken: null, seam: null, label: null }
      ).standing
    ).toBe('right')
    expect(
      thirty.judge(
        { facts: { ...sequence, rate: null }, due: STRAIGHT },
        { error: none, mistaken: null, seam: null, label: null }
      ).sentence
    ).toContain('must be told the rate')
    expect(frameShown(stationById('loose-stills')!, { facts: sequence, due: STRAIGHT }, 7)).toBe(0)
  })
})

describe('painting', () => {
  const colours: HexColour[] = ['#000000', '#ffffff', '#4a7ba6']

  test('in place over a colour, every way of painting agrees with composing to the code', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom(...colours),
        fc.constantFrom<AlphaMode>(STRAIGHT, BLACK_MATTE),
        (seed, colour, mode) => {
          const frame = withAlphaMode(noise({ width: 9, height: 7, depth: 8, seed }), mode, kernels)
          const flat = paint(frame, taking(mode), flatScene(colour), kernels)
          expect(firstDifference(flat, compose(frame, colour, kernels))).toBeNull()
          // drawn in full wherever it is, straight colour is what a reader without alpha shows, by the other way of
          // painting
          if (mode.mode === 'straight')
            expect(
              firstDifference(
                paint(frame, taking(mode, { cut: 0, texture: 'straight' }), flatScene(colour), kernels),
                compose(readAs(frame, OPAQUE), colour, kernels)
              )
            ).toBeNull()
        }
      ),
      { numRuns: 60 }
    )
  })

  test('the resampling way comes to the same codes when nothing is resampled', () => {
    const view: StationScene = { backdrop: { kind: 'view', at: 0 }, place: IN_PLACE, standIn: 'none', filter: 'smooth' }
    for (const mode of [STRAIGHT, BLACK_MATTE]) {
      const frame = withAlphaMode(FRAME, mode, kernels)
      const straightly = paint(frame, taking(mode, { texture: 'straight' }), view, kernels)
      const usually = paint(frame, taking(mode), view, kernels)
      expect(pictureError(straightly, usually, frame.width, kernels).codes).toBeLessThanOrEqual(1)
    }
  })

  test('whole steps move pixels without mixing them', () => {
    const frame = noise({ width: 16, height: 16, depth: 8, seed: 5, runs: 0 })
    const moved = paint(
      frame,
      taking(STRAIGHT),
      { ...flatScene('#000000'), place: { x: 0.25, y: -0.125, scale: 1, turn: 0 } },
      kernels
    )
    const still = paint(frame, taking(STRAIGHT), flatScene('#000000'), kernels)
    for (let y = 0; y < 14; y++)
      for (let x = 4; x < 16; x++)
        if (moved[4 * (y * 16 + x)] !== still[4 * ((y + 2) * 16 + x - 4)]) throw new Error(`pixel ${x} ${y} was mixed`)
  })

  test('premultiplied filtering shows no rim at any size and turn, straight filtering does', () => {
    // a white disc on clear black over white: whatever is not white is a rim
    const disc: Frame = {
      width: 64,
      height: 64,
      depth: 8,
      alpha: STRAIGHT,
      transfer: 'srgb',
      samples: Uint8Array.from({ length: 64 * 64 * 4 }, (_, i) =>
        Math.hypot(((i >> 2) % 64) - 31.5, Math.floor(i / 256) - 31.5) < 20 ? 255 : 0
      )
    }
    const darkest = (texture: 'premultiplied' | 'straight', scale: number, turn: number): number =>
      Math.min(
        ...paint(
          disc,
          taking(STRAIGHT, { texture }),
          { ...flatScene('#ffffff'), place: { x: 0, y: 0, scale, turn } },
          kernels
        )
      )
    for (const [scale, turn] of [
      [0.6, 0],
      [1.7, 30],
      [0.3, 45]
    ] as const) {
      expect(darkest('premultiplied', scale, turn)).toBeGreaterThanOrEqual(254)
      expect(darkest('straight', scale, turn)).toBeLessThan(230)
    }
  })

  test('the stand-in stands behind or before', () => {
    const white: Frame = {
      width: 40,
      height: 40,
      depth: 8,
      alpha: STRAIGHT,
      transfer: 'srgb',
      samples: new Uint8Array(6400).fill(255)
    }
    const red = (standIn: StationScene['standIn']): number =>
      paint(white, taking(STRAIGHT), { ...flatScene('#000000'), standIn }, kernels)[4 * (24 * 40 + 24) + 2]!
    expect(red('behind')).toBe(255)
    expect(red('before')).toBeLessThan(120)
  })

  test('a picture of one’s own fills the frame about its middle, and what is laid on it is laid on its colours', () => {
    // twice as wide as the frame: a quarter is cut off on either side; its lower half is clear, which is black
    const [width, height] = [8, 2]
    const samples = new Float32Array(4 * width * height)
    for (let x = 0; x < width; x++) samples.set([x / 8, 0.5, 1, 1], 4 * x)
    const picture: Frame = { width, height, depth: 32, alpha: STRAIGHT, transfer: 'srgb', samples }
    const clear = (alpha: number): Frame => ({
      width: 4,
      height: 2,
      depth: 8,
      alpha: STRAIGHT,
      transfer: 'srgb',
      samples: new Uint8Array(32).map((_, i) => (i % 4 === 3 ? alpha : 255))
    })
    const scene: StationScene = { ...flatScene('#000000'), backdrop: { kind: 'picture', picture } }
    const seen = (alpha: number): number[] => [...paint(clear(alpha), taking(STRAIGHT), scene, kernels)]
    const bare = seen(0)
    expect([0, 1, 2, 3].map(x => bare[4 * x])).toEqual([2, 3, 4, 5].map(x => Math.round((x / 8) * 255)))
    expect(bare.slice(16)).toEqual([0, 0, 0, 255, 0, 0, 0, 255, 0, 0, 0, 255, 0, 0, 0, 255])
    const half = seen(128)
    for (let i = 0; i < 32; i++)
      expect(Math.abs(half[i]! - (i % 4 === 3 ? 255 : bare[i]! + (255 - bare[i]!) * (128 / 255)))).toBeLessThanOrEqual(
        1
      )
  })
})

describe('a file from anywhere', () => {
  const ask = StationAsk.parse({})

  test('is taken in, read by its pixels, and judged', async () => {
    const got = await receive('always-straight', [await vectorFile('rle32-premultiplied.mov')], ask, host)
    expect(got).toMatchObject({ station: { id: 'always-straight' }, meant: { mode: 'premultiplied' }, frame: 1 })
    expect(got.visit.standing).toBe('wrong')
    const meant = await receive(
      'always-straight',
      [await vectorFile('rle32-premultiplied.mov')],
      StationAsk.parse({ meant: 'straight', frame: '2' }),
      host
    )
    expect(meant.visit).toMatchObject({ standing: 'right' })
  })

  test('every station refuses or takes every vector, and nothing else happens', async () => {
    for (const name of ['apng8.png', 'binary.gif', 'prores4444-a16.mov', 'webp-lossy.webp', 'png16.mov']) {
      for (const station of stations.filter(s => s.kind === 'picture')) {
        try {
          const { visit: seen } = await receive(station.id, [await vectorFile(name)], ask, host)
          expect(seen.sentence.length).toBeGreaterThan(10)
        } catch (error) {
          expect({ station: station.id, name, kind: (error as { kind?: string }).kind }).toMatchObject({
            kind: 'impossible'
          })
        }
      }
    }
  })

  test('wrong questions and wrong files end in clear words', async () => {
    const file = await vectorFile('apng8.png')
    await expect(receive('no-such', [file], ask, host)).rejects.toThrow(/no station called no-such/)
    await expect(receive('asks', [bytesFile('x.bin', new Uint8Array(50))], ask, host)).rejects.toMatchObject({
      kind: 'unreadable'
    })
    await expect(receive('asks', [file], StationAsk.parse({ frame: 999 }), host)).rejects.toMatchObject({
      kind: 'wrong-call'
    })
    await expect(receive('asks', [file], ask, host, { mostPixels: 10 })).rejects.toMatchObject({ kind: 'impossible' })
    await expect(receive('this-browser', [file], ask, host)).rejects.toThrow(/asked in the page/)
    for (const bad of [
      { scale: '1e9' },
      { backdrop: 'red' },
      { meant: 'premultiplied:#12' },
      { frame: '0' },
      { turn: 'x' },
      { other: '1' }
    ])
      expect(StationAsk.safeParse(bad).success).toBe(false)
  })
})

test('each station has an id of its own, a family, and an explanation in words', () => {
  expect(new Set(stations.map(s => s.id)).size).toBe(stations.length)
  expect(stations.length).toBeGreaterThanOrEqual(16)
  for (const { family, explains } of stations) {
    expect(family).toMatch(/^(a|an|this) /)
    expect(explains).toMatch(/\.$/)
  }
})

test('a station that shows the file rightly is wrong all the same where the file is not the source', () => {
  const right = { standing: 'right', sentence: 'Right as it is.' } as const
  const off = { codes: 200, max: 60, mean: 30, share: 0.4, tends: 'lighter' } as const
  expect(againstSource(right, null)).toBe(right)
  expect(againstSource(right, { ...off, max: 4 })).toBe(right)
  expect(againstSource(right, { ...off, share: 0.001 })).toBe(right)
  const lacking = againstSource(right, off)
  expect(lacking.standing).toBe('wrong')
  expect(lacking.sentence).toContain('40 % of the picture differs, by up to 200 codes')
})

test('a film of alpha alone is right nowhere once the source is looked at; the whole stays as it was', async () => {
  const { kernels } = await testHost()
  const source = pot(0.6)
  const facts = (claim: 'straight' | 'none'): SourceFacts => ({
    name: 'x',
    format: 'quicktime-png',
    kind: 'x',
    width: source.width,
    height: source.height,
    frames: 1,
    rate: [24, 1],
    rateFrom: 'file',
    bitDepth: 8,
    claim: { mode: claim, matte: null, says: '' },
    colour: null,
    pixelAspect: [1, 1],
    plays: null,
    bytes: 1,
    findings: []
  })
  const grey = {
    ...source,
    samples: source.samples.map((_, i) => (i % 4 === 3 ? 255 : source.samples[i - (i % 4) + 3]!)) as Uint8Array,
    alpha: OPAQUE
  }
  const station = stationById('reads-the-label')!
  const seen = (frame: Frame, claim: 'straight' | 'none', due: AlphaMode) =>
    visit(
      {
        station,
        facts: facts(claim),
        due,
        index: 0,
        scene: flatScene('#4a7ba6'),
        frame: () => Promise.resolve(frame),
        source
      },
      kernels
    )
  expect((await seen(grey, 'none', OPAQUE)).standing).toBe('wrong')
  expect((await seen(source, 'straight', STRAIGHT)).standing).toBe('right')
})
