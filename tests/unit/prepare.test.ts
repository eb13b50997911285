/** Steps of a preparation: what each promises, measured on pictures whose truth is known. */
import { hlgGain, hlgScene, pqLight } from '../../core/frame/hdr'
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { STRAIGHT, type Depth, type Frame } from '../../core/frame/frame'
import { withDepth } from '../../core/frame/depth'
import {
  alphaChanged,
  asFrame,
  asPicture,
  carriedFrame,
  changed,
  someRows,
  type Carried
} from '../../core/prepare/carried'
import { plateRows } from '../../core/frame/kernels/plate'
import { estimatePlate, findScreen } from '../../core/prepare/chroma'
import { colourAt, contentOf, unionOf } from '../../core/prepare/content'
import { contentOfClip } from '../../core/prepare/content-of-clip'
import { stepKindById, stepKinds } from '../../core/prepare/kinds'
import { nearestOf, NONE } from '../../core/frame/nearest'
import { screenFound } from '../../core/prepare/kinds/chroma-key'
import { toFrame, toPicture, type Picture } from '../../core/prepare/picture'
import { islandsOf } from '../../core/frame/islands'
import { soften } from '../../core/frame/soften'
import { grow } from '../../core/prepare/plane'
import {
  newStep,
  preparationProblems,
  prepared,
  preparedFacts,
  readPreparation,
  sourceFrames,
  Step
} from '../../core/prepare/preparation'
import { spaceOf, TO_709 } from '../../core/prepare/gamut'
import { scaled } from '../../core/prepare/scale'
import type { StepKind } from '../../core/prepare/step'
import { turned, turnedSize } from '../../core/prepare/turn'
import { toCoded } from '../../core/frame/transfer'
import { coverage, shapeAt, withShapeAt } from '../../core/base/settings/shape'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { type Source, type SourceFacts, preparedSpec } from '../../core/source/source'
import { sayPixel } from '../../core/judge/view/loupe'
import { pot, potOnScreen, potShadow, pollen } from '../../demo/scenes'
import { inlinePool } from '../../platform/node/pool'
import { WorkContext } from '../../core/open/context'
import { bytesFile, firstDifference, noise, testHost, writeFilm } from './support'

const host = await testHost()
const { kernels } = host

const facts = (frame: Frame, frames: number): SourceFacts => ({
  name: 's',
  format: 'x',
  kind: 'x',
  width: frame.width,
  height: frame.height,
  frames,
  rate: [24, 1],
  rateFrom: 'file',
  bitDepth: frame.depth,
  claim: { mode: 'straight', matte: null, says: '' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 0,
  findings: []
})

/** A source over frames at hand. */
function over(frames: readonly Frame[], more: Partial<SourceFacts> = {}): Source {
  return {
    facts: { ...facts(frames[0]!, frames.length), ...more },
    frame: index =>
      frames[index] ? Promise.resolve(frames[index]) : Promise.reject(new RangeError(`there is no frame ${index + 1}`)),
    close: () => Promise.resolve()
  }
}

const step = (kind: string, settings: Record<string, unknown> = {}): Step =>
  Step.parse(newStep(kind, stepKindById(kind), settings))

async function made(frame: Frame, steps: Step[], others: Record<string, Source> = {}): Promise<Frame> {
  return prepared(over([frame]), steps, new Map(Object.entries(others)), kernels).frame(0)
}

const picture = (frame: Frame): Picture => toPicture(frame, kernels)

/** The picture over a colour, 0 to 1. */
function composite({ rgba }: Picture, back: readonly number[]): Float32Array {
  const out = new Float32Array((rgba.length / 4) * 3)
  for (let p = 0; p < rgba.length / 4; p++)
    for (let c = 0; c < 3; c++) out[3 * p + c] = rgba[4 * p + c]! * rgba[4 * p + 3]! + back[c]! * (1 - rgba[4 * p + 3]!)
  return out
}

function largest(a: Float32Array, b: Float32Array): number {
  let most = 0
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i]! - b[i]!))
  return most
}

/** A frame laid on a colour, without alpha, at 8 bits. */
function laidOn(frame: Frame, back: readonly number[]): Frame {
  const flat = composite(picture(frame), back)
  const samples = new Uint8Array((flat.length / 3) * 4)
  for (let p = 0; p < flat.length / 3; p++)
    samples.set([...flat.subarray(3 * p, 3 * p + 3)].map(v => Math.round(v * 255)).concat(255), 4 * p)
  return { width: frame.width, height: frame.height, depth: 8, samples, alpha: { mode: 'none' }, transfer: 'srgb' }
}

test('every step runs with its defaults on every depth, changes no input, and its facts tell the truth', async () => {
  for (const depth of [8, 16, 32] as Depth[]) {
    const frame = noise({ width: 23, height: 17, depth, seed: 5 })
    const before = frame.samples.slice()
    for (const kind of stepKinds) {
      const steps = [step(kind.id)]
      const source = prepared(over([frame, frame, frame]), steps, new Map(), kernels)
      expect(source.facts).toMatchObject({ ...preparedFacts(over([frame, frame, frame]).facts, steps) })
      for (const index of [0, source.facts.frames - 1]) {
        const out = await source.frame(index)
        expect([kind.id, out.width, out.height, out.depth]).toEqual([
          kind.id,
          source.facts.width,
          source.facts.height,
          source.facts.bitDepth
        ])
        expect(out.samples.length).toBe(out.width * out.height * 4)
        if (out.samples.some(v => Number.isNaN(v))) throw new Error(`${kind.id} makes NaN`)
      }
      await expect(source.frame(source.facts.frames)).rejects.toThrow()
    }
    expect(firstDifference(frame.samples, before)).toBeNull()
  }
})

test('settings have a schema: what is out of bounds or unknown is refused by name, what is missing takes its default', () => {
  expect(Step.parse({ id: 'a', kind: 'alpha-levels', on: true, settings: {} }).settings).toEqual({
    low: 2,
    high: 98,
    middle: 1
  })
  expect(() => Step.parse({ id: 'a', kind: 'alpha-levels', on: true, settings: { low: 101 } })).toThrow(/Clear to/)
  expect(() => Step.parse({ id: 'a', kind: 'alpha-levels', on: true, settings: { lo: 1 } })).toThrow()
  expect(() => Step.parse({ id: 'a', kind: 'no-such', on: true, settings: {} })).toThrow()
  expect(() =>
    readPreparation(
      '{"pour":"preparation","version":1,"name":"x","steps":[{"id":"1","kind":"crop","on":true,"settings":{"box":{"x":1}}}]}'
    )
  ).toThrow(/step 1, Crop: Keep/)
  expect(() => readPreparation('nothing')).toThrow(/not JSON/)
})

