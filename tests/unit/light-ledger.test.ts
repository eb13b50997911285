/** What steps make of light, as the ledger tells it: sums and extremes, and what was cut off or dropped by the way. */
import { describe, expect, test } from 'vitest'
import type { AlphaMode, Frame } from '../../core/frame/frame'
import { lightFigures, sayLight } from '../../core/judge/ledger/light'
import { preparedLines } from '../../core/judge/ledger/lines'
import { stepFigures } from '../../core/judge/ledger/measure'
import { stepKindById, stepKinds } from '../../core/prepare/kinds'
import { newStep, prepared, Step } from '../../core/prepare/preparation'
import type { SourceFacts } from '../../core/source/source'
import { testHost } from './support'

const { kernels } = await testHost()
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

function light(width: number, height: number, at: (x: number, y: number) => readonly number[]): Frame {
  const samples = new Float32Array(4 * width * height)
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i += 4) samples.set(at(x, y), i)
  return { width, height, depth: 32, samples, alpha: BLACK, transfer: 'linear' }
}

/** Bright beyond white in its middle, some of it below black, shining on where alpha has ended. */
const fire = light(48, 32, (x, y) => {
  const far = Math.hypot(x - 24, y - 16)
  const glow = 4 * Math.exp(-((far / 9) ** 2))
  return [glow, 0.5 * glow, x < 6 ? -0.1 : 0.05 * glow, far < 10 ? 1 - far / 10 : 0]
})

const factsOf = ({ width, height, depth }: Frame): SourceFacts => ({
  name: 'fire',
  format: 'exr-sequence',
  kind: 'x',
  width,
  height,
  frames: 1,
  rate: [24, 1],
  rateFrom: 'file',
  bitDepth: depth,
  claim: { mode: 'premultiplied', matte: '#000000', says: '' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 0,
  findings: []
})

const step = (kind: string, settings: Record<string, unknown> = {}): Step =>
  Step.parse(newStep(kind, stepKindById(kind), settings))

/** The ledger's lines of one step on a frame; `spoilt` is done to what the step made. */
async function linesOf(frame: Frame, each: Step, spoilt: (made: Frame) => Frame = made => made) {
  const facts = factsOf(frame)
  const source = { facts, frame: () => Promise.resolve(frame), close: () => Promise.resolve() }
  const made = spoilt(await prepared(source, [each], new Map(), kernels).frame(0))
  const figures = stepFigures(frame, made, stepKindById(each.kind), kernels)
  return preparedLines(facts, [each], new Map([[each.id, { ...figures, frames: 0 }]]))
}

const lostIn = (lines: Awaited<ReturnType<typeof linesOf>>): string | undefined =>
  lines.find(line => line.id === 'light-lost')?.sentence

/** All light held between nothing and alpha, as steps on codes would leave it. */
const clamped = (made: Frame): Frame => {
  const samples = made.samples.slice()
  for (let i = 0; i < samples.length; i += 4)
    for (let c = 0; c < 3; c++) samples[i + c] = Math.max(0, Math.min(samples[i + 3]!, samples[i + c]!))
  return { ...made, samples }
}

describe('light through steps', () => {
  test('sums and extremes are those of the premultiplied values', () => {
    const frame = light(2, 1, x => (x ? [3, 1, 0.5, 1] : [0.2, -0.5, 0.3, 0.5]))
    const { light: sums, alpha, brightest, darkest, clipped, dropped } = lightFigures(frame, frame, true)
    expect(sums[0]).toBeCloseTo((0.2 - 0.5 + 0.3 + 3 + 1 + 0.5) / 3, 6)
    expect(alpha).toEqual([1.5, 1.5])
    expect(brightest).toEqual([3, 3])
    expect(darkest).toEqual([-0.5, -0.5])
    expect([clipped, dropped]).toEqual([0, 0])
  })

  test('a straight picture and the same one premultiplied are one light', () => {
    const straight: Frame = {
      width: 2,
      height: 1,
      depth: 8,
      samples: new Uint8Array([200, 100, 50, 51, 0, 255, 0, 255]),
      alpha: { mode: 'straight' },
      transfer: 'srgb'
    }
    const laid: Frame = { ...straight, samples: new Uint8Array([40, 20, 10, 51, 0, 255, 0, 255]), alpha: BLACK }
    const figures = lightFigures(straight, laid, true)
    expect(figures.light[1]).toBeCloseTo(figures.light[0], 6)
    expect(figures.alpha[1]).toBe(figures.alpha[0])
  })

  test.each([
    ['scale', { by: 50 }],
    ['scale', { by: 150, filter: 'smooth' }],
    ['fit', { width: 60, height: 60 }],
    ['turn', { by: 30 }],
    ['rotate', {}],
    ['flip', {}],
    ['alpha-opacity', { to: 40 }],
    ['alpha-levels', { low: 10, high: 90 }],
    ['spill', { channel: 'red' }],
    ['flatten', {}]
  ] as const)(
    '%s loses no light, and the same step with its light cut off is told by its name',
    async (id, settings) => {
      expect(lostIn(await linesOf(fire, step(id, settings)))).toBeUndefined()
      const lines = await linesOf(fire, step(id, settings), clamped)
      expect(lostIn(lines)).toMatch(new RegExp(`^${stepKindById(id).name}: light `))
      expect(lines.find(line => line.id === 'light-lost')).toMatchObject({ severity: 'loss', asked: false })
    }
  )

  test('fewer bits cut highlights off, which is told; bringing to sRGB says so beforehand and is not', async () => {
    expect(lostIn(await linesOf(fire, step('depth', { bits: '16' })))).toMatch(/cut off in [\d,]+ pixels/)
    expect(lostIn(await linesOf(fire, step('bring-to-srgb', { from: 'p3' })))).toBeUndefined()
  })

  test('a bright speck among dark ones is spread, and nothing is said to be gone', async () => {
    const speck = light(32, 32, (x, y) => [x === 16 && y === 16 ? 1.4 : 0.05, 0.05, 0.05, 1])
    expect(lostIn(await linesOf(speck, step('scale', { by: 50 })))).toBeUndefined()
  })

  test('extremes that changed are told, and the figures lie beside the sentence', async () => {
    const [line] = (await linesOf(fire, step('alpha-grow', { by: 1 }), clamped)).filter(l => l.id === 'alpha-grow')
    expect(line!.sentence).toMatch(/the brightest value 4 became 1\b/)
    expect(line!.figures!.brightest![0]).toBeCloseTo(4, 4)
  })

  test('values that are no numbers are left out of sums', () => {
    const frame = light(2, 1, x => [x ? NaN : 0.5, 0.5, 0.5, 1])
    const { light: sums } = lightFigures(frame, frame, true)
    expect(sums[0]).toBeCloseTo(0.5, 6)
    expect(sayLight(lightFigures(frame, frame, true), { name: 'X', area: 1, purpose: false }).loss).toBeNull()
  })

  test('no step on ordinary sRGB material is said to lose light', async () => {
    const samples = Uint8Array.from({ length: 4 * 24 * 24 }, (_, i) => (i * 7919) % 256)
    const plain: Frame = { width: 24, height: 24, depth: 8, samples, alpha: { mode: 'straight' }, transfer: 'srgb' }
    for (const kind of stepKinds.filter(k => !k.order && !Object.values(k.fields).some(f => f.type === 'source')))
      expect(lostIn(await linesOf(plain, step(kind.id))), kind.id).toBeUndefined()
  })
})
