/** Outlines of letters as lines of points. */
import { impossible } from '../../base/errors'
import { follow, type Line } from '../raster/line'
import type { PlacedGlyph } from './set'

/** Corners and curves of one letter; drawn ones have hundreds. */
const MOST_PIECES = 20_000

type Spot = readonly [number, number]

/** A point of the font's, in pixels. */
export const pointOf = ({ file, x, y }: PlacedGlyph, size: number): ((right: number, up: number) => Spot) => {
  const unit = size / file.unitsPerEm
  return (right, up) => [x + right * unit, y - up * unit]
}

/** The outlines of a letter of `size` pixels. Throws one clear error where it has more corners than letters have. */
export function linesOf(placed: PlacedGlyph, size: number): Line[] {
  const pieces = placed.file.outline(placed.glyph)
  if (pieces.length > MOST_PIECES) throw impossible(`a letter of the type face has ${pieces.length} corners`)
  const point = pointOf(placed, size)
  const lines: Line[] = []
  let points: number[] = []
  let at: Spot = [0, 0]
  const end = (): void => {
    if (points.length >= 6) lines.push(Float64Array.from(points))
    points = []
  }
  for (const { type, values: v } of pieces) {
    if (type === 'Z') {
      end()
      continue
    }
    const to = point(v[v.length - 2]!, v[v.length - 1]!)
    if (type === 'M') {
      end()
      points.push(...to)
    } else if (type === 'L') points.push(...to)
    else if (type === 'C') follow(points, at, point(v[0]!, v[1]!), point(v[2]!, v[3]!), to)
    else {
      // a quadratic as the cubic it is
      const control = point(v[0]!, v[1]!)
      const third = (from: Spot): Spot => [
        from[0] + (2 / 3) * (control[0] - from[0]),
        from[1] + (2 / 3) * (control[1] - from[1])
      ]
      follow(points, at, third(at), third(to), to)
    }
    at = to
  }
  end()
  return lines
}