test('steps that move samples are exact, and undo each other', () => {
  fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 30 }),
      fc.integer({ min: 1, max: 30 }),
      fc.integer({ min: 1, max: 1e6 }),
      fc.constantFrom<Depth>(8, 16, 32),
      async (width, height, seed, depth) => {
        const frame = noise({ width, height, depth, seed })
        for (const steps of [
          [step('flip'), step('flip')],
          [step('rotate', { turn: '90' }), step('rotate', { turn: '270' })],
          [step('rotate', { turn: '180' }), step('flip', { way: 'across' }), step('flip', { way: 'down' })],
          [step('pad', { left: 3, top: 2, right: 1, bottom: 5 }), step('crop', { box: { x: 3, y: 2, width, height } })],
          [step('rotate'), step('rotate'), step('rotate'), step('rotate')]
        ]) {
          const out = await made(frame, steps)
          expect([out.width, out.height]).toEqual([width, height])
          expect(firstDifference(out.samples, frame.samples)).toBeNull()
        }
      }
    ),
    { numRuns: 40 }
  )
})

test('a flat background, black or white is taken out so that laying it on again gives the original within one code', async () => {
  const drawn = [pollen(0.3), potShadow(0.2), noise({ width: 64, height: 48, depth: 8, seed: 3 })]
  for (const [kind, back, settings] of [
    ['flat-background', [0.2, 0.55, 0.8], { colour: '#338ccc' }],
    ['glow-to-alpha', [0, 0, 0], {}],
    ['shadow-to-alpha', [1, 1, 1], {}],
    ['flat-background', [1, 1, 1], { colour: '#ffffff' }]
  ] as const) {
    for (const frame of drawn) {
      const flat = laidOn(frame, back)
      const out = await made(flat, [step(kind, settings)])
      expect(out.depth).toBe(16)
      expect(largest(composite(picture(out), back), composite(picture(flat), back))).toBeLessThanOrEqual(1 / 255)
    }
  }
  // and the background itself is gone: where there was nothing but black, white or the colour, it is clear
  for (const [kind, made0] of [
    ['glow-to-alpha', pollen(0.3)],
    ['shadow-to-alpha', potShadow(0.2)]
  ] as const) {
    const out = await made(made0, [step(kind)])
    expect(out.samples[3]).toBe(0)
    expect(out.samples.some((v, i) => i % 4 === 3 && v > 10000)).toBe(true)
  }
  const out = await made(laidOn(pot(0.5), [0.2, 0.55, 0.8]), [step('flat-background', { colour: '#338ccc' })])
  expect(out.samples[3]).toBe(0)
})

test('chroma key on the pot before its unevenly lit screen: alpha within 2 % in the mean, solid parts solid, spill gone', async () => {
  for (const t of [0.1, 0.6, 1]) {
    const truth = picture(pot(t))
    const shot = potOnScreen(t)
    const screen = screenFound(picture(shot))
    const out = picture(await made(shot, [step('chroma-key', { screen })]))
    let [error, solid, kept, clear, gone, spill, seen] = [0, 0, 0, 0, 0, 0, 0]
    for (let i = 0; i < truth.rgba.length; i += 4) {
      const [due, found] = [truth.rgba[i + 3]!, out.rgba[i + 3]!]
      error += Math.abs(due - found)
      if (due === 1) {
        solid++
        if (found > 0.999) kept++
      }
      if (due === 0) {
        clear++
        if (found === 0) gone++
      }
      if (found > 0.05 && due > 0.05) {
        seen++
        // green beyond the truth's own
        spill += Math.max(
          0,
          out.rgba[i + 1]! -
            Math.max(out.rgba[i]!, out.rgba[i + 2]!) -
            Math.max(0, truth.rgba[i + 1]! - Math.max(truth.rgba[i]!, truth.rgba[i + 2]!))
        )
      }
    }
    expect(error / (truth.rgba.length / 4), 'mean alpha error').toBeLessThan(0.02)
    expect(kept / solid, 'solid kept').toBeGreaterThanOrEqual(0.995)
    expect(gone / clear, 'screen gone').toBeGreaterThan(0.98)
    expect(spill / seen, 'mean spill').toBeLessThan(1 / 255)
  }
})

test('the plate is found through uneven light, and a clean plate does as well', async () => {
  const shot = picture(potOnScreen(1))
  const empty = picture(potOnScreen(-1))
  const { width, height } = shot
  const plate = estimatePlate(every => someRows({ picture: shot }, every, kernels), width, height, findScreen(shot))
  const row = new Float32Array(4 * width)
  let [sum, count] = [0, 0]
  const draw = plateRows(plate, width, height)
  for (let y = 0; y < height; y++) {
    draw(y, row)
    for (let k = 0; k < row.length; k++) if (k % 4 !== 3) sum += Math.abs(row[k]! - empty.rgba[4 * y * width + k]!)
    count += 3 * width
  }
  expect(sum / count).toBeLessThan(0.012)
  const keyed = picture(
    await made(potOnScreen(1), [step('chroma-key', { light: 'plate', plate: 'p', screen: screenFound(shot) })], {
      p: over([potOnScreen(-1)])
    })
  )
  const truth = picture(pot(1))
  expect(
    keyed.rgba.reduce((s, v, i) => s + (i % 4 === 3 ? Math.abs(v - truth.rgba[i]!) : 0), 0) / (truth.rgba.length / 4)
  ).toBeLessThan(0.02)
})

test('a difference key, a matte from another source and drawn masks hold their promises', async () => {
  const truth = picture(pot(0.8))
  const keyed = picture(
    await made(potOnScreen(0.8), [step('difference-key', { plate: 'p', low: 3, high: 12 })], {
      p: over([potOnScreen(-1)])
    })
  )
  expect(
    keyed.rgba.reduce((s, v, i) => s + (i % 4 === 3 ? Math.abs(v - truth.rgba[i]!) : 0), 0) / (keyed.rgba.length / 4)
  ).toBeLessThan(0.02)

  const colour = noise({ width: 20, height: 10, depth: 16, seed: 2 })
  const key = noise({ width: 20, height: 10, depth: 16, seed: 9 })
  const out = await made(colour, [step('matte-from', { matte: 'k', channel: 'alpha' })], { k: over([key]) })
  for (let i = 0; i < out.samples.length; i += 4)
    expect([...out.samples.subarray(i, i + 4)]).toEqual([...colour.samples.subarray(i, i + 3), key.samples[i + 3]])
  const inverted = await made(colour, [step('matte-from', { matte: 'k', channel: 'alpha', invert: true })], {
    k: over([key])
  })
  for (let i = 3; i < out.samples.length; i += 4) expect(inverted.samples[i]).toBe(65535 - key.samples[i]!)

  const keys = withShapeAt(
    [
      {
        frame: 1,
        kind: 'rectangle',
        points: [
          [0, 0],
          [10, 10]
        ]
      }
    ],
    {
      frame: 11,
      kind: 'rectangle',
      points: [
        [20, 0],
        [30, 10]
      ]
    }
  )
  expect(shapeAt(keys, 6)!.points).toEqual([
    [10, 0],
    [20, 10]
  ])
  expect(shapeAt(keys, 50)!.points).toEqual([
    [20, 0],
    [30, 10]
  ])
  for (const kind of ['ellipse', 'rectangle'] as const) {
    const area = coverage(
      {
        frame: 1,
        kind,
        points: [
          [10, 10],
          [50, 30]
        ]
      },
      64,
      48,
      1
    ).reduce((a, b) => a + b, 0)
    expect(area / (kind === 'rectangle' ? 800 : Math.PI * 20 * 10)).toBeCloseTo(1, 1)
  }
  const triangle = coverage(
    {
      frame: 1,
      kind: 'polygon',
      points: [
        [10, 10],
        [50, 10],
        [10, 40]
      ]
    },
    64,
    48,
    1
  ).reduce((a, b) => a + b, 0)
  expect(triangle / 600).toBeCloseTo(1, 1)
  const masked = await made(colour, [
    step('drawn-mask', {
      shape: [
        {
          frame: 1,
          kind: 'rectangle',
          points: [
            [0, 0],
            [10, 10]
          ]
        }
      ]
    })
  ])
  expect(masked.samples[4 * 15 + 3]).toBe(0)
  expect(masked.samples[4 * 5 + 3]).toBe(colour.samples[4 * 5 + 3])
})

