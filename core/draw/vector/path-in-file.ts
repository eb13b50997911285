/** The line of a drawing as the points of a path: the longest that an SVG file draws. */
import SvgPath from 'svgpath'
import { unreadable } from '../../base/errors'
import { lengthOf } from '../raster/line'
import { pathLine } from '../scene/elements/path/outline'
import { Point, type PathLook } from '../scene/elements/path/look'
import { MOST } from '../scene/values'
import { pathOf } from './svg/shapes'
import { readTree, type Node } from './svg/tree'

export interface FilePath extends Pick<PathLook, 'points' | 'closed'> {
  /** Lines that the file draws; one of them is this. */
  of: number
}

/** The size that shares of lengths are taken of, in pixels. */
function sizeOf(root: Node): readonly [number, number] {
  const box = (root.attributes.viewBox ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number)
  const side = (name: 'width' | 'height', n: number): number =>
    Number.parseFloat(root.attributes[name] ?? '') || box[n] || 100
  return [side('width', 2), side('height', 3)]
}

/** What is defined and not drawn where it stands. */
const ASIDE = new Set(['defs', 'clipPath', 'mask', 'marker', 'pattern', 'symbol'])

/** Data of all that is drawn, with the transforms it stands in. */
function* drawnIn(
  node: Node,
  around: readonly string[],
  size: readonly [number, number]
): Generator<[string, string[]]> {
  if (ASIDE.has(node.tag) || node.attributes.display === 'none') return
  const { transform } = node.attributes
  const within = transform ? [...around, transform] : [...around]
  const data = pathOf(node.tag, node.attributes, size)
  if (data) yield [data, within]
  for (const child of node.children) yield* drawnIn(child, within, size)
}

const at = (x: number, y: number): Point => ({ x, y, before: null, after: null })

/** Runs of path data, in the drawing's coordinates, curves by their handles. */
function runsIn(data: string, transforms: readonly string[]): Pick<PathLook, 'points' | 'closed'>[] {
  const runs: Pick<PathLook, 'points' | 'closed'>[] = []
  let points: Point[] = []
  const end = (closed: boolean): void => {
    const [first, last] = [points[0], points.at(-1)]
    if (closed && first && last && first !== last && Math.hypot(first.x - last.x, first.y - last.y) < 1e-6) {
      first.before = last.before
      points.pop()
    }
    if (points.length > 1) runs.push({ points, closed })
    points = []
  }
  const path = SvgPath(data).abs().unshort().unarc()
  // what stands outermost is applied last
  for (const transform of [...transforms].reverse()) path.transform(transform)
  path.abs().iterate((segment, _, x, y) => {
    const [kind, ...n] = segment as [string, ...number[]]
    if (kind === 'M') {
      end(false)
      points = [at(n[0]!, n[1]!)]
      return
    }
    if (kind === 'Z' || kind === 'z') return end(true)
    if (!points.length) points = [at(x, y)]
    const from = points.at(-1)!
    const to = at(kind === 'V' ? x : (n.at(-2) ?? n[0]!), kind === 'H' ? y : n.at(-1)!)
    if (kind === 'H') to.x = n[0]!
    if (kind === 'C') {
      from.after = [n[0]! - from.x, n[1]! - from.y]
      to.before = [n[2]! - to.x, n[3]! - to.y]
    } else if (kind === 'Q') {
      // a quadratic as the cubic that it is
      from.after = [(2 / 3) * (n[0]! - from.x), (2 / 3) * (n[1]! - from.y)]
      to.before = [(2 / 3) * (n[0]! - to.x), (2 / 3) * (n[1]! - to.y)]
    }
    points.push(to)
  })
  end(false)
  return runs
}

/**
 * The longest line that an SVG file draws, its points about the middle of its box, in pixels of the drawing. Throws one
 * clear error where the file is no drawing, draws no line, or the line has more points than a path takes.
 */
export function pathInFile(text: string, file: string): FilePath {
  const root = readTree(text, file)
  const size = sizeOf(root)
  const runs = [...drawnIn(root, [], size)].flatMap(([data, transforms]) => runsIn(data, transforms))
  const lengths = runs.map(({ points, closed }) => lengthOf(pathLine(points, closed)))
  const longest = runs[lengths.indexOf(Math.max(...lengths))]
  if (!longest) throw unreadable(file, 'the drawing', 'it draws no line: no path, polygon, rectangle or ellipse')
  const { points, closed } = longest
  if (points.length > MOST.points)
    throw unreadable(file, 'the drawing', `its longest line has ${points.length} points; a path takes ${MOST.points}`)
  const line = pathLine(points, closed)
  const [xs, ys] = [line.filter((_, i) => i % 2 === 0), line.filter((_, i) => i % 2 === 1)]
  const middle = (of: Float64Array): number =>
    (of.reduce((a, b) => Math.min(a, b)) + of.reduce((a, b) => Math.max(a, b))) / 2
  const [cx, cy] = [middle(xs), middle(ys)]
  // no zero has a sign
  const near = (value: number): number => Math.round(value * 100) / 100 + 0
  const way = (of: Point['after']): Point['after'] => of && [near(of[0]), near(of[1])]
  const placed = points.map(({ x, y, before, after }) => ({
    ...{ x: near(x - cx), y: near(y - cy), before: way(before), after: way(after) }
  }))
  if (!placed.every(point => Point.safeParse(point).success))
    throw unreadable(file, 'the drawing', 'its longest line reaches further than a scene does')
  return { closed, of: runs.length, points: placed }
}
