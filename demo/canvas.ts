/**
 * A small painter for the demo: shapes given by their signed distance in pixels (negative inside), anti-aliased over
 * one pixel, laid over each other in straight alpha.
 */
import type { Triple } from '../core/base/colour'
import { STRAIGHT, type Frame } from '../core/frame/frame'

export type Distance = (x: number, y: number) => number

/** A shape, and the rectangle outside which there is nothing of it. */
export interface Shape {
  distance: Distance
  left: number
  top: number
  right: number
  bottom: number
}

/** Plain square root: the library's `hypot` guards against overflow that cannot happen here, at many times the cost. */
function length(x: number, y: number): number {
  return Math.sqrt(x * x + y * y)
}

export class Canvas {
  /** RGBA in 0..1, straight. */
  private readonly pixels: Float32Array

  constructor(
    readonly width: number,
    readonly height: number
  ) {
    this.pixels = new Float32Array(width * height * 4)
  }

  /**
   * Lays a shape of one colour (0 to 255) and opacity over what is there. `soft` is the width of its edge in pixels.
   */
  fill(shape: Shape, colour: Triple, opacity = 1, soft = 1): void {
    const { pixels } = this
    const right = Math.min(this.width, Math.ceil(shape.right + soft))
    const bottom = Math.min(this.height, Math.ceil(shape.bottom + soft))
    for (let y = Math.max(0, Math.floor(shape.top - soft)); y < bottom; y++) {
      for (let x = Math.max(0, Math.floor(shape.left - soft)); x < right; x++) {
        const coverage = Math.min(1, Math.max(0, 0.5 - shape.distance(x + 0.5, y + 0.5) / soft)) * opacity
        if (coverage <= 0) continue
        const i = 4 * (y * this.width + x)
        const under = pixels[i + 3]! * (1 - coverage)
        const alpha = coverage + under
        for (let c = 0; c < 3; c++) pixels[i + c] = ((colour[c]! / 255) * coverage + pixels[i + c]! * under) / alpha
        pixels[i + 3] = alpha
      }
    }
  }

  /** Paints everything below: the background that should not have been there. */
  underlay(colour: Triple): void {
    this.underlayBy(() => colour)
  }

  /** The same with a colour for each place. */
  underlayBy(colourAt: (x: number, y: number) => Triple): void {
    const { pixels } = this
    for (let i = 0; i < pixels.length; i += 4) {
      const a = pixels[i + 3]!
      const colour = colourAt((i / 4) % this.width, Math.floor(i / 4 / this.width))
      for (let c = 0; c < 3; c++) pixels[i + c] = pixels[i + c]! * a + (colour[c]! / 255) * (1 - a)
      pixels[i + 3] = 1
    }
  }

  /** RGBA of 0 to 1, straight, as painted so far: a copy. */
  floats(): Float32Array {
    return this.pixels.slice()
  }

  /** The picture as a frame of 8 or 16 bits. */
  frame(depth: 8 | 16): Frame {
    const full = depth === 8 ? 255 : 65535
    const samples = depth === 8 ? new Uint8Array(this.pixels.length) : new Uint16Array(this.pixels.length)
    for (let i = 0; i < samples.length; i++) samples[i] = Math.round(Math.min(1, this.pixels[i]!) * full)
    // where alpha rounds to nothing, nothing is left of the colour either
    for (let i = 0; i < samples.length; i += 4) if (samples[i + 3] === 0) samples.fill(0, i, i + 3)
    return { width: this.width, height: this.height, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
  }
}

/** An ellipse about (cx, cy), turned by `angle`; the distance is exact enough for an edge one pixel wide. */
export function ellipse(cx: number, cy: number, rx: number, ry: number, angle = 0): Shape {
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const reach = Math.max(rx, ry)
  return {
    distance: (x, y) => {
      const u = ((x - cx) * cos + (y - cy) * sin) / rx
      const v = ((y - cy) * cos - (x - cx) * sin) / ry
      const r = length(u, v)
      return r < 1e-6 ? -Math.min(rx, ry) : ((r - 1) * r) / length(u / rx, v / ry)
    },
    left: cx - reach,
    right: cx + reach,
    top: cy - reach,
    bottom: cy + reach
  }
}

export function box(left: number, top: number, right: number, bottom: number, radius = 0): Shape {
  const [cx, cy, hx, hy] = [
    (left + right) / 2,
    (top + bottom) / 2,
    (right - left) / 2 - radius,
    (bottom - top) / 2 - radius
  ]
  return {
    distance: (x, y) => {
      const [dx, dy] = [Math.abs(x - cx) - hx, Math.abs(y - cy) - hy]
      return length(Math.max(dx, 0), Math.max(dy, 0)) + Math.min(Math.max(dx, dy), 0) - radius
    },
    left,
    top,
    right,
    bottom
  }
}

/** A line through points, as thick as `width`, with round ends. */
export function stroke(points: readonly (readonly [number, number])[], width: number): Shape {
  const [xs, ys] = [points.map(p => p[0]), points.map(p => p[1])]
  return {
    distance: (x, y) => {
      let nearest = Infinity
      for (let i = 0; i + 1 < points.length; i++) {
        const [ax, ay] = points[i]!
        const [dx, dy] = [points[i + 1]![0] - ax, points[i + 1]![1] - ay]
        const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)))
        const [ox, oy] = [x - ax - t * dx, y - ay - t * dy]
        nearest = Math.min(nearest, ox * ox + oy * oy)
      }
      return Math.sqrt(nearest) - width / 2
    },
    left: Math.min(...xs) - width,
    right: Math.max(...xs) + width,
    top: Math.min(...ys) - width,
    bottom: Math.max(...ys) + width
  }
}

/** What two shapes have in common. */
export function both(a: Shape, b: Shape): Shape {
  return {
    distance: (x, y) => Math.max(a.distance(x, y), b.distance(x, y)),
    left: Math.max(a.left, b.left),
    top: Math.max(a.top, b.top),
    right: Math.min(a.right, b.right),
    bottom: Math.min(a.bottom, b.bottom)
  }
}