test('alpha steps do what their names say', async () => {
  const values = [0, 5, 16, 100, 128, 235, 250, 255]
  const frame: Frame = {
    width: 8,
    height: 1,
    depth: 8,
    samples: Uint8Array.from(values.flatMap(a => [10, 20, 30, a])),
    alpha: STRAIGHT,
    transfer: 'srgb'
  }
  const alphas = async (...steps: Step[]): Promise<number[]> =>
    [...withDepth(await made(frame, steps), 8, kernels).samples].filter((_, i) => i % 4 === 3)
  expect(await alphas(step('alpha-invert'))).toEqual(values.map(a => 255 - a))
  expect(await alphas(step('alpha-threshold'))).toEqual(values.map(a => (a >= 128 ? 255 : 0)))
  expect(await alphas(step('alpha-full-range'))).toEqual(
    values.map(a => Math.round(Math.min(1, Math.max(0, (a - 16) / 219)) * 255))
  )
  expect(await alphas(step('alpha-haze', { below: 2 }))).toEqual(values.map(a => (a <= 5 ? 0 : a)))
  expect(await alphas(step('alpha-opacity', { to: 50 }))).toEqual(values.map(a => Math.round(a / 2)))
  expect(await alphas(step('alpha-levels', { low: 0, high: 50 }))).toEqual(values.map(a => Math.min(255, a * 2)))
  // 8-bit colour survives the way through 16 bits and back
  expect(withDepth(await made(frame, [step('alpha-opacity', { to: 50 })]), 8, kernels).samples.slice(0, 3)).toEqual(
    Uint8Array.from([10, 20, 30])
  )
})

test('frames of a prepared source do not share memory, one after another or all at once', async () => {
  const frames = [0.1, 0.4, 0.8].map(t => pot(t))
  const steps = [step('alpha-opacity', { to: 50 }), step('alpha-soften', { by: 1 })]
  // each by a source of its own, so that nothing can be left over from another frame
  const due = await Promise.all(frames.map((_, i) => prepared(over(frames), steps, new Map(), kernels).frame(i)))
  const one = prepared(over(frames), steps, new Map(), kernels)
  for (const order of [
    [0, 1, 2],
    [2, 0, 1]
  ])
    for (const i of order) expect(firstDifference((await one.frame(i)).samples, due[i]!.samples)).toBeNull()
  const together = await Promise.all([0, 1, 2].map(i => one.frame(i)))
  together.forEach((frame, i) => expect(firstDifference(frame.samples, due[i]!.samples)).toBeNull())
})

test('growing, shrinking, softening and specks', () => {
  const [w, h] = [41, 31]
  const disc = new Float32Array(w * h)
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) disc[y * w + x] = Math.hypot(x - 20, y - 15) <= 8 ? 1 : 0
  const sum = (plane: Float32Array): number => plane.reduce((a, b) => a + b, 0)
  for (const by of [1, 2, 3.5, -1, -2, -3.5])
    expect(Math.sqrt(sum(grow(disc, w, h, by, kernels)) / Math.PI) - Math.sqrt(sum(disc) / Math.PI)).toBeCloseTo(by, 0)
  expect(firstDifference(grow(disc, w, h, 0, kernels), disc)).toBeNull()
  for (const by of [0.5, 1, 2.25]) {
    const soft = soften(disc, w, h, by, kernels)
    expect(sum(soft)).toBeCloseTo(sum(disc), 1)
    expect(Math.max(...soft)).toBeLessThanOrEqual(1.00001)
  }
})

test('islands touch at sides and corners, and an arch that joins late is one', () => {
  const rows = ['#..#..#', '#..#.#.', '####...', '......#', '##....#']
  const mask = Uint8Array.from(rows.join(''), c => (c === '#' ? 1 : 0))
  const { runs, root } = islandsOf(mask, 7, 5)
  const sizes = new Map<number, number>()
  for (let n = 0; n < runs.length; n += 4)
    sizes.set(root(runs[n + 3]!), (sizes.get(root(runs[n + 3]!)) ?? 0) + runs[n + 2]! - runs[n + 1]! + 1)
  expect([...sizes.values()].sort((x, y) => x - y)).toEqual([2, 2, 2, 8])
})

test('specks go, holes close, and what is large stays', async () => {
  const [w, h] = [40, 30]
  const samples = new Uint8Array(w * h * 4)
  for (let y = 5; y < 25; y++) for (let x = 5; x < 30; x++) samples.set([200, 100, 50, 255], 4 * (y * w + x))
  samples.set([200, 100, 50, 0], 4 * (15 * w + 15))
  samples.set([9, 9, 9, 80], 4 * (2 * w + 36))
  const out = await made({ width: w, height: h, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }, [
    step('alpha-specks', { size: 4 })
  ])
  expect(out.samples[4 * (2 * w + 36) + 3]).toBe(0)
  expect(out.samples[4 * (15 * w + 15) + 3]).toBe(255)
  expect(out.samples[4 * (10 * w + 10) + 3]).toBe(255)
  expect(out.samples[3]).toBe(0)
})

