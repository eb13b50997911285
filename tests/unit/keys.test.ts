/** Pulling alpha from colour, on material that no setting was tuned on the spot for, against the known truth. */
import { describe, expect, test } from 'vitest'
import { box, type Canvas, ellipse } from '../../demo/canvas'
import { lettering } from '../../demo/letters'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { stepKindById } from '../../core/prepare/kinds'
import { screenFound } from '../../core/prepare/kinds/chroma-key'
import { toPicture } from '../../core/prepare/picture'
import { newStep, prepared, Step } from '../../core/prepare/preparation'
import type { Source, SourceFacts } from '../../core/source/source'
import { surenessPixels } from '../../core/judge/view/sureness'
import { drawn, faded, blurred, HEIGHT, moved, over, tinted, WIDTH, type Plate } from '../material/paint'
import { filmed, keyErrors, shots } from '../material/screen'
import { testHost } from './support'

const { kernels } = await testHost()

function still(frame: Frame): Source {
  const facts: SourceFacts = {
    name: 'shot',
    format: 'png-sequence',
    kind: 'PNG',
    width: frame.width,
    height: frame.height,
    frames: 1,
    rate: null,
    rateFrom: 'unknown',
    bitDepth: 8,
    claim: { mode: 'straight', matte: null, says: 'PNG is straight by its standard' },
    colour: null,
    pixelAspect: [1, 1],
    plays: null,
    bytes: 1,
    findings: []
  }
  return { facts, frame: () => Promise.resolve(frame), close: () => Promise.resolve() }
}

const stepOf = (kind: string, settings: Record<string, unknown>): Step =>
  Step.parse(newStep('s', stepKindById(kind), settings))

async function keyed(shot: Frame, step: Step): Promise<Float32Array> {
  return toPicture(await prepared(still(shot), [step], new Map(), kernels).frame(0), kernels).rgba
}

describe('chroma key by the colour beside each edge', () => {
  test.each(shots.map(shot => [shot.name, shot.truth] as const))('%s', async (_, truth) => {
    const shot = filmed(truth)
    const screen = screenFound(toPicture(shot, kernels))
    const errors = keyErrors(await keyed(shot, stepOf('chroma-key', { screen })), truth)
    expect(errors.alpha).toBeLessThan(0.015)
    expect(errors.softAlpha).toBeLessThan(0.05)
    expect(errors.edge).toBeLessThan(4)
  })

  test('a step kept from before keys by hue as it did; a new one by the colour beside', () => {
    expect(Step.parse({ id: 'k', kind: 'chroma-key', on: true, settings: {} }).settings.edges).toBe('hue')
    expect(stepOf('chroma-key', {}).settings.edges).toBe('beside')
  })

  test('it is sure of screen and subject, and less so of what neither explains', async () => {
    const sureOf = async (name: string): Promise<{ mean: number; whole: number }> => {
      const shot = filmed(shots.find(s => s.name === name)!.truth)
      const step = stepOf('chroma-key', { screen: screenFound(toPicture(shot, kernels)) })
      const found = (await prepared(still(shot), [step], new Map(), kernels).sureness!('s', 0))!
      let [sum, count] = [0, 0]
      found.sure.forEach((sure, p) => {
        if (found.alpha[p]! > 0.1 && found.alpha[p]! < 0.9) {
          sum += sure
          count++
        }
      })
      const { pixels } = surenessPixels(found)
      expect(pixels).toHaveLength(4 * WIDTH * HEIGHT)
      return { mean: sum / count, whole: found.sure.filter(sure => sure === 1).length / found.sure.length }
    }
    const [ball, glass] = [await sureOf('pink ball in motion'), await sureOf('glass')]
    expect(ball.mean).toBeGreaterThan(0.8)
    expect(glass.mean).toBeLessThan(0.6)
    expect(ball.whole).toBeGreaterThan(0.9)
    const hue = stepOf('chroma-key', { edges: 'hue' })
    expect(await prepared(still(filmed(shots[0]!.truth)), [hue], new Map(), kernels).sureness!('s', 0)).toBeNull()
  })
})

