/**
 * Areas as coverage of pixels, in floating point. An area's coverage is exact: the signed area that its outline leaves
 * in each pixel, summed along rows. Where an outline crosses itself or another, the rows are cut at each crossing, and
 * only edges between inside and outside count: what is covered twice is covered once. Where more than a hundred edges
 * lie over each other in a row of pixels, it is cut in 32 instead, and coverage is as near as that. Coverage of 8 bits,
 * as most painters have it, would show as steps in a file of 16.
 */
import { boundsOf, isEmpty, within, type Bounds, type Coverage } from './coverage'
import type { Line } from './line'

/** Whether a place is inside, by how many times an outline runs around it. */
type Inside = (turns: number) => 0 | 1
const nonZero: Inside = turns => (turns === 0 ? 0 : 1)
const everySecond: Inside = turns => (turns % 2 === 0 ? 0 : 1)

/**
 * Edges of outlines, each from its top down; `way` is 1 where the outline runs down it, -1 where up. Level ones, of way
 * 0, bound nothing, and tell what hangs together.
 */
interface Edges {
  count: number
  x: Float64Array
  top: Float64Array
  bottom: Float64Array
  /** How far across it runs, from its top to its bottom. */
  run: Float64Array
  way: Int8Array
  /** Edges in the order of the rows they begin in, and where each row's begin. */
  order: Uint32Array
  begins: Uint32Array
}

/** Edges no higher than this are level: they bound nothing that could be seen, and have no slope to reckon with. */
const LEVEL = 1e-12

/** The edges that rows of these bounds meet, in coordinates of the bounds. */
function edgesOf(lines: readonly Line[], { left, top, bottom }: Bounds): Edges {
  const height = bottom - top
  const most = lines.reduce((sum, line) => sum + line.length / 2, 0)
  const edges: Edges = {
    count: 0,
    x: new Float64Array(most),
    top: new Float64Array(most),
    bottom: new Float64Array(most),
    run: new Float64Array(most),
    way: new Int8Array(most),
    order: new Uint32Array(0),
    begins: new Uint32Array(height + 1)
  }
  for (const line of lines)
    for (let i = 0; i < line.length; i += 2) {
      const j = i + 2 < line.length ? i + 2 : 0
      const [y0, y1] = [line[i + 1]! - top, line[j + 1]! - top]
      const down = y0 < y1
      const [high, low] = down ? [y0, y1] : [y1, y0]
      if (low <= 0 || high >= height) continue
      const [x0, x1] = down ? [line[i]!, line[j]!] : [line[j]!, line[i]!]
      const n = edges.count++
      edges.x[n] = x0 - left
      edges.top[n] = high
      edges.bottom[n] = low
      edges.run[n] = x1 - x0
      edges.way[n] = low - high < LEVEL ? 0 : down ? 1 : -1
      edges.begins[Math.max(0, Math.floor(high))]!++
    }
  edges.order = new Uint32Array(edges.count)
  let before = 0
  for (let y = 0; y <= height; y++) {
    const here = edges.begins[y]!
    edges.begins[y] = before
    before += here
  }
  const next = edges.begins.slice()
  for (let n = 0; n < edges.count; n++) edges.order[next[Math.max(0, Math.floor(edges.top[n]!))]!++] = n
  return edges
}

/** A piece of an edge within one row: from its top to its bottom, in shares of the row, and where it is there. */
interface Piece {
  from: number
  to: number
  /** Across, at its top and its bottom. */
  a: number
  b: number
  way: number
}

const left = ({ a, b }: Piece): number => (a < b ? a : b)
const right = ({ a, b }: Piece): number => (a < b ? b : a)
const across = ({ from, to, a, b }: Piece, at: number): number => a + ((b - a) * (at - from)) / (to - from)

/** One row of sums: what each edge leaves to the right of itself. */
class Row {
  readonly sums: Float64Array
  constructor(private readonly width: number) {
    this.sums = new Float64Array(width + 2)
  }

