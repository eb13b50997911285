/** Strokes held against their geometry: places within half the width of a line, 16 x 16 of them in each pixel. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { arcInto, ellipseLine, follow, placed, placing, type Run } from '../../core/draw/raster/line'
import { areaOf } from '../../core/draw/raster/area'
import { strokeAreas, strokeOf } from '../../core/draw/raster/stroke'
import { roundOf } from './support'

const SIZE = 48
const clip = { left: 0, top: 0, right: SIZE, bottom: SIZE }
const FINE = 16

/** Share of each pixel whose places lie within half the width of a run. */
function sampled(runs: readonly Run[], width: number): Float64Array {
  const cover = new Float64Array(SIZE * SIZE)
  const hits = new Uint8Array(SIZE * FINE * SIZE * FINE)
  const r = width / 2
  for (const { line, closed } of runs) {
    const count = line.length / 2
    for (let n = 0; n < (closed ? count : count - 1); n++) {
      const m = (n + 1) % count
      const [x0, y0, x1, y1] = [line[2 * n]!, line[2 * n + 1]!, line[2 * m]!, line[2 * m + 1]!]
      const square = (x1 - x0) ** 2 + (y1 - y0) ** 2
      const [fromX, toX] = [Math.min(x0, x1) - r, Math.max(x0, x1) + r].map(x => Math.round(x * FINE))
      const [fromY, toY] = [Math.min(y0, y1) - r, Math.max(y0, y1) + r].map(y => Math.round(y * FINE))
      for (let y = Math.max(0, fromY! - 1); y <= Math.min(SIZE * FINE - 1, toY! + 1); y++)
        for (let x = Math.max(0, fromX! - 1); x <= Math.min(SIZE * FINE - 1, toX! + 1); x++) {
          const [px, py] = [(x + 0.5) / FINE - x0, (y + 0.5) / FINE - y0]
          const along = square > 0 ? (px * (x1 - x0) + py * (y1 - y0)) / square : 0
          const t = Math.min(1, Math.max(0, along))
          if ((px - t * (x1 - x0)) ** 2 + (py - t * (y1 - y0)) ** 2 <= r * r) hits[y * SIZE * FINE + x] = 1
        }
    }
  }
  for (let y = 0; y < SIZE * FINE; y++)
    for (let x = 0; x < SIZE * FINE; x++)
      cover[Math.floor(y / FINE) * SIZE + Math.floor(x / FINE)]! += hits[y * SIZE * FINE + x]! / FINE ** 2
  return cover
}

/** The largest difference of a pixel, and the mean of those that either covers in part. */
function apart(runs: readonly Run[], width: number): { most: number; mean: number } {
  const due = sampled(runs, width)
  const found = strokeOf(runs, roundOf(width), clip)
  let [most, sum, count] = [0, 0, 0]
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const inside = found && x >= found.left && x < found.right && y >= found.top && y < found.bottom
      const is = inside ? found.values[(y - found.top) * (found.right - found.left) + x - found.left]! : 0
      const off = Math.abs(is - due[y * SIZE + x]!)
      most = Math.max(most, off)
      const edge = (value: number): boolean => value > 0 && value < 1
      if (edge(is) || edge(due[y * SIZE + x]!)) [sum, count] = [sum + off, count + 1]
    }
  return { most, mean: count ? sum / count : 0 }
}

const curve = (...p: readonly number[]): Run => {
  const out = [p[0]!, p[1]!]
  follow(out, [p[0]!, p[1]!], [p[2]!, p[3]!], [p[4]!, p[5]!], [p[6]!, p[7]!])
  return { line: Float64Array.from(out), closed: false }
}
const circle = (r: number): Run => ({ line: placed(ellipseLine(r, r), placing(24.3, 23.8, 1, 0)), closed: true })

describe('strokes', () => {
  test('a hairline at any slope covers what its area covers', () => {
    for (const width of [0.4, 0.8, 1.5])
      for (const turn of [0, 7, 31, 45, 62, 88]) {
        const line = placed(Float64Array.from([-18, 0, 18, 0]), placing(24.2, 24.7, 1, turn))
        expect(apart([{ line, closed: false }], width).most, `${width} at ${turn}`).toBeLessThan(0.03)
      }
  })

  test('bends, curves and rings of any width are covered as far as their width reaches', () => {
    const runs: Record<string, Run> = {
      bend: { line: Float64Array.from([6, 40, 24, 8, 42, 38]), closed: false },
      triangle: { line: Float64Array.from([10, 38, 24, 9, 39, 37]), closed: true },
      arc: curve(6, 38, 10, 4, 38, 2, 42, 36),
      hook: curve(8, 30, 30, 2, 46, 20, 30, 42),
      ring: circle(14)
    }
    for (const [name, run] of Object.entries(runs))
      for (const width of [0.7, 2, 5.5, 9]) expect(apart([run], width).most, `${name} ${width}`).toBeLessThan(0.035)
  })

  test('a bend tighter than half the width leaves no hole', () => {
    for (const r of [0.6, 1.5, 3, 5]) {
      const { most } = apart([circle(r)], 14)
      expect(most, `ring of ${r}`).toBeLessThan(0.04)
    }
    const out: number[] = []
    arcInto(out, [24, 24], [1.2, 1.2], 0, Math.PI)
    const turned: Run = { line: Float64Array.from([25.2, 6, ...out, 22.8, 6]), closed: false }
    expect(apart([turned], 11).most).toBeLessThan(0.04)
  })

  test('lines of any bends never cover more than a whole pixel, and miss their geometry by little', () => {
    const spot = fc.double({ min: 8, max: 40, noNaN: true })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(spot, spot), { minLength: 2, maxLength: 5 }),
        fc.double({ min: 0.3, max: 12, noNaN: true }),
        fc.boolean(),
        (spots, width, wanted) => {
          const closed = wanted && spots.length > 2
          const { most, mean } = apart([{ line: Float64Array.from(spots.flat()), closed }], width)
          // where a line crosses itself within a pixel too; what 256 places miss of an edge is the rest
          expect(most).toBeLessThan(0.07)
          expect(mean).toBeLessThan(0.04)
        }
      ),
      { numRuns: 40 }
    )
  })

  test('a line that comes back over itself covers what it covers once', () => {
    for (const width of [1, 2, 3.5]) {
      const line = placed(Float64Array.from([-18, 0, 18, 0, -18, 0.001]), placing(24.2, 24.7, 1, 17))
      expect(apart([{ line, closed: false }], width).most, `${width}`).toBeLessThan(0.06)
    }
  })

  test('a square end, a bevel and a mitre have the area that geometry gives them', () => {
    const run: Run = { line: Float64Array.from([10, 30, 24, 30, 24, 12]), closed: false }
    const area = (cap: string, join: string): number => {
      const style = { width: 6, cap, join, miterLimit: 4, dashes: [], dashOffset: 0 }
      return areaOf(strokeAreas([run], style), clip)!.values.reduce((sum, value) => sum + value, 0)
    }
    const strips = 6 * 14 + 6 * 18 - 9
    expect(area('butt', 'bevel')).toBeCloseTo(strips + 4.5, 2)
    expect(area('butt', 'miter')).toBeCloseTo(strips + 9, 2)
    expect(area('butt', 'round')).toBeCloseTo(strips + (Math.PI * 9) / 4, 1)
    expect(area('square', 'miter')).toBeCloseTo(strips + 9 + 36, 2)
  })
})