/** A subject and its soft shadow, as premultiplied truths and laid on a floor. */
function grounded(
  subject: Plate,
  back: readonly number[],
  offset: [number, number]
): { shot: Frame; subject: Plate; shadow: Plate } {
  const shadow = faded(blurred(moved(tinted(subject, [0, 0, 0]), ...offset), 6), 0.5)
  const whole = over(subject, shadow)
  const samples = new Uint8Array(whole.pixels.length)
  for (let i = 0; i < samples.length; i += 4) {
    for (let c = 0; c < 3; c++)
      samples[i + c] = Math.round(255 * Math.min(1, whole.pixels[i + c]! + (1 - whole.pixels[i + 3]!) * back[c]!))
    samples[i + 3] = 255
  }
  return {
    shot: { width: WIDTH, height: HEIGHT, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' },
    subject,
    shadow
  }
}

const pot = (c: Canvas): void => {
  c.fill(box(120, 70, 200, 140, 10), [176, 98, 62])
  c.fill(box(112, 62, 208, 84, 4), [196, 118, 78])
  c.fill(ellipse(160, 40, 34, 20, 0.4), [74, 124, 52])
  // a light label that the subject encloses is its own
  c.fill(box(138, 96, 182, 122, 3), [250, 248, 240])
  c.fill(lettering('MOTH', 142, 102, 12, 2), [24, 26, 30])
}

describe('a subject with its shadow, on a plain floor', () => {
  test.each([
    ['white', '#ffffff', [1, 1, 1]],
    ['warm grey', '#d8d2c6', [0xd8 / 255, 0xd2 / 255, 0xc6 / 255]]
  ] as const)(
    '%s: solid parts are solid, the shadow is right within 3 codes, edges have no rim',
    async (_, background, back) => {
      const { shot, subject, shadow } = grounded(drawn(pot), back, [14, 12])
      const found = await keyed(shot, stepOf('subject-and-shadow', { background }))
      let [solid, kept, worst, far, open, colour, edges, soft] = [0, 0, 0, 0, 0, 0, 0, 0]
      for (let i = 0; i < found.length; i += 4) {
        const [due, cast] = [subject.pixels[i + 3]!, shadow.pixels[i + 3]!]
        if (due === 1) {
          solid++
          if (found[i + 3]! > 0.999) kept++
          colour = Math.max(colour, ...[0, 1, 2].map(c => Math.abs(found[i + c]! - subject.pixels[i + c]!)))
        } else if (due === 0) {
          open++
          const off = 255 * Math.abs(found[i + 3]! - cast)
          if (off > 3) far++
          worst = Math.max(worst, off)
        } else {
          soft++
          edges += Math.abs(found[i + 3]! - (due + (1 - due) * cast))
        }
      }
      expect(kept / solid, 'solid kept').toBeGreaterThanOrEqual(0.99)
      expect(far / open, `shadow off by over 3 codes; ${worst} at most`).toBeLessThan(0.002)
      expect(edges / soft, 'alpha at edges, in the mean').toBeLessThan(0.04)
      expect(colour, 'own colour').toBeLessThan(0.08)
    }
  )

  test('a gap that the background shows through is kept open where that is asked', async () => {
    const ring = drawn(c => {
      c.fill(ellipse(160, 90, 60, 60), [176, 98, 62])
    })
    for (let y = 0, i = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++, i += 4)
        if ((x - 160) ** 2 + (y - 90) ** 2 < 30 ** 2) ring.pixels.fill(0, i, i + 4)
    const { shot } = grounded(ring, [1, 1, 1], [2, 2])
    const middle = 4 * (90 * WIDTH + 160) + 3
    const open = await keyed(shot, stepOf('subject-and-shadow', { background: '#ffffff', through: true }))
    const shut = await keyed(shot, stepOf('subject-and-shadow', { background: '#ffffff' }))
    expect(open[middle]).toBeLessThan(0.3)
    expect(shut[middle]).toBe(1)
  })
})