test('scaling shows no fringe: over any backdrop it is what the composite scaled would be', () => {
  const full = picture(pot(0.7))
  for (const [width, height] of [
    [213, 120],
    [320, 180],
    [900, 500]
  ] as const) {
    const small = scaled(full, width, height, 'lanczos', kernels)
    for (const back of [
      [0, 0, 0],
      [1, 1, 1],
      [0.9, 0.1, 0.6]
    ]) {
      const flat = composite(full, back)
      const rgba = new Float32Array((flat.length / 3) * 4)
      for (let p = 0; p < flat.length / 3; p++) rgba.set([...flat.subarray(3 * p, 3 * p + 3), 1], 4 * p)
      const due = composite(scaled({ ...full, rgba }, width, height, 'lanczos', kernels), back)
      const found = composite(small, back)
      // the filter rings beyond clear and solid; alpha cuts its halo off where a composite keeps it
      let sum = 0
      for (let i = 0; i < due.length; i++) sum += Math.abs(due[i]! - found[i]!)
      expect(sum / due.length).toBeLessThan(0.1 / 255)
      expect(largest(due, found)).toBeLessThan(0.15)
    }
  }
  // a picture of one colour stays of that colour, down to its faintest edge
  const one: Picture = { width: 30, height: 30, rgba: new Float32Array(3600) }
  for (let p = 0; p < 900; p++) one.rgba.set([0.8, 0.3, 0.1, p % 30 > 10 && p % 30 < 20 ? 1 : 0], 4 * p)
  const half = scaled(one, 13, 17, 'lanczos', kernels)
  for (let i = 0; i < half.rgba.length; i += 4)
    if (half.rgba[i + 3]! > 1e-3)
      for (let c = 0; c < 3; c++) expect(Math.abs(half.rgba[i + c]! - [0.8, 0.3, 0.1][c]!)).toBeLessThan(0.01)
})

test('edge fill leaves alpha alone and carries the edge outward; clear to black wipes', async () => {
  const frame = noise({ width: 32, height: 32, depth: 16, seed: 4 })
  const filled = await made(frame, [step('edge-fill')])
  const black = await made(filled, [step('clear-to-black')])
  for (let i = 0; i < frame.samples.length; i += 4) {
    expect(filled.samples[i + 3]).toBe(frame.samples[i + 3])
    if (frame.samples[i + 3]! > 0) for (let c = 0; c < 3; c++) expect(filled.samples[i + c]).toBe(frame.samples[i + c])
    else expect([...black.samples.subarray(i, i + 4)]).toEqual([0, 0, 0, 0])
  }
  const dot = new Uint8Array(16 * 16 * 4)
  dot.set([250, 120, 10, 255], 4 * (8 * 16 + 8))
  const spread = await made({ width: 16, height: 16, depth: 8, samples: dot, alpha: STRAIGHT, transfer: 'srgb' }, [
    step('edge-fill')
  ])
  expect([...spread.samples.subarray(4 * (6 * 16 + 6), 4 * (6 * 16 + 6) + 4)]).toEqual([250, 120, 10, 0])
})

test('edge fill reaches alike on all sides, at any size and place', async () => {
  for (const [width, height, x, y, radius, reach] of [
    [61, 47, 30, 22, 5, 9],
    [64, 64, 31, 33, 3, 14],
    [90, 20, 7, 9, 2, 32]
  ] as const) {
    const samples = new Uint8Array(4 * width * height)
    const inside = (u: number, v: number): boolean => Math.hypot(u - x, v - y) <= radius
    for (let p = 0; p < width * height; p++)
      if (inside(p % width, Math.floor(p / width))) samples.set([200, 90, 40, 255], 4 * p)
    const filled = await made({ width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }, [
      step('edge-fill', { reach })
    ])
    for (let p = 0; p < width * height; p++) {
      let nearest = Infinity
      for (let v = y - radius; v <= y + radius; v++)
        for (let u = x - radius; u <= x + radius; u++)
          if (inside(u, v)) nearest = Math.min(nearest, Math.hypot(u - (p % width), v - Math.floor(p / width)))
      expect(filled.samples[4 * p]).toBe(nearest <= reach ? 200 : 0)
    }
  }
})

test('the nearest marked pixel is found exactly', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 19 }),
      fc.integer({ min: 1, max: 17 }),
      fc.array(fc.nat(322), { maxLength: 9 }),
      (width, height, places) => {
        const marked = new Uint8Array(width * height)
        for (const place of places) if (place < marked.length) marked[place] = 1
        const { from, squares } = nearestOf(marked, width, height)
        const far = (p: number, q: number): number =>
          ((p % width) - (q % width)) ** 2 + (Math.floor(p / width) - Math.floor(q / width)) ** 2
        for (let p = 0; p < marked.length; p++) {
          let due = NONE
          marked.forEach((is, q) => (due = is ? Math.min(due, far(p, q)) : due))
          expect(squares[p]).toBe(due)
          if (due !== NONE) expect([marked[from[p]!], far(p, from[p]!)]).toEqual([1, due])
          else expect(from[p]).toBe(-1)
        }
      }
    ),
    { numRuns: 200 }
  )
})

test('steps in time', async () => {
  const frames = [10, 20, 30, 40].map(v => ({
    width: 1,
    height: 1,
    depth: 8 as const,
    samples: Uint8Array.from([v, v, v, 255]),
    alpha: STRAIGHT,
    transfer: 'srgb' as const
  }))
  const shown = async (...steps: Step[]): Promise<{ values: number[]; rate: unknown }> => {
    const source = prepared(over(frames), steps, new Map(), kernels)
    const all = await Promise.all(Array.from({ length: source.facts.frames }, (_, i) => source.frame(i)))
    return { values: all.map(f => withDepth(f, 8, kernels).samples[0]!), rate: source.facts.rate }
  }
  expect(await shown(step('range', { from: 2, to: 3 }))).toEqual({ values: [20, 30], rate: [24, 1] })
  expect(await shown(step('reverse'))).toMatchObject({ values: [40, 30, 20, 10] })
  expect(await shown(step('drop-last'))).toMatchObject({ values: [10, 20, 30] })
  expect(await shown(step('repeat', { times: 2 }))).toMatchObject({ values: [10, 20, 30, 40, 10, 20, 30, 40] })
  expect(await shown(step('ping-pong'))).toMatchObject({ values: [10, 20, 30, 40, 30, 20] })
  expect(await shown(step('hold', { first: 1, last: 2 }))).toMatchObject({ values: [10, 10, 20, 30, 40, 40, 40] })
  expect(await shown(step('play-rate', { rate: '23.976' }))).toEqual({ values: [10, 20, 30, 40], rate: [24000, 1001] })
  expect(await shown(step('convert-rate', { rate: '48', how: 'hold' }))).toEqual({
    values: [10, 10, 20, 20, 30, 30, 40, 40],
    rate: [48, 1]
  })
  expect(await shown(step('convert-rate', { rate: '48', how: 'blend' }))).toMatchObject({
    values: [10, 15, 20, 25, 30, 35, 40, 40]
  })
  expect(await shown(step('convert-rate', { rate: '12' }))).toMatchObject({ values: [10, 30] })
  const chain = [step('range', { from: 2, to: 4 }), step('reverse'), step('alpha-opacity')]
  expect(await shown(...chain)).toMatchObject({ values: [40, 30, 20] })
  expect(sourceFrames(over(frames).facts, chain)).toEqual([3, 2, 1])
  // a step that cannot be carried out is passed over, and says why
  const impossible = step('range', { from: 9, to: 12 })
  expect(await shown(impossible)).toMatchObject({ values: [10, 20, 30, 40] })
  expect(preparationProblems(over(frames).facts, [impossible]).get('range')).toMatch(/4 frames/)
  expect(preparationProblems(over(frames, { rate: null }).facts, [step('convert-rate')]).get('convert-rate')).toMatch(
    /no rate/
  )
  expect((await shown({ ...step('reverse'), on: false })).values).toEqual([10, 20, 30, 40])
})