  /** Adds a piece `weight` times, cut where it leaves the row at its sides. */
  add({ from, to, a, b }: Omit<Piece, 'way'>, weight: number): void {
    const { width } = this
    if (to === from) return
    const inside = Math.min(a, b) >= 0 && Math.max(a, b) <= width
    if (inside) return this.slant(a, b, (to - from) * weight)
    const held = (x: number): number => Math.min(width, Math.max(0, x))
    const cuts = [0, 1]
    for (const side of [0, width]) if ((a < side && b > side) || (b < side && a > side)) cuts.push((side - a) / (b - a))
    cuts.sort((one, other) => one - other)
    for (let n = 1; n < cuts.length; n++) {
      const [t, u] = [cuts[n - 1]!, cuts[n]!]
      this.slant(held(a + (b - a) * t), held(a + (b - a) * u), (to - from) * (u - t) * weight)
    }
  }

  /** A slant from `a` to `b`, both within the row, over a `share` of its height. */
  private slant(a: number, b: number, share: number): void {
    const { sums } = this
    const [near, far] = a < b ? [a, b] : [b, a]
    const x = Math.floor(near)
    if (far <= x + 1) {
      // within one pixel: what lies to the right of the edge's middle
      const middle = (near + far) / 2 - x
      sums[x]! += share * (1 - middle)
      sums[x + 1]! += share * middle
      return
    }
    // over several: triangles at both ends, slices between
    const run = 1 / (far - near)
    const begin = 1 - (near - x)
    let covered = 0.5 * run * begin * begin
    sums[x]! += share * covered
    const end = Math.ceil(far)
    for (let n = x + 1; n < end - 1; n++) {
      const reach = run * (n + 0.5 - near)
      sums[n]! += share * (reach - covered)
      covered = reach
    }
    const rest = far - (end - 1)
    const last = 1 - 0.5 * run * rest * rest
    sums[end - 1]! += share * (last - covered)
    sums[end]! += share * (1 - last)
  }
}

/** Shares of a row that are none: crossings as near as this to an end are that end. */
const NONE = 1e-9

/** Where pieces begin, end and cross, down the row; each once. */
function cutsOf(pieces: readonly Piece[]): number[] {
  const cuts = pieces.flatMap(({ from, to }) => [from, to])
  for (let n = 0; n < pieces.length; n++) {
    const one = pieces[n]!
    const end = right(one)
    for (let m = n + 1; m < pieces.length; m++) {
      const other = pieces[m]!
      if (left(other) > end) break
      const [from, to] = [Math.max(one.from, other.from), Math.min(one.to, other.to)]
      if (to - from <= NONE) continue
      const [before, after] = [across(one, from) - across(other, from), across(one, to) - across(other, to)]
      if ((before < 0 && after > 0) || (before > 0 && after < 0))
        cuts.push(from + ((to - from) * before) / (before - after))
    }
  }
  cuts.sort((one, other) => one - other)
  return cuts.filter((cut, n) => n === 0 || cut - cuts[n - 1]! > NONE)
}

/** Pieces that are cut wherever they cross; of more than these, rows are cut evenly, so that nobody waits for ever. */
const MOST_CROSSING = 100
const EVENLY = Array.from({ length: 33 }, (_, n) => n / 32)

/** Adds pieces that lie over each other: the row is cut into slabs in which none begins, ends or crosses another. */
function addTangled(row: Row, pieces: readonly Piece[], turns: number, inside: Inside): void {
  const cuts = pieces.length <= MOST_CROSSING ? cutsOf(pieces) : EVENLY
  for (let n = 1; n < cuts.length; n++) {
    const [from, to] = [cuts[n - 1]!, cuts[n]!]
    const middle = (from + to) / 2
    const here = pieces
      .filter(piece => piece.from <= middle && piece.to >= middle)
      .map(piece => ({ piece, at: across(piece, middle) }))
      .sort((one, other) => one.at - other.at)
    let now = turns
    for (const { piece } of here) {
      const next = now + piece.way
      const weight = inside(next) - inside(now)
      now = next
      if (weight !== 0) row.add({ from, to, a: across(piece, from), b: across(piece, to) }, weight)
    }
  }
}

