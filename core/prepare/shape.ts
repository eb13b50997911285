/** Drawn masks: ellipse, rectangle or polygon by signed distance, and how they move over time. */
import { z } from 'zod'

const Point = z.tuple([z.number(), z.number()])

/** A shape as it stands at a frame (counted from 1), in pixels from the top left. Ellipse and rectangle have two points, opposite corners. */
export const Shape = z.object({ frame: z.number().int().min(1), kind: z.enum(['ellipse', 'rectangle', 'polygon']), points: z.array(Point).min(2).max(64) })
export type ShapeAt = z.infer<typeof Shape>

/** The shape at a frame: points go evenly from one key to the next; before the first and after the last they stand. */
export function shapeAt(keys: readonly ShapeAt[], frame: number): ShapeAt | null {
  const sorted = [...keys].sort((a, b) => a.frame - b.frame)
  const after = sorted.find(key => key.frame >= frame)
  const before = sorted.findLast(key => key.frame <= frame)
  if (!before || !after) return after ?? before ?? null
  if (before === after || before.points.length !== after.points.length) return before
  const t = (frame - before.frame) / (after.frame - before.frame)
  return { frame, kind: before.kind, points: before.points.map(([x, y], i) => [x + (after.points[i]![0] - x) * t, y + (after.points[i]![1] - y) * t]) }
}

/** The keys with the shape set at a frame. */
export function withShapeAt(keys: readonly ShapeAt[], shape: ShapeAt): ShapeAt[] {
  return [...keys.filter(key => key.frame !== shape.frame), shape].sort((a, b) => a.frame - b.frame)
}

function distanceToPolygon(points: ShapeAt['points'], x: number, y: number): number {
  let nearest = Infinity
  let inside = false
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [ax, ay] = points[i]!
    const [bx, by] = points[j]!
    const [ex, ey] = [bx - ax, by - ay]
    const t = Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / (ex * ex + ey * ey || 1)))
    const [dx, dy] = [x - ax - ex * t, y - ay - ey * t]
    nearest = Math.min(nearest, dx * dx + dy * dy)
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside
  }
  return Math.sqrt(nearest) * (inside ? -1 : 1)
}

/** Signed distance in pixels, negative inside; of an ellipse to the first order, which an edge of a few pixels does not show. */
function distanceTo(shape: ShapeAt): (x: number, y: number) => number {
  const [[ax, ay], [bx, by]] = [shape.points[0]!, shape.points[1]!]
  const [cx, cy, hx, hy] = [(ax + bx) / 2, (ay + by) / 2, Math.max(0.5, Math.abs(bx - ax) / 2), Math.max(0.5, Math.abs(by - ay) / 2)]
  if (shape.kind === 'polygon') return (x, y) => distanceToPolygon(shape.points, x, y)
  if (shape.kind === 'rectangle') {
    return (x, y) => {
      const [dx, dy] = [Math.abs(x - cx) - hx, Math.abs(y - cy) - hy]
      return (dx > 0 && dy > 0 ? Math.sqrt(dx * dx + dy * dy) : Math.max(dx, dy))
    }
  }
  return (x, y) => {
    const [u, v] = [(x - cx) / hx, (y - cy) / hy]
    const r = Math.sqrt(u * u + v * v)
    const [su, sv] = [u / hx, v / hy]
    return r < 1e-6 ? -Math.min(hx, hy) : ((r - 1) * r) / Math.sqrt(su * su + sv * sv)
  }
}

/** Coverage 0 to 1 of every pixel; the edge is `softness` pixels wide, and at least one. */
export function coverage(shape: ShapeAt, width: number, height: number, softness: number): Float32Array {
  const result = new Float32Array(width * height)
  const distance = distanceTo(shape)
  const soft = Math.max(1, softness)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) result[y * width + x] = Math.max(0, Math.min(1, 0.5 - distance(x + 0.5, y + 0.5) / soft))
  return result
}