test('blending two frames weighs colour by alpha', async () => {
  const [a, b] = [
    [255, 0, 0, 255],
    [0, 255, 0, 0]
  ].map(v => ({
    width: 1,
    height: 1,
    depth: 8 as const,
    samples: Uint8Array.from(v),
    alpha: STRAIGHT,
    transfer: 'srgb' as const
  }))
  const source = prepared(over([a!, b!]), [step('convert-rate', { rate: '48', how: 'blend' })], new Map(), kernels)
  expect([...withDepth(await source.frame(1), 8, kernels).samples]).toEqual([255, 0, 0, 128])
})

test('crop to content, and its union over frames', async () => {
  const frame: Frame = {
    width: 20,
    height: 10,
    depth: 8,
    samples: new Uint8Array(800),
    alpha: STRAIGHT,
    transfer: 'srgb'
  }
  expect(contentOf(frame)).toBeNull()
  frame.samples.set([1, 2, 3, 4], 4 * (3 * 20 + 7))
  frame.samples.set([1, 2, 3, 4], 4 * (8 * 20 + 5))
  expect(contentOf(frame)).toEqual({ x: 5, y: 3, width: 3, height: 6 })
  const box = unionOf([null, contentOf(frame), { x: 0, y: 4, width: 1, height: 1 }])
  expect(box).toEqual({ x: 0, y: 3, width: 8, height: 6 })
  const out = await made(frame, [step('crop', { box, margin: 2 })])
  expect([out.width, out.height]).toEqual([10, 9])
})

test('dither keeps codes, clear and solid, and the mean of a ramp', async () => {
  const [w, h] = [256, 32]
  const rgba = new Float32Array(w * h * 4)
  for (let p = 0; p < w * h; p++)
    rgba.set([0.5 + (p % w) / w / 255, 0, 1, p % 3 === 0 ? 0 : p % 3 === 1 ? 1 : 0.3], 4 * p)
  const out = await made(toFrame({ width: w, height: h, rgba }, 16, kernels), [step('depth')])
  expect(out.depth).toBe(8)
  for (let p = 0; p < w * h; p++) if (p % 3 < 2) expect(out.samples[4 * p + 3]).toBe(p % 3 === 0 ? 0 : 255)
  const mean = (from: number): number => {
    let sum = 0
    for (let y = 0; y < h; y++) for (let x = from; x < from + 32; x++) sum += out.samples[4 * (y * w + x)]!
    return sum / (32 * h)
  }
  // half a code apart where plain rounding would see one code or none
  expect(mean(224) - mean(0)).toBeCloseTo(0.875, 0)
  expect(mean(128)).toBeGreaterThan(mean(0))
  expect(mean(224)).toBeGreaterThan(mean(128))
})

test('a source with a preparation opens prepared, with the sources its steps look at', async () => {
  const [a, b] = [
    noise({ width: 16, height: 12, depth: 8, seed: 1 }),
    noise({ width: 16, height: 12, depth: 8, seed: 2 })
  ]
  const spec = specAsFound('a', 'a', 'apng', [bytesFile('a.png', await writeFilm('apng', [a, a]))])
  const other = specAsFound('b', 'b', 'apng', [bytesFile('b.png', await writeFilm('apng', [b]))])
  const source = await openSource(
    preparedSpec(
      spec,
      [
        step('matte-from', { matte: 'b', channel: 'alpha' }),
        step('crop', { box: { x: 2, y: 1, width: 5, height: 4 } })
      ],
      { b: other }
    ),
    host
  )
  expect(source.facts).toMatchObject({ width: 5, height: 4, frames: 2, bitDepth: 16 })
  const out = withDepth(await source.frame(1), 8, kernels)
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 5; x++) expect(out.samples[4 * (y * 5 + x) + 3]).toBe(b.samples[4 * ((y + 1) * 16 + x + 2) + 3])
  await source.close()
})

test('content is found over a whole clip, and a picked colour is the mean of its neighbours', async () => {
  const frames = [0, 1, 2].map(n => {
    const samples = new Uint8Array(16 * 8 * 4)
    samples.set([9, 9, 9, 200], 4 * (2 * 16 + 3 + 4 * n))
    return { width: 16, height: 8, depth: 8 as const, samples, alpha: STRAIGHT, transfer: 'srgb' as const }
  })
  const spec = specAsFound('clip', 'clip', 'apng', [bytesFile('c.png', await writeFilm('apng', frames))])
  expect(await contentOfClip(spec, 3, inlinePool(host))).toEqual({ x: 3, y: 2, width: 9, height: 1 })
  const even: Frame = {
    width: 3,
    height: 3,
    depth: 16,
    samples: Uint16Array.from({ length: 36 }, (_, i) => (i % 4 === 0 ? 257 * 10 * (i / 4) : 257 * 40)),
    alpha: STRAIGHT,
    transfer: 'srgb'
  }
  expect(colourAt(even, 1, 1)).toBe('#282828')
  expect(colourAt(even, 0, 0)).toBe('#142828')
  expect([colourAt(even, -1, 0), colourAt(even, 3, 0)]).toEqual([null, null])
})

test('a worker prepares over what it has open, and what it keeps of a frame is never given away', async () => {
  const frame = noise({ width: 16, height: 12, depth: 16, seed: 7 })
  const spec = specAsFound('kept', 'kept', 'apng', [bytesFile('a.png', await writeFilm('apng', [frame]))])
  const context = new WorkContext(host)
  const moved = await context.source(preparedSpec(spec, [step('flip')], {}))
  const still = await context.source(preparedSpec(spec, [step('reverse')], {}))
  for (let n = 0; n < 3; n++) {
    const first = await still.frame(0)
    expect(firstDifference(first.samples, frame.samples)).toBeNull()
    // as a transfer to another thread would leave it
    structuredClone(first.samples, { transfer: [first.samples.buffer as ArrayBuffer] })
    expect(firstDifference((await made(await moved.frame(0), [step('flip')])).samples, frame.samples)).toBeNull()
  }
  // variants of one preparation, more than are kept open, leave the one in use working
  for (let n = 1; n < 24; n++)
    await (await context.source(preparedSpec(spec, [step('alpha-opacity', { to: n })], {}))).frame(0)
  expect((await still.frame(0)).width).toBe(16)
})

test('light beside premultiplied alpha becomes alpha, even where there was none, and what was solid stays so', async () => {
  const samples = Uint16Array.from([
    20000, 9000, 0, 0, /**/ 30000, 1000, 1000, 10000, /**/ 500, 400, 300, 65535, /**/ 0, 0, 0, 0
  ])
  const frame: Frame = {
    width: 4,
    height: 1,
    depth: 16,
    samples,
    alpha: { mode: 'premultiplied', matte: '#000000' },
    transfer: 'srgb'
  }
  const out = await made(frame, [step('glow-to-alpha', { keep: true })])
  expect(out.alpha).toEqual(STRAIGHT)
  expect([3, 7, 11, 15].map(i => out.samples[i])).toEqual([20000, 30000, 65535, 0])
  for (let i = 0; i < 16; i++)
    if (i % 4 !== 3)
      expect(Math.abs((out.samples[i]! * out.samples[i - (i % 4) + 3]!) / 65535 - samples[i]!)).toBeLessThanOrEqual(1)
  const shining = await made(frame, [step('glow-to-alpha')])
  expect([3, 7, 11, 15].map(i => shining.samples[i])).toEqual([20000, 30000, 500, 0])
})