/** Pixels across that what hangs together may be apart by, as numbers round. */
const TOUCH = 1e-6

/** Adds the pieces of a row, which come in order of their left ends. */
function addRow(row: Row, pieces: readonly Piece[], inside: Inside): void {
  let turns = 0
  for (let n = 0; n < pieces.length;) {
    // pieces whose reach across the row overlaps; beside them nothing lies, so that a whole number of turns does
    let [end, far] = [n + 1, right(pieces[n]!)]
    let way = pieces[n]!.way
    let height = way * (pieces[n]!.to - pieces[n]!.from)
    let oneWay = true
    while (end < pieces.length && left(pieces[end]!) <= far + TOUCH) {
      const piece = pieces[end++]!
      far = Math.max(far, right(piece))
      height += piece.way * (piece.to - piece.from)
      oneWay &&= way === 0 || piece.way === 0 || piece.way === way
      way ||= piece.way
    }
    const by = Math.round(height)
    if (oneWay && Math.abs(by) === 1) {
      // one line that runs through the row: it lies over nothing
      const weight = inside(turns + by) - inside(turns)
      if (weight !== 0) for (let m = n; m < end; m++) row.add(pieces[m]!, weight)
    } else addTangled(row, pieces.slice(n, end), turns, inside)
    turns += by
    n = end
  }
}

/**
 * The area within closed lines, as far as it lies within `clip`; null where nothing of it does. A place is inside where
 * the lines run around it more often one way than the other; where `evenOdd` is asked for, where they run around it an
 * odd number of times (SVG 2, 13.4.2). Coverage is exact but for rounding, and but for rows of pixels in which more
 * than a hundred edges lie over each other.
 */
export function areaOf(lines: readonly Line[], clip: Bounds, evenOdd = false): Coverage | null {
  const bounds = within(boundsOf(lines), clip)
  if (isEmpty(bounds)) return null
  const inside = evenOdd ? everySecond : nonZero
  const [width, height] = [bounds.right - bounds.left, bounds.bottom - bounds.top]
  const edges = edgesOf(lines, bounds)
  const values = new Float32Array(width * height)
  const rows = new Uint32Array(2 * height)
  const row = new Row(width)
  let active: number[] = []
  for (let y = 0; y < height; y++) {
    active = active.filter(n => edges.bottom[n]! > y)
    for (let n = edges.begins[y]!; n < edges.begins[y + 1]!; n++) active.push(edges.order[n]!)
    if (!active.length) continue
    const pieces = active.map((n): Piece => {
      const [top, bottom, x, run, way] = [edges.top[n]!, edges.bottom[n]!, edges.x[n]!, edges.run[n]!, edges.way[n]!]
      if (way === 0) return { from: top - y, to: top - y, a: x, b: x + run, way }
      const [from, to] = [Math.max(top, y), Math.min(bottom, y + 1)]
      const slope = run / (bottom - top)
      return { from: from - y, to: to - y, a: x + (from - top) * slope, b: x + (to - top) * slope, way }
    })
    pieces.sort((one, other) => left(one) - left(other))
    addRow(row, pieces, inside)
    // nothing lies before the first piece, nor beyond the last
    const begins = Math.min(width, Math.max(0, Math.floor(left(pieces[0]!))))
    const ends = Math.min(
      width,
      pieces.reduce((far, piece) => Math.max(far, Math.ceil(right(piece)) + 1), 0)
    )
    let sum = 0
    for (let x = begins; x < ends; x++) {
      sum += row.sums[x]!
      // what the summing leaves at the end of a row is nothing
      values[y * width + x] = sum >= 0.999999 ? 1 : sum < 1e-6 ? 0 : sum
    }
    row.sums.fill(0, begins, ends + 2)
    rows[2 * y] = begins
    rows[2 * y + 1] = ends
  }
  return { ...bounds, values, rows }
}
