/** What the viewer draws: every view of a frame, the heat of a difference, and small pictures. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { OPAQUE, STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { decidingPixels, VOTE_COLOURS } from '../../core/judge/view/deciding'
import { differencePixels, viewPixels, VIEWS, type ViewPixels } from '../../core/judge/view/pixels'
import { thumbnail } from '../../core/judge/view/thumb'
import { moth } from '../../demo/scenes'
import { firstDifference, noise, testHost } from './support'

const { kernels } = await testHost()
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

/** One pixel of 16 bits. */
const pixel = (...codes: [number, number, number, number]): Frame => ({
  width: 1,
  height: 1,
  depth: 16,
  samples: Uint16Array.from(codes),
  alpha: STRAIGHT,
  transfer: 'srgb'
})
const shown = (frame: Frame, view: (typeof VIEWS)[number]): number[] => [...viewPixels(frame, view, kernels).pixels]

describe('views', () => {
  test('only colour over a backdrop keeps alpha for the screen; all others are opaque', () => {
    const frame = noise({ width: 30, height: 20, depth: 16, seed: 3, runs: 0.6 })
    for (const view of VIEWS) {
      const { pixels, width, height } = viewPixels(frame, view, kernels)
      expect([width, height, pixels.length]).toEqual([30, 20, 2400])
      const alphas = pixels.filter((_, i) => i % 4 === 3)
      if (view === 'over')
        expect(
          firstDifference(
            alphas,
            withDepth(frame, 8, kernels).samples.filter((_, i) => i % 4 === 3)
          )
        ).toBeNull()
      else expect(alphas.every(a => a === 255)).toBe(true)
    }
  })

  test('alpha is grey, and boosted so that the faintest haze is seen and clear stays black', () => {
    expect(shown(pixel(9, 9, 9, 32896), 'alpha').slice(0, 3)).toEqual([128, 128, 128])
    expect(shown(pixel(65535, 0, 0, 0), 'boosted').slice(0, 3)).toEqual([0, 0, 0])
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 65535 }), a => {
        const [r, g, b] = shown(pixel(0, 0, 0, a), 'boosted')
        expect(r).toBeGreaterThanOrEqual(24)
        expect([g, b]).toEqual([r, r])
      })
    )
  })

  test('a premultiplied frame is shown in its own colours, and premultiplied where that is asked', () => {
    const straight = withDepth(moth(0.2), 16, kernels)
    const stored = withAlphaMode(straight, BLACK, kernels)
    const of = (frame: Frame, view: (typeof VIEWS)[number]): Uint8ClampedArray =>
      viewPixels(frame, view, kernels).pixels
    expect(firstDifference(of(stored, 'premultiplied'), of(straight, 'premultiplied'))).toBeNull()
    expect(firstDifference(of(stored, 'over'), of(withAlphaMode(stored, STRAIGHT, kernels), 'over'))).toBeNull()
    // multiplied by its alpha, no colour is above it
    const multiplied = of(stored, 'premultiplied')
    const alpha = of(stored, 'alpha')
    expect(multiplied.every((code, i) => i % 4 === 3 || code <= alpha[i]! + 1)).toBe(true)
  })

  test('edges show what is partial in colour, and what is solid or clear in two greys', () => {
    expect(shown(pixel(65535, 0, 0, 30000), 'edges')).toEqual([255, 0, 0, 255])
    expect(shown(pixel(65535, 0, 0, 65535), 'edges')).toEqual([60, 60, 60, 255])
    expect(shown(pixel(65535, 0, 0, 0), 'edges')).toEqual([0, 0, 0, 255])
  })

  test('a frame without alpha is shown solid', () => {
    expect(shown({ ...pixel(65535, 257, 0, 65535), alpha: OPAQUE }, 'over')).toEqual([255, 1, 0, 255])
  })
})

test('the heat of a difference is black where frames agree and seen wherever they do not', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.nat({ max: 95 }),
      fc.integer({ min: 1, max: 60000 }),
      (seed, at, by) => {
        const due = noise({ width: 12, height: 8, depth: 16, seed })
        const samples = due.samples.slice() as Uint16Array
        samples[4 * at + 3] = 65535
        const clean = { ...due, samples }
        const off = samples.slice()
        off[4 * at + 3] = 65535 - by
        const { pixels } = differencePixels(clean, { ...due, samples: off }, kernels)
        pixels.forEach((code, i) => {
          if (i % 4 === 3) expect(code).toBe(255)
          else if (Math.floor(i / 4) !== at) expect(code).toBe(0)
        })
        expect(pixels[4 * at]).toBeGreaterThan(80)
      }
    ),
    { numRuns: 60 }
  )
})

describe('small pictures', () => {
  const picture = (
    width: number,
    height: number,
    make: (x: number, y: number) => [number, number, number, number]
  ): ViewPixels => {
    const pixels = new Uint8ClampedArray(4 * width * height)
    for (let p = 0; p < width * height; p++) pixels.set(make(p % width, Math.floor(p / width)), 4 * p)
    return { width, height, pixels }
  }

  test('the longer side comes to the size asked, and no side to nothing', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 300 }),
        fc.integer({ min: 1, max: 300 }),
        fc.integer({ min: 1, max: 90 }),
        (width, height, side) => {
          const small = thumbnail(
            picture(width, height, () => [10, 20, 30, 255]),
            side
          )
          expect(Math.max(small.width, small.height)).toBe(Math.min(side, Math.max(width, height)))
          expect(Math.min(small.width, small.height)).toBeGreaterThanOrEqual(1)
          // even colour stays that colour
          expect([...small.pixels.subarray(0, 4)]).toEqual([10, 20, 30, 255])
        }
      ),
      { numRuns: 60 }
    )
  })

  test('colour under clear pixels makes no rim', () => {
    const half = thumbnail(
      picture(64, 64, x => (x % 2 ? [200, 100, 50, 255] : [0, 255, 0, 0])),
      32
    )
    for (let i = 0; i < half.pixels.length; i += 4)
      expect([...half.pixels.subarray(i, i + 4)]).toEqual([200, 100, 50, 128])
  })
})

test('pixels that decided are drawn in the colour of their vote', () => {
  const straight = withDepth(moth(0.2), 16, kernels)
  const count = (frame: Frame, vote: keyof typeof VOTE_COLOURS): number => {
    const { pixels } = decidingPixels(frame, kernels)
    let n = 0
    for (let i = 0; i < pixels.length; i += 4) if (VOTE_COLOURS[vote].every((code, c) => pixels[i + c] === code)) n++
    return n
  }
  expect(count(straight, 'straight')).toBeGreaterThan(20 * count(straight, 'premultiplied'))
  const stored = withAlphaMode(straight, BLACK, kernels)
  expect(count(stored, 'premultiplied')).toBeGreaterThan(20 * count(stored, 'straight'))
})
