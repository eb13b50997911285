import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { areaOf } from '../../core/draw/raster/area'

const CLIP = { left: 0, top: 0, right: 12, bottom: 10 }
const ACROSS = 24

/** How often closed lines run around a place, by rays to the right. */
function turnsAt(lines: readonly Float64Array[], x: number, y: number): number {
  let turns = 0
  for (const line of lines)
    for (let i = 0; i < line.length; i += 2) {
      const j = (i + 2) % line.length
      const [x0, y0, x1, y1] = [line[i]!, line[i + 1]!, line[j]!, line[j + 1]!]
      if (y0 <= y !== y1 <= y && x < x0 + ((x1 - x0) * (y - y0)) / (y1 - y0)) turns += y0 < y1 ? 1 : -1
    }
  return turns
}

/** The farthest that coverage is from what points in each pixel say. */
function farthest(found: ReturnType<typeof areaOf>, isInside: (x: number, y: number) => boolean): number {
  let far = 0
  for (let y = CLIP.top; y < CLIP.bottom; y++)
    for (let x = CLIP.left; x < CLIP.right; x++) {
      let inside = 0
      for (let v = 0; v < ACROSS; v++)
        for (let u = 0; u < ACROSS; u++) if (isInside(x + (u + 0.5) / ACROSS, y + (v + 0.5) / ACROSS)) inside++
      const here = found && x >= found.left && x < found.right && y >= found.top && y < found.bottom
      const got = here ? found.values[(y - found.top) * (found.right - found.left) + x - found.left]! : 0
      far = Math.max(far, Math.abs(got - inside / ACROSS ** 2))
    }
  return far
}

/** Points on quarters of a pixel meet edges and each other, those of any number do not. */
const place = (most: number): fc.Arbitrary<number> =>
  fc.oneof(
    fc.integer({ min: -8, max: 4 * most + 8 }).map(n => n / 4),
    fc.double({ min: -2, max: most + 2, noNaN: true })
  )
const outline = fc
  .array(fc.tuple(place(CLIP.right), place(CLIP.bottom)), { minLength: 3, maxLength: 9 })
  .map(points => Float64Array.from(points.flat()))

describe('areas that cross themselves', () => {
  it.each([false, true])('cover as much of each pixel as lies inside; every second turn: %s', evenOdd => {
    fc.assert(
      fc.property(fc.array(outline, { minLength: 1, maxLength: 3 }), lines => {
        const inside = (x: number, y: number): boolean =>
          evenOdd ? turnsAt(lines, x, y) % 2 !== 0 : turnsAt(lines, x, y) !== 0
        // what points miss of an edge is less than a row of them for each edge
        expect(farthest(areaOf(lines, CLIP, evenOdd), inside)).toBeLessThan(0.06)
      }),
      { numRuns: 60 }
    )
  })

  it('a bow tie is two triangles, to a millionth', () => {
    const tie = Float64Array.from([0, 0, 4, 4, 4, 0, 0, 4])
    for (const evenOdd of [false, true]) {
      const { values } = areaOf([tie], CLIP, evenOdd)!
      expect(values.reduce((sum, value) => sum + value, 0)).toBeCloseTo(8, 5)
      expect(values[1 * 4 + 1]).toBeCloseTo(0.5, 6)
    }
  })

  it('an edge that is all but level is level', () => {
    for (const height of [5e-324, 1e-300, 1e-13, 1e-11]) {
      const { values } = areaOf([Float64Array.from([0.25, 0, 0, 0.5, 0, 0, 3, height])], CLIP)!
      expect(values.every(value => value >= 0 && value <= 1)).toBe(true)
      expect(values.reduce((sum, value) => sum + value, 0)).toBeCloseTo(0.0625, 5)
    }
  })

  it('the same outline twice covers as once, and cut out of itself nothing', () => {
    const star = Float64Array.from([5, 0.3, 8, 9.1, 0.6, 3.7, 9.4, 3.7, 2, 9.1])
    const once = areaOf([star], CLIP)!
    expect(areaOf([star, star], CLIP)!.values).toEqual(once.values)
    expect(Math.max(...areaOf([star, star], CLIP, true)!.values)).toBe(0)
  })

  it('more edges over each other than are cut where they cross come as near as 32 parts of a row', () => {
    const star = Float64Array.from([5, 0.3, 8, 9.1, 0.6, 3.7, 9.4, 3.7, 2, 9.1])
    const once = areaOf([star], CLIP)!.values
    const often = areaOf(
      Array.from({ length: 60 }, () => star),
      CLIP
    )!.values
    const apart = often.map((value, n) => Math.abs(value - once[n]!))
    expect(Math.max(...apart)).toBeLessThan(1 / 32)
    expect(Math.max(...apart)).toBeGreaterThan(0)
  })

  it('an outline cut by the sides of the picture is what lies within of it', () => {
    const wide = Float64Array.from([-7.3, 1, 19.2, 4.5, 6, 9.7])
    const whole = areaOf([wide], { left: -10, top: -10, right: 30, bottom: 30 })!
    const cut = areaOf([wide], CLIP)!
    for (let y = cut.top; y < cut.bottom; y++)
      for (let x = cut.left; x < cut.right; x++)
        expect(cut.values[(y - cut.top) * (cut.right - cut.left) + x - cut.left]).toBeCloseTo(
          whole.values[(y - whole.top) * (whole.right - whole.left) + x - whole.left]!,
          6
        )
  })
})