test('the loupe reads codes and per cent, of float in fractions', () => {
  const frame: Frame = {
    width: 2,
    height: 1,
    depth: 8,
    samples: Uint8Array.from([0, 0, 0, 0, 200, 100, 50, 255]),
    alpha: STRAIGHT,
    transfer: 'srgb'
  }
  expect(sayPixel(frame, 1, 0, false)).toBe('r 200 78.4 % g 100 39.2 % b 50 19.6 % · a 255 100 %')
  expect(sayPixel(frame, 1, 0, true)).toBe('r 200 g 100 b 50 · a 255 100 %')
  expect(sayPixel({ ...frame, depth: 32, samples: Float32Array.from(frame.samples, v => v / 255) }, 1, 0, true)).toBe(
    'r 0.7843 g 0.3922 b 0.1961 · a 1.0000 100 %'
  )
})

test('what is noted for a frame and done in bands comes to what is done to its whole picture', async () => {
  // those that paint under some settings do so under those of a new step
  const local = stepKinds.filter(kind => (kind.pixels ?? kind.plane) && !kind.paint)
  expect(local.length).toBeGreaterThan(15)
  const other = picture(noise({ width: 97, height: 61, depth: 16, seed: 4 }))
  const shape = [
    {
      frame: 1,
      kind: 'ellipse',
      points: [
        [10, 10],
        [80, 50]
      ]
    }
  ]
  for (const [n, alpha] of (
    [STRAIGHT, { mode: 'none' }, { mode: 'premultiplied', matte: '#204060' }] as const
  ).entries()) {
    for (const depth of [8, 16, 32] as const) {
      await fc.assert(
        fc.asyncProperty(
          fc.array(fc.constantFrom(...local), { minLength: 1, maxLength: 4 }),
          fc.integer({ min: 1, max: 1000 }),
          async (kinds, seed) => {
            // larger than a band, and not a whole number of them
            const frame: Frame = { ...noise({ width: 97, height: 61, depth, seed: seed + n }), alpha }
            const run = async (from: Carried): Promise<Carried> => {
              let carried = from
              for (const kind of kinds) {
                const { settings } = newStep(
                  'n',
                  kind,
                  kind.id === 'drawn-mask'
                    ? { shape }
                    : 'plate' in kind.fields
                      ? { plate: 'o' }
                      : kind.id === 'matte-from'
                        ? { matte: 'o' }
                        : {}
                )
                const input = carried
                const around = {
                  kernels,
                  index: 0,
                  frames: 1,
                  width: 97,
                  height: 61,
                  made: facts(frame, 1),
                  rows: (every: number) => someRows(input, every, kernels),
                  other: () => Promise.resolve(other),
                  near: () => Promise.resolve(null)
                }
                if (kind.pixels) {
                  const change = await kind.pixels(settings as never, around)
                  if (change) carried = changed(carried, change)
                } else
                  carried = await alphaChanged(
                    carried,
                    c => asPicture(c, kernels),
                    plane => kind.plane!(plane, settings as never, around)
                  )
              }
              return carried
            }
            const noted = asFrame(await run(carriedFrame(frame)), 16, kernels)
            const whole = asFrame(await run({ picture: picture(frame) }), 16, kernels)
            expect(firstDifference(noted.samples, whole.samples)).toBeNull()
          }
        ),
        { numRuns: 12 }
      )
    }
  }
})

test('a polygon covers what distances to its sides say, everywhere', () => {
  const place = fc.tuple(fc.integer({ min: -10, max: 60 }), fc.integer({ min: -10, max: 40 }))
  fc.assert(
    fc.property(
      fc.array(place, { minLength: 3, maxLength: 7 }),
      fc.integer({ min: 1, max: 30 }),
      (points, softness) => {
        const found = coverage(
          { frame: 1, kind: 'polygon', points: points.map(([x, y]): [number, number] => [x + 0.25, y + 0.125]) },
          48,
          32,
          softness
        )
        for (let y = 0; y < 32; y += 3) {
          for (let x = 0; x < 48; x += 3) {
            let [nearest, inside] = [Infinity, false]
            for (const [i, [px, py]] of points.entries()) {
              const [qx, qy] = points[(i + 1) % points.length]!
              const [ax, ay, bx, by] = [px + 0.25, py + 0.125, qx + 0.25, qy + 0.125]
              const along = (bx - ax) ** 2 + (by - ay) ** 2
              const t =
                along === 0
                  ? 0
                  : Math.max(0, Math.min(1, ((x + 0.5 - ax) * (bx - ax) + (y + 0.5 - ay) * (by - ay)) / along))
              nearest = Math.min(nearest, Math.hypot(x + 0.5 - ax - (bx - ax) * t, y + 0.5 - ay - (by - ay) * t))
              if (ay > y + 0.5 !== by > y + 0.5 && x + 0.5 < ax + ((bx - ax) * (y + 0.5 - ay)) / (by - ay))
                inside = !inside
            }
            const due = Math.max(0, Math.min(1, 0.5 + ((inside ? 1 : -1) * nearest) / softness))
            if (Math.abs(found[y * 48 + x]! - due) > 1e-5) expect(found[y * 48 + x], `${x},${y}`).toBeCloseTo(due, 5)
          }
        }
      }
    )
  )
})

test('a handle stands where its settings put the frame, and setting it there again changes nothing', async () => {
  const handled = stepKinds.filter(kind => kind.handle)
  expect(handled.map(kind => kind.id)).toEqual(['pad', 'place'])
  const side = fc.integer({ min: 0, max: 300 })
  const given = facts(noise({ width: 20, height: 12, depth: 8, seed: 1 }), 1)
  const [pad, place] = handled as [StepKind, StepKind]
  fc.assert(
    fc.property(
      side,
      side,
      side,
      side,
      fc.constantFrom('top-left', 'top-right', 'middle', 'bottom-left', 'bottom-right'),
      (left, top, right, bottom, corner) => {
        const padding = { left, top, right, bottom }
        expect(pad.handle!.set(pad.handle!.box(given, padding), given)).toEqual(padding)
        const settings = { width: 200, height: 100, corner, margin: left, x: 0, y: 0 }
        const box = place.handle!.box(given, settings)
        expect(place.handle!.box(given, { ...settings, ...place.handle!.set(box, given) })).toEqual(box)
      }
    )
  )
  // a frame drawn smaller than the picture ends at the picture
  expect(pad.handle!.set({ x: 3, y: -2, width: 5, height: 500 }, given)).toEqual({
    left: 0,
    top: 2,
    right: 0,
    bottom: 486
  })
  // put by hand, the picture is where the box was, also partly outside
  const picture = noise({ width: 20, height: 12, depth: 8, seed: 1 })
  const moved = await made(picture, [
    step('place', { width: 40, height: 30, ...place.handle!.set({ x: -5, y: 21, width: 20, height: 12 }, given) })
  ])
  for (const [x, y] of [
    [0, 21],
    [14, 29],
    [7, 25]
  ] as const)
    expect([...moved.samples.subarray(4 * (y * 40 + x), 4 * (y * 40 + x) + 4)]).toEqual([
      ...picture.samples.subarray(4 * ((y - 21) * 20 + x + 5), 4 * ((y - 21) * 20 + x + 5) + 4)
    ])
  expect(moved.samples[4 * (20 * 40 + 3) + 3]).toBe(0)
})

