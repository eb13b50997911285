/** Lines of points: arcs and curves followed, placed, measured and cut off where they are traced to. */
/** Points x, y, x, y ...; the last joins the first where the outline is an area. */
export type Line = Float64Array

/** A line that is drawn along: from its first point to its last, or on to the first again. */
export interface Run {
  line: Line
  closed: boolean
}

/** Curves are followed to within this much of a pixel. */
const NEAR = 0.01

/** Most pieces that one arc is followed in, however large: what is larger than any picture is seen in part only. */
export const MOST_STEPS = 20_000

export interface Affine {
  a: number
  b: number
  c: number
  d: number
  e: number
  f: number
}

/** Scaled, then turned, then moved. */
export function placing(x: number, y: number, scale: number, degrees: number): Affine {
  const turn = (degrees * Math.PI) / 180
  const [cos, sin] = [Math.cos(turn) * scale, Math.sin(turn) * scale]
  return { a: cos, b: sin, c: -sin, d: cos, e: x, f: y }
}

/** How many times longer a transform makes a length: where that differs by direction, in the middle of them. */
export function scaleOf({ a, b, c, d }: Affine): number {
  const [across, down] = [Math.hypot(a, b), Math.hypot(c, d)]
  return across === down ? across : Math.sqrt(across * down)
}

/** First `inner`, then `outer`. */
export const combined = (outer: Affine, inner: Affine): Affine => ({
  a: outer.a * inner.a + outer.c * inner.b,
  b: outer.b * inner.a + outer.d * inner.b,
  c: outer.a * inner.c + outer.c * inner.d,
  d: outer.b * inner.c + outer.d * inner.d,
  e: outer.a * inner.e + outer.c * inner.f + outer.e,
  f: outer.b * inner.e + outer.d * inner.f + outer.f
})

/** The way back. */
export const inverse = ({ a, b, c, d, e, f }: Affine): Affine => {
  const det = a * d - b * c || 1e-12
  return {
    a: d / det,
    b: -b / det,
    c: -c / det,
    d: a / det,
    e: (c * f - d * e) / det,
    f: (b * e - a * f) / det
  }
}

/** A line with each point moved by a transform; the line that is given stays. */
export function placed(line: Line, { a, b, c, d, e, f }: Affine): Line {
  const out = new Float64Array(line.length)
  for (let i = 0; i < line.length; i += 2) {
    const [x, y] = [line[i]!, line[i + 1]!]
    out[i] = a * x + c * y + e
    out[i + 1] = b * x + d * y + f
  }
  return out
}

type Spot = readonly [number, number]

/** Adds the points of a cubic after its first, so close that the line between them is the curve. */
export function follow(out: number[], p0: Spot, p1: Spot, p2: Spot, p3: Spot): void {
  const bend = Math.max(
    Math.hypot(p0[0] - 2 * p1[0] + p2[0], p0[1] - 2 * p1[1] + p2[1]),
    Math.hypot(p1[0] - 2 * p2[0] + p3[0], p1[1] - 2 * p2[1] + p3[1])
  )
  const steps = Math.min(500, Math.max(1, Math.ceil(Math.sqrt((bend * 0.75) / NEAR))))
  for (let n = 1; n <= steps; n++) {
    const t = n / steps
    const u = 1 - t
    const [k0, k1, k2, k3] = [u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t]
    out.push(k0 * p0[0] + k1 * p1[0] + k2 * p2[0] + k3 * p3[0], k0 * p0[1] + k1 * p1[1] + k2 * p2[1] + k3 * p3[1])
  }
}

/**
 * An arc about a place, from one angle to another. Its points lie a hair outside, so that the polygon has the area of
 * the arc.
 */
export function arcInto(out: number[], [x, y]: Spot, [rx, ry]: Spot, from: number, to: number): void {
  const r = Math.max(rx, ry, 1e-6)
  const fine = Math.ceil(Math.abs(to - from) / Math.acos(Math.max(0, 1 - NEAR / r)))
  const steps = Math.min(MOST_STEPS, Math.max(8, fine))
  const step = Math.abs(to - from) / steps
  const wider = Math.sqrt(step / Math.sin(step))
  for (let n = 0; n <= steps; n++) {
    const at = from + ((to - from) * n) / steps
    out.push(x + wider * rx * Math.cos(at), y + wider * ry * Math.sin(at))
  }
}

/** An ellipse about its middle, by half its width and height, running clockwise on the screen. */
export function ellipseLine(w: number, h: number): Line {
  const out: number[] = []
  arcInto(out, [0, 0], [w, h], 0, 2 * Math.PI)
  return Float64Array.from(out)
}

/** Lengths along a line up to each of its points. */
function lengthsOf(line: Line): Float64Array {
  const lengths = new Float64Array(line.length / 2)
  for (let n = 1; n < lengths.length; n++)
    lengths[n] = lengths[n - 1]! + Math.hypot(line[2 * n]! - line[2 * n - 2]!, line[2 * n + 1]! - line[2 * n - 1]!)
  return lengths
}

export interface Head {
  x: number
  y: number
  /** Degrees clockwise from the direction of x. */
  turned: number
}

/** A place on a line, so many pixels from its beginning; beyond an end it goes straight on. */
export function spotOn(line: Line): (far: number) => Head {
  const lengths = lengthsOf(line)
  const last = lengths.length - 1
  return far => {
    let n = 1
    while (n < last && lengths[n]! < far) n++
    // pieces without a length have no direction
    let from = n - 1
    while (from > 0 && lengths[from] === lengths[n]) from--
    while (n < last && lengths[n] === lengths[from]) n++
    const [x0, y0, x1, y1] = [line[2 * from]!, line[2 * from + 1]!, line[2 * n]!, line[2 * n + 1]!]
    const length = lengths[n]! - lengths[from]!
    const t = length > 0 ? (far - lengths[from]!) / length : 0
    return { x: x0 + (x1 - x0) * t, y: y0 + (y1 - y0) * t, turned: (Math.atan2(y1 - y0, x1 - x0) * 180) / Math.PI }
  }
}

/** How long a line is. */
export const lengthOf = (line: Line): number => lengthsOf(line).at(-1) ?? 0

/** The first `share` of a line, and its head. */
export function traced(line: Line, share: number): { line: Line; head: Head } {
  const lengths = lengthsOf(line)
  const wanted = share * lengths.at(-1)!
  let n = 1
  while (n < lengths.length - 1 && lengths[n]! < wanted) n++
  const [from, to] = [n - 1, n]
  const span = lengths[to]! - lengths[from]!
  const t = span > 0 ? Math.min(1, Math.max(0, (wanted - lengths[from]!) / span)) : 0
  const [x0, y0, x1, y1] = [line[2 * from]!, line[2 * from + 1]!, line[2 * to]!, line[2 * to + 1]!]
  const [x, y] = [x0 + (x1 - x0) * t, y0 + (y1 - y0) * t]
  const out = new Float64Array(2 * n + 2)
  out.set(line.subarray(0, 2 * n))
  out[2 * n] = x
  out[2 * n + 1] = y
  return { line: out, head: { x, y, turned: (Math.atan2(y1 - y0, x1 - x0) * 180) / Math.PI } }
}
