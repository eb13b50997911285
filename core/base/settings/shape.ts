/** Drawn masks: ellipse, rectangle or polygon by signed distance, and how they move over time. */
import { z } from 'zod'

const Point = z.tuple([z.number(), z.number()])

/**
 * A shape as it stands at a frame (counted from 1), in pixels from the top left. Ellipse and rectangle have two points,
 * opposite corners.
 */
export const Shape = z.object({
  frame: z.number().int().min(1),
  kind: z.enum(['ellipse', 'rectangle', 'polygon']),
  points: z.array(Point).min(2).max(64)
})
export type ShapeAt = z.infer<typeof Shape>

/** The shape at a frame: points go evenly from one key to the next; before the first and after the last they stand. */
export function shapeAt(keys: readonly ShapeAt[], frame: number): ShapeAt | null {
  const sorted = [...keys].sort((a, b) => a.frame - b.frame)
  const after = sorted.find(key => key.frame >= frame)
  const before = sorted.findLast(key => key.frame <= frame)
  if (!before || !after) return after ?? before ?? null
  if (before === after || before.points.length !== after.points.length) return before
  const t = (frame - before.frame) / (after.frame - before.frame)
  return {
    frame,
    kind: before.kind,
    points: before.points.map(([x, y], i) => [x + (after.points[i]![0] - x) * t, y + (after.points[i]![1] - y) * t])
  }
}

/** The keys with the shape set at a frame. */
export function withShapeAt(keys: readonly ShapeAt[], shape: ShapeAt): ShapeAt[] {
  return [...keys.filter(key => key.frame !== shape.frame), shape].sort((a, b) => a.frame - b.frame)
}

/** Squared distance from a place to the line from `a` to `b`. */
function squaredDistance(
  [ax, ay]: readonly [number, number],
  [bx, by]: readonly [number, number],
  x: number,
  y: number
): number {
  const [ex, ey] = [bx - ax, by - ay]
  const t = Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / (ex * ex + ey * ey || 1)))
  const [dx, dy] = [x - ax - ex * t, y - ay - ey * t]
  return dx * dx + dy * dy
}

/**
 * Where the row through `y` crosses the outline, from left to right: inside lies between the first and second, and so
 * on.
 */
function crossings(points: ShapeAt['points'], y: number): number[] {
  const found: number[] = []
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [ax, ay] = points[i]!
    const [bx, by] = points[j]!
    if (ay > y !== by > y) found.push(((bx - ax) * (y - ay)) / (by - ay) + ax)
  }
  return found.sort((a, b) => a - b)
}

/**
 * Coverage by a polygon: rows are filled between crossings, and distances taken only as near to each side as softness
 * reaches.
 */
function polygonCoverage(points: ShapeAt['points'], width: number, height: number, soft: number): Float32Array {
  const result = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const across = crossings(points, y + 0.5)
    for (let n = 0; n + 1 < across.length; n += 2)
      result.fill(
        1,
        y * width + clampTo(Math.ceil(across[n]! - 0.5), width),
        y * width + clampTo(Math.ceil(across[n + 1]! - 0.5), width)
      )
  }
  const reach = soft / 2
  const nearest = new Float32Array(width * height).fill(reach * reach)
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [a, b] = [points[i]!, points[j]!]
    const [top, bottom] = [
      clampTo(Math.floor(Math.min(a[1], b[1]) - reach), height),
      clampTo(Math.ceil(Math.max(a[1], b[1]) + reach), height)
    ]
    const [left, right] = [
      clampTo(Math.floor(Math.min(a[0], b[0]) - reach), width),
      clampTo(Math.ceil(Math.max(a[0], b[0]) + reach), width)
    ]
    for (let y = top; y < bottom; y++) {
      for (let x = left, p = y * width + left; x < right; x++, p++) {
        const d = squaredDistance(a, b, x + 0.5, y + 0.5)
        if (d < nearest[p]!) nearest[p] = d
      }
    }
  }
  for (let p = 0; p < result.length; p++) {
    if (nearest[p]! < reach * reach) result[p] = 0.5 + ((result[p]! > 0 ? 1 : -1) * Math.sqrt(nearest[p]!)) / soft
  }
  return result
}

const clampTo = (v: number, size: number): number => Math.max(0, Math.min(size, v))

/**
 * Coverage 0 to 1 of every pixel; the edge is `softness` pixels wide, and at least one. Of an ellipse to the first
 * order, which an edge of a few pixels does not show.
 */
export function coverage(shape: ShapeAt, width: number, height: number, softness: number): Float32Array {
  const soft = Math.max(1, softness)
  if (shape.kind === 'polygon') return polygonCoverage(shape.points, width, height, soft)
  const result = new Float32Array(width * height)
  const [[ax, ay], [bx, by]] = [shape.points[0]!, shape.points[1]!]
  const [cx, cy, hx, hy] = [
    (ax + bx) / 2,
    (ay + by) / 2,
    Math.max(0.5, Math.abs(bx - ax) / 2),
    Math.max(0.5, Math.abs(by - ay) / 2)
  ]
  const round = shape.kind === 'ellipse'
  // the edge reaches half of softness beyond the sides, an ellipse's by what its first order makes of that
  const reach = round ? (soft * Math.max(hx, hy)) / Math.min(hx, hy) : soft / 2
  const [top, bottom] = [clampTo(Math.floor(cy - hy - reach), height), clampTo(Math.ceil(cy + hy + reach), height)]
  const [left, right] = [clampTo(Math.floor(cx - hx - reach), width), clampTo(Math.ceil(cx + hx + reach), width)]
  for (let y = top; y < bottom; y++) {
    for (let x = left, p = y * width + left; x < right; x++, p++) {
      const distance = round
        ? toEllipse((x + 0.5 - cx) / hx, (y + 0.5 - cy) / hy, hx, hy)
        : toRectangle(Math.abs(x + 0.5 - cx) - hx, Math.abs(y + 0.5 - cy) - hy)
      const share = 0.5 - distance / soft
      result[p] = share < 0 ? 0 : share > 1 ? 1 : share
    }
  }
  return result
}

/** Signed distance in pixels, negative inside: to a rectangle, from how far beyond its sides a place is. */
function toRectangle(dx: number, dy: number): number {
  return dx > 0 && dy > 0 ? Math.sqrt(dx * dx + dy * dy) : dx > dy ? dx : dy
}

/** To an ellipse of half sides `hx` and `hy`, from a place in units of them. */
function toEllipse(u: number, v: number, hx: number, hy: number): number {
  const r = Math.sqrt(u * u + v * v)
  const [su, sv] = [u / hx, v / hy]
  return r < 1e-6 ? -Math.min(hx, hy) : ((r - 1) * r) / Math.sqrt(su * su + sv * sv)
}