test('one field: lines kept stay to the last bit, still parts keep all lines, and combs are gone', async () => {
  const still = noise({ width: 40, height: 21, depth: 8, seed: 3 })
  // soft from line to line, so that nothing stands out
  for (let i = 0; i < still.samples.length; i++) still.samples[i] = 100 + 2 * Math.floor(i / 160) + (i % 4)
  const kept = await made(still, [step('one-field')])
  expect(firstDifference(kept.samples, kernels.widen(still.samples as Uint8Array))).toBeNull()

  const moving: Frame = {
    ...still,
    samples: still.samples.map(
      (_, i) => (Math.floor(i / 160) % 2 === 0 ? [220, 30, 60, 255] : [10, 200, 90, 128])[i % 4]!
    ) as Uint8Array
  }
  for (const [keep, rgba] of [
    ['upper', [220, 30, 60, 255]],
    ['lower', [10, 200, 90, 128]]
  ] as const) {
    for (const combed of [true, false]) {
      const out = await made(moving, [step('one-field', { keep, combed })])
      for (let i = 0; i < out.samples.length; i++)
        if (Math.abs(out.samples[i]! - 257 * rgba[i % 4]!) > 1)
          throw new Error(`${keep}, sample ${i}: ${out.samples[i]}`)
    }
  }
})

test('closing a loop: the first frame follows the last, what is not blended stays, and nothing can be blended with itself', async () => {
  const frames = Array.from({ length: 10 }, (_, n): Frame => ({
    width: 1,
    height: 1,
    depth: 16,
    samples: Uint16Array.of(1000 * n, 0, 0, 65535),
    alpha: STRAIGHT,
    transfer: 'srgb'
  }))
  const source = prepared(over(frames), [step('close-loop', { over: 3 })], new Map(), kernels)
  const reds = await Promise.all(
    Array.from({ length: source.facts.frames }, async (_, i) => (await source.frame(i)).samples[0]!)
  )
  // the end goes on from where the new last frame stands, a quarter less of it each time
  expect(reds).toEqual(
    [7000 * 0.75, 8000 * 0.5 + 1000 * 0.5, 9000 * 0.25 + 2000 * 0.75, 3000, 4000, 5000, 6000].map(Math.round)
  )
  expect(preparationProblems(over(frames).facts, [step('close-loop', { over: 6 })]).get('close-loop')).toMatch(
    /no more than 5/
  )
})

test('turned pictures are those of quarter turns at right angles, come back, and show no fringe between', async () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 25 }),
      fc.integer({ min: 1, max: 25 }),
      fc.integer({ min: 1, max: 1e6 }),
      (width, height, seed) => {
        const rgba = picture(noise({ width, height, depth: 16, seed })).rgba
        for (let i = 0; i < rgba.length; i += 4) if (rgba[i + 3] === 0) rgba.fill(0, i, i + 3)
        const size = turnedSize(width, height, 90)
        expect(size).toEqual({ width: height, height: width })
        const quarter = turned({ width, height, rgba: rgba.slice() }, 90, height, width, kernels)
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++)
            for (let c = 0; c < 4; c++) {
              const [found, due] = [
                quarter.rgba[4 * (x * height + height - 1 - y) + c]!,
                rgba[4 * (y * width + x) + c]!
              ]
              if (Math.abs(found - due) > 1e-5) expect(found, `${x},${y}`).toBe(due)
            }
      }
    )
  )
  const full = picture(pot(0.7))
  const size = turnedSize(full.width, full.height, 17)
  const once = turned(full, 17, size.width, size.height, kernels)
  for (const back of [
    [0, 0, 0],
    [0.9, 0.1, 0.6]
  ]) {
    const flat = composite(full, back)
    const rgba = new Float32Array((flat.length / 3) * 4)
    for (let p = 0; p < flat.length / 3; p++) rgba.set([...flat.subarray(3 * p, 3 * p + 3), 1], 4 * p)
    const due = composite(turned({ ...full, rgba }, 17, size.width, size.height, kernels), back)
    const found = composite(once, back)
    expect(due.reduce((sum, v, i) => sum + Math.abs(v - found[i]!), 0) / due.length).toBeLessThan(0.1 / 255)
    expect(largest(due, found)).toBeLessThan(0.12)
  }
  const backAgain = turned(once, -17, full.width, full.height, kernels)
  expect(
    full.rgba.reduce((sum, v, i) => sum + (i % 4 === 3 ? Math.abs(v - backAgain.rgba[i]!) : 0), 0) /
      (full.rgba.length / 4)
  ).toBeLessThan(0.004)
})

test('pixels that are not square are made so by growing, and their shape is said to be square', async () => {
  const frame = noise({ width: 40, height: 30, depth: 8, seed: 2 })
  for (const [shape, width, height] of [
    [[64, 45], 57, 30],
    [[8, 9], 40, 34]
  ] as const) {
    const source = prepared(over([frame], { pixelAspect: [...shape] }), [step('square-pixels')], new Map(), kernels)
    expect([source.facts.width, source.facts.height, source.facts.pixelAspect]).toEqual([width, height, [1, 1]])
    const out = await source.frame(0)
    expect([out.width, out.height]).toEqual([width, height])
  }
  expect(preparationProblems(over([frame]).facts, [step('square-pixels')]).get('square-pixels')).toMatch(
    /square already/
  )
})

test('what colour is taken as decides what is brought to sRGB', () => {
  const film = 'BT.601, limited range'
  expect([spaceOf('Display P3', null), spaceOf('BT.2020', film), spaceOf('linear light', 'sRGB')]).toEqual([
    'p3',
    'bt2020',
    'linear'
  ])
  expect([spaceOf('BT.709, limited range', film), spaceOf('BT.601, limited range', 'BT.709, limited range')]).toEqual([
    'bt709-read-as-bt601',
    'bt601-read-as-bt709'
  ])
  for (const [meant, said] of [
    ['sRGB', null],
    ['BT.709, limited range', null],
    [film, film],
    ['', film]
  ] as const)
    expect(spaceOf(meant, said)).toBeNull()
})

