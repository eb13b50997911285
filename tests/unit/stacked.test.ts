/** Colour and alpha as halves of one picture: nothing is lost but what coding loses, and a film says how it is made. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { AlphaMode, Frame } from '../../core/frame/frame'
import { OPAQUE, STRAIGHT } from '../../core/frame/frame'
import {
  GUARD,
  holdsStacked,
  mostOf,
  readStacked,
  sayStacked,
  stack,
  stackedSize,
  unstack,
  type AlphaHalf
} from '../../core/frame/stacked'
import { newOutlet, outletProblems, withParts } from '../../core/job/outlet/outlet'
import { planPour, pourProblems } from '../../core/job/outlet/plan'
import { expectationOf } from '../../core/judge/proof/expectation'
import { storedFrame } from '../../core/media/carriage/stored'
import { alphaHalfOf } from '../../core/open/halves'
import { openSource } from '../../core/open/open'
import { formatById } from '../../core/open/registry'
import { takeIn } from '../../core/run/intake/intake'
import { anyNoise, bytesFile, noise, strapFacts, testHost, writeFilm } from './support'

const host = await testHost()

const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
const HALVES: readonly AlphaHalf[] = ['below', 'above', 'right', 'left']

describe('halves', () => {
  test('come together again: alpha whole, and all colour that can be seen', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(8 as const, 16 as const, 32 as const).chain(depth => anyNoise(depth)),
        fc.constantFrom(...HALVES),
        fc.constantFrom(STRAIGHT, BLACK),
        (frame, alpha, mode) => {
          const { width, height } = frame
          const stored = stack({ ...frame, alpha: mode }, alpha)
          expect([stored.width, stored.height]).toEqual(Object.values(stackedSize({ alpha, width, height })))
          expect([stored.width % 2, stored.height % 2]).toEqual([0, 0])
          expect(stored.alpha.mode).toBe('none')
          const back = unstack(stored, { alpha, width, height })
          for (let p = 0; p < frame.samples.length; p += 4) {
            expect(back.samples[p + 3]).toBe(frame.samples[p + 3])
            if (frame.samples[p + 3] !== 0 || mode === BLACK)
              expect([...back.samples.subarray(p, p + 3)]).toEqual([...frame.samples.subarray(p, p + 3)])
          }
        }
      )
    )
  })

  test('go on by their own edges where the other follows, and carry colour on under what is clear', () => {
    const frame = noise({ width: 4, height: 3, depth: 8, runs: 0 })
    for (let p = 3; p < frame.samples.length; p += 4) frame.samples[p] = p > 30 ? 0 : 200
    const stored = stack(frame, 'below')
    const row = (y: number): number[] => [...stored.samples.subarray(16 * y, 16 * (y + 1))]
    for (let y = 3; y < 3 + GUARD; y++) expect(row(y)).toEqual(row(2))
    // the row that is clear has the colour of the one above it
    expect(
      row(2)
        .slice(0, 3)
        .every(code => code > 0)
    ).toBe(true)
    expect(row(3 + GUARD + 1)[0]).toBe(200)
  })

  test('are told by the name of a track, and only by one that says just that', () => {
    for (const alpha of HALVES) {
      const stacked = { alpha, width: 640, height: 360 }
      expect(readStacked(sayStacked(stacked))).toEqual(stacked)
    }
    for (const name of [
      '',
      'Alpha',
      'Alpha below colour',
      'Alpha below colour, 0x9',
      'Alpha below colour, 640x360 and'
    ])
      expect(readStacked(name)).toBe(null)
    expect(holdsStacked({ alpha: 'below', width: 9, height: 5 }, { width: 9, height: 10 })).toBe(true)
    expect(holdsStacked({ alpha: 'below', width: 9, height: 5 }, { width: 9, height: 11 })).toBe(false)
    expect(holdsStacked({ alpha: 'right', width: 9, height: 5 }, { width: 16, height: 5 })).toBe(false)
    expect(mostOf('left', { width: 17, height: 4 })).toEqual({ alpha: 'left', width: 8, height: 4 })
  })
})

describe('a film of halves', () => {
  const strap = (index: number, { width = 64, height = 40 } = {}): Frame => {
    const samples = new Uint8Array(4 * width * height)
    for (let y = 8; y < 32; y++)
      for (let x = 6; x < 50; x++) {
        const edge = Math.min(1, (x - 5) / 8, (y - 7) / 6, (50 - x) / 8, (32 - y) / 6)
        samples.set([200, 60 + index, 40, Math.round(255 * edge)], 4 * (y * width + x))
      }
    return { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
  }
  const frames = [0, 1, 2, 3].map(index => strap(index))
  const format = formatById('webm-vp9')
  const outletOf = (parts: 'alpha-below' | 'alpha-beside') => ({ ...newOutlet('o', format), parts })

  async function poured(parts: 'alpha-below' | 'alpha-beside', named = true): Promise<Uint8Array> {
    const facts = strapFacts({ width: 64, height: 40, frames: 4, rate: [25, 1] })
    expect(pourProblems(facts, outletOf(parts), null)).toEqual([])
    const { deliverable: due } = planPour(facts, outletOf(parts), null)
    const { joined: _, ...nameless } = due
    const stored = frames.map(frame => storedFrame(frame, due, host.kernels))
    return writeFilm('webm-vp9', stored, named ? due : nameless)
  }

  test.each(['alpha-below', 'alpha-beside'] as const)(
    'says what it is, is taken so, and holds its frames: %s',
    async parts => {
      const bytes = await poured(parts)
      const { found, findings } = await takeIn([bytesFile('strap.webm', bytes)], host)
      expect(findings).toEqual([])
      const { spec, facts } = found[0]!
      expect(facts).toMatchObject({ width: 64, height: 40, claim: { mode: 'unknown' } })
      expect(spec.interpretation.stacked).toEqual({
        alpha: parts === 'alpha-below' ? 'below' : 'right',
        width: 64,
        height: 40
      })
      const source = await openSource({ ...spec, id: 's' }, host)
      for (const [i, due] of frames.entries()) {
        const { samples } = await source.frame(i)
        for (let p = 0; p < samples.length; p += 4) {
          expect(Math.abs(samples[p + 3]! - due.samples[p + 3]!)).toBeLessThanOrEqual(2)
          if (due.samples[p + 3]! > 128)
            for (let c = 0; c < 3; c++) expect(Math.abs(samples[p + c]! - due.samples[p + c]!)).toBeLessThanOrEqual(3)
        }
      }
      await source.close()
    }
  )

  test('that says nothing is told to look like one, and one of colours alone is not', async () => {
    const { found } = await takeIn([bytesFile('strap.webm', await poured('alpha-below', false))], host)
    expect(found[0]!.facts).toMatchObject({ width: 64, height: 96, claim: { mode: 'none' } })
    expect(found[0]!.facts.findings.map(({ causes }) => causes).join(' ')).toContain('--halves below')
    const colours = noise({ width: 64, height: 96, depth: 8, alpha: OPAQUE, runs: 0.9 })
    expect(alphaHalfOf(colours)).toBe(null)
    const grey = noise({ width: 64, height: 96, depth: 8, alpha: OPAQUE, runs: 0.9 })
    for (let p = 0; p < grey.samples.length; p += 4) grey.samples.fill(grey.samples[p]!, p, p + 3)
    expect(alphaHalfOf(grey)).toBe(null)
  })

  test('is proven as the frames it makes, not as the picture it stores', async () => {
    const facts = strapFacts({ width: 64, height: 40, frames: 4, rate: [25, 1] })
    const plan = planPour(facts, outletOf('alpha-below'), null)
    expect(expectationOf(plan, null)).toMatchObject({ width: 64, height: 40, paired: true, alpha: STRAIGHT })
    expect([plan.deliverable.width, plan.deliverable.height]).toEqual([64, 96])
  })

  test('has a pair of modes, and no room where the format has alpha of its own in one folder', () => {
    const outlet = { ...outletOf('alpha-below'), alpha: OPAQUE }
    expect(outletProblems(outlet).join(' ')).toContain('straight or premultiplied')
    expect(withParts(outlet, 'alpha-below').alpha).toEqual(STRAIGHT)
    expect(
      outletProblems({ ...newOutlet('o', formatById('packed-sheet')), parts: 'alpha-beside' }).join(' ')
    ).toContain('holds both in one picture')
  })
})
