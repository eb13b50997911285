/** Basic shapes and paths of SVG as closed and open lines, curves followed (SVG 1.1, 8 and 9). */
import SvgPath from 'svgpath'
import { follow, placed, type Affine, type Run } from '../../raster/line'

/** How many points one drawing may come to. */
const MOST_POINTS = 4_000_000

/** What em, rem and ex are where nothing sets a size of lettering. */
const EM = 16

/** Whether a length is understood. */
export const isLength = (text: string): boolean => !Number.isNaN(lengthOf(text, 1, NaN))

/** Lengths in pixels: the units that are fixed, and shares of `whole`. */
export function lengthOf(text: string | undefined, whole: number, fallback = 0): number {
  const found = /^\s*([-+]?[\d.]+(?:e[-+]?\d+)?)\s*(px|pt|pc|mm|cm|in|q|em|rem|ex|%)?\s*$/i.exec(text ?? '')
  if (!found) return fallback
  const value = Number(found[1])
  if (!Number.isFinite(value)) return fallback
  const unit = (found[2] ?? 'px').toLowerCase()
  const per: Record<string, number> = {
    px: 1,
    pt: 4 / 3,
    pc: 16,
    mm: 96 / 25.4,
    cm: 96 / 2.54,
    in: 96,
    q: 96 / 101.6,
    em: EM,
    rem: EM,
    ex: EM / 2,
    '%': whole / 100
  }
  return value * per[unit]!
}

/** The path data that draws an element; null where it draws nothing by itself. */
export function pathOf(
  tag: string,
  a: Readonly<Record<string, string>>,
  [w, h]: readonly [number, number]
): string | null {
  const across = (name: string, fallback = 0): number => lengthOf(a[name], w, fallback)
  const down = (name: string, fallback = 0): number => lengthOf(a[name], h, fallback)
  if (tag === 'path' || tag === 'glyphs') return a.d ?? null
  if (tag === 'line') return `M${across('x1')} ${down('y1')}L${across('x2')} ${down('y2')}`
  if (tag === 'polyline' || tag === 'polygon') {
    const points = (a.points ?? '').match(/[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/gi) ?? []
    if (points.length < 4) return null
    return `M${points.slice(0, points.length - (points.length % 2)).join(' ')}${tag === 'polygon' ? 'Z' : ''}`
  }
  if (tag === 'rect') {
    const [x, y, width, height] = [across('x'), down('y'), across('width'), down('height')]
    if (width <= 0 || height <= 0) return null
    // one that is not said is the other
    const [givenX, givenY] = [across('rx', NaN), down('ry', NaN)]
    const rx = Math.min(width / 2, Number.isNaN(givenX) ? givenY : givenX)
    const ry = Math.min(height / 2, Number.isNaN(givenY) ? givenX : givenY)
    if (!(rx > 0 && ry > 0)) return `M${x} ${y}h${width}v${height}h${-width}Z`
    const corner = (dx: number, dy: number): string => `a${rx} ${ry} 0 0 1 ${dx} ${dy}`
    return (
      `M${x + rx} ${y}h${width - 2 * rx}${corner(rx, ry)}v${height - 2 * ry}${corner(-rx, ry)}` +
      `h${2 * rx - width}${corner(-rx, -ry)}v${2 * ry - height}${corner(rx, -ry)}Z`
    )
  }
  if (tag === 'circle' || tag === 'ellipse') {
    const r = lengthOf(a.r, Math.hypot(w, h) / Math.SQRT2)
    const [rx, ry] = tag === 'circle' ? [r, r] : [across('rx'), down('ry')]
    if (rx <= 0 || ry <= 0) return null
    const [cx, cy] = [across('cx'), down('cy')]
    // dashes begin where it does, at three o'clock (SVG 2, 10.3)
    return `M${cx + rx} ${cy}a${rx} ${ry} 0 1 1 ${-2 * rx} 0a${rx} ${ry} 0 1 1 ${2 * rx} 0Z`
  }
  return null
}

/**
 * Path data laid out in pixels. Throws a plain Error where it is longer than can be taken; data that ends in nonsense
 * counts up to there.
 */
export function runsOf(data: string, at: Affine): Run[] {
  const runs: Run[] = []
  let points: number[] = []
  let total = 0
  const end = (closed: boolean): void => {
    if (points.length >= 4 || (closed && points.length >= 2)) runs.push({ line: Float64Array.from(points), closed })
    total += points.length
    if (total > 2 * MOST_POINTS) throw new Error('its curves come to more points than can be taken')
    points = []
  }
  const spot = (x: number, y: number): readonly [number, number] => [
    at.a * x + at.c * y + at.e,
    at.b * x + at.d * y + at.f
  ]
  let start: readonly [number, number] = [0, 0]
  SvgPath(data)
    .abs()
    .unshort()
    .unarc()
    .iterate((segment, _, x, y) => {
      const [kind, ...n] = segment as [string, ...number[]]
      const from = spot(x, y)
      if (points.length === 0 && kind !== 'M' && kind !== 'Z' && kind !== 'z') points.push(...from)
      if (kind === 'M') {
        end(false)
        start = [n[0]!, n[1]!]
        points.push(...spot(...start))
      } else if (kind === 'L') points.push(...spot(n[0]!, n[1]!))
      else if (kind === 'H') points.push(...spot(n[0]!, y))
      else if (kind === 'V') points.push(...spot(x, n[0]!))
      else if (kind === 'C') follow(points, from, spot(n[0]!, n[1]!), spot(n[2]!, n[3]!), spot(n[4]!, n[5]!))
      else if (kind === 'Q') {
        // a quadratic as the cubic that it is
        const [cx, cy, ex, ey] = n as [number, number, number, number]
        const third = (a: number, b: number): number => a + (2 / 3) * (b - a)
        follow(points, from, spot(third(x, cx), third(y, cy)), spot(third(ex, cx), third(ey, cy)), spot(ex, ey))
      } else end(true)
    })
  end(false)
  return runs
}

/** The box of runs. */
export function boxOf(runs: readonly Run[]): readonly [left: number, top: number, right: number, bottom: number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const { line } of runs)
    for (let i = 0; i < line.length; i += 2) {
      box[0] = Math.min(box[0], line[i]!)
      box[1] = Math.min(box[1], line[i + 1]!)
      box[2] = Math.max(box[2], line[i]!)
      box[3] = Math.max(box[3], line[i + 1]!)
    }
  return box
}

/** Runs somewhere else. */
export const placedRuns = (runs: readonly Run[], at: Affine): Run[] =>
  runs.map(({ line, closed }) => ({ line: placed(line, at), closed }))