test('colour is brought to sRGB from what it is', async () => {
  // matrices from the primaries themselves (x and y of red, green and blue; white is D65)
  const toXyz = (primaries: readonly (readonly [number, number])[]): number[][] => {
    const columns = primaries.map(([x, y]) => [x / y, 1, (1 - x - y) / y])
    const white = [0.3127 / 0.329, 1, (1 - 0.3127 - 0.329) / 0.329]
    const m = [0, 1, 2].map(row => columns.map(column => column[row]!))
    const shares = inverse(m).map(row => row.reduce((sum, v, n) => sum + v * white[n]!, 0))
    return m.map(row => row.map((v, n) => v * shares[n]!))
  }
  const inverse = (m: number[][]): number[][] => {
    const [[a, b, c], [d, e, f], [g, h, i]] = m as [
      [number, number, number],
      [number, number, number],
      [number, number, number]
    ]
    const by = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
    return [
      [e * i - f * h, c * h - b * i, b * f - c * e],
      [f * g - d * i, a * i - c * g, c * d - a * f],
      [d * h - e * g, b * g - a * h, a * e - b * d]
    ].map(row => row.map(v => v / by))
  }
  const to709 = inverse(
    toXyz([
      [0.64, 0.33],
      [0.3, 0.6],
      [0.15, 0.06]
    ])
  )
  for (const [name, primaries] of [
    [
      'p3',
      [
        [0.68, 0.32],
        [0.265, 0.69],
        [0.15, 0.06]
      ]
    ],
    [
      'bt2020',
      [
        [0.708, 0.292],
        [0.17, 0.797],
        [0.131, 0.046]
      ]
    ]
  ] as const) {
    const from = toXyz(primaries)
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++)
        expect(TO_709[name][r]![c]!, `${name} ${r} ${c}`).toBeCloseTo(
          to709[r]!.reduce((sum, v, n) => sum + v * from[n]![c]!, 0),
          4
        )
  }
  const one = async (from: string, rgb: number[]): Promise<number[]> => {
    const frame: Frame = {
      width: 1,
      height: 1,
      depth: 16,
      samples: Uint16Array.from([...rgb.map(v => Math.round(v * 65535)), 30000]),
      alpha: STRAIGHT,
      transfer: 'srgb'
    }
    const source = prepared(over([frame]), [step('bring-to-srgb', { from })], new Map(), kernels)
    expect(source.facts.colour).toBe('sRGB')
    const { samples } = await source.frame(0)
    expect(samples[3]).toBe(30000)
    return [...samples.subarray(0, 3)].map(v => v / 65535)
  }
  const near = (found: number[], due: number[]): void =>
    due.forEach((v, i) => expect(Math.abs(found[i]! - v), `channel ${i}`).toBeLessThan(2e-4))
  for (const from of ['p3', 'bt2020', 'bt601-read-as-bt709', 'bt709-read-as-bt601'])
    near(await one(from, [0.5, 0.5, 0.5]), [0.5, 0.5, 0.5])
  near(await one('linear', [0.2, 0.001, 1]), [toCoded(0.2), toCoded(0.001), 1])
  near(await one('limited', [16 / 255, 235 / 255, 125.5 / 255]), [0, 1, 0.5])
  // red of P3 lies outside sRGB, and becomes its red
  near(await one('p3', [1, 0, 0]), [1, 0, 0])
  // a colour coded by one standard's coefficients and decoded by the other's
  const coded = ([r, g, b]: readonly number[], [kr, , kb]: readonly number[]): number[] => {
    const y = kr! * r! + (1 - kr! - kb!) * g! + kb! * b!
    return [y, (b! - y) / (2 * (1 - kb!)), (r! - y) / (2 * (1 - kr!))]
  }
  const decoded = ([y, u, v]: readonly number[], [kr, kg, kb]: readonly number[]): number[] => [
    y! + 2 * (1 - kr!) * v!,
    y! - (2 * (1 - kb!) * kb! * u!) / kg! - (2 * (1 - kr!) * kr! * v!) / kg!,
    y! + 2 * (1 - kb!) * u!
  ]
  const [bt601, bt709] = [
    [0.299, 0.587, 0.114],
    [0.2126, 0.7152, 0.0722]
  ]
  const colour = [0.5, 0.35, 0.6]
  near(await one('bt601-read-as-bt709', decoded(coded(colour, bt601), bt709)), colour)
  near(await one('bt709-read-as-bt601', decoded(coded(colour, bt709), bt601)), colour)
})

test(
  'PQ and HLG become sRGB by their standards: reference white, greys and black where they belong, ' +
    'highlights apart, hue kept',
  async () => {
    // BT.2408: reference white, 203 nits, is a PQ code of 58 % and an HLG code of 75 %
    expect(pqLight(0.5807)).toBeCloseTo(1, 2)
    expect(hlgScene(0.75) * hlgGain(hlgScene(0.75))).toBeCloseTo(1, 1)
    expect([pqLight(0), hlgScene(0), hlgScene(1)]).toEqual([0, 0, expect.closeTo(1, 5)])
    // SMPTE ST 2084: a code of 1 is 10,000 nits; 100 nits are a code of 0.508
    expect(pqLight(1) * 203).toBeCloseTo(10_000, 6)
    expect(pqLight(0.5081) * 203).toBeCloseTo(100, 0)
    const one = async (from: string, rgb: number[]): Promise<number[]> => {
      const frame: Frame = {
        width: 1,
        height: 1,
        depth: 16,
        samples: Uint16Array.from([...rgb.map(v => Math.round(v * 65535)), 20000]),
        alpha: STRAIGHT,
        transfer: 'srgb'
      }
      const { samples } = await prepared(over([frame]), [step('bring-to-srgb', { from })], new Map(), kernels).frame(0)
      expect(samples[3]).toBe(20000)
      return [...samples.subarray(0, 3)].map(v => v / 65535)
    }
    for (const from of ['bt2020-pq', 'bt2020-hlg']) {
      expect(await one(from, [0, 0, 0])).toEqual([0, 0, 0])
      let before = -1
      for (const code of [0.1, 0.3, 0.5, 0.6, 0.7, 0.8, 0.9, 1]) {
        const [r, g, b] = await one(from, [code, code, code])
        // grey stays grey, brighter codes stay brighter, and nothing beyond white is all one before the far end
        expect(Math.max(r!, g!, b!) - Math.min(r!, g!, b!)).toBeLessThan(3e-4)
        expect(r!).toBeGreaterThanOrEqual(before)
        before = r!
      }
      expect(before).toBeGreaterThan(0.99)
      const [r, g, b] = await one(from, [0.6, 0.4, 0.4])
      expect(r!).toBeGreaterThan(Math.max(g!, b!))
    }
    // 18 % of reference white, below the knee, is what sRGB codes 18 % as
    const grey = [...Array(2000).keys()].map(i => i / 2000).find(code => pqLight(code) >= 0.18)!
    expect((await one('bt2020-pq', [grey, grey, grey]))[0]!).toBeCloseTo(toCoded(0.18), 2)
  }
)
