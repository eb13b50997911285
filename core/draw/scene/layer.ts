/** Layers: premultiplied RGBA in floating point, within bounds, laid over each other. */
import type { HexColour } from '../../base/colour'
import { hexToCodes } from '../../base/colour'
import type { Kernels } from '../../frame/kernels/kernels'
import { soften } from '../../frame/soften'
import { grown, isEmpty, joined, spanOf, within, type Bounds, type Coverage } from '../raster/coverage'
import type { Paint } from './values'

export interface Layer extends Bounds {
  pixels: Float32Array
}

/** A layer of these bounds in which nothing is drawn. */
export const clearLayer = (bounds: Bounds): Layer => ({
  ...bounds,
  pixels: new Float32Array(4 * Math.max(0, bounds.right - bounds.left) * Math.max(0, bounds.bottom - bounds.top))
})

/** Red, green and blue of a colour, 0 to 1. */
export const sharesOf = (colour: HexColour): [number, number, number] =>
  hexToCodes(colour).map(code => code / 255) as [number, number, number]

/** How far along a gradient a place x, y of the picture lies, 0 to 1: `x * across + y * down + begins`. */
export interface Along {
  across: number
  down: number
  begins: number
}
/** At the first colour of a gradient, wherever. */
export const FIRST: Along = { across: 0, down: 0, begins: 0 }

const held = (share: number): number => Math.min(1, Math.max(0, share))

/** Lays coverage of a colour or a gradient over what is there. */
export function paint(
  layer: Layer,
  coverage: Coverage,
  { paint: colour, opacity, along }: { paint: Paint; opacity: number; along: Along }
): void {
  const plain = typeof colour === 'string'
  const [r0, g0, b0] = sharesOf(plain ? colour : colour.from)
  const [r1, g1, b1] = sharesOf(plain ? colour : colour.to)
  const { across, down, begins } = along
  if (plain || (across === 0 && down === 0)) {
    const t = plain ? 0 : held(begins)
    return flood(layer, coverage, [r0 + (r1 - r0) * t, g0 + (g1 - g0) * t, b0 + (b1 - b0) * t], opacity)
  }
  const { left, top, right, bottom, values } = coverage
  const { pixels } = layer
  const row = layer.right - layer.left
  for (let y = top; y < bottom; y++) {
    const [first, end] = spanOf(coverage, y)
    let from = (y - top) * (right - left) + first - left
    let at = 4 * ((y - layer.top) * row + first - layer.left)
    const here = (y + 0.5) * down + begins
    for (let x = first; x < end; x++, from++, at += 4) {
      const cover = values[from]! * opacity
      if (cover === 0) continue
      const t = held((x + 0.5) * across + here)
      const under = 1 - cover
      pixels[at] = (r0 + (r1 - r0) * t) * cover + pixels[at]! * under
      pixels[at + 1] = (g0 + (g1 - g0) * t) * cover + pixels[at + 1]! * under
      pixels[at + 2] = (b0 + (b1 - b0) * t) * cover + pixels[at + 2]! * under
      pixels[at + 3] = cover + pixels[at + 3]! * under
    }
  }
}

/** Lays coverage of one colour over what is there. */
function flood(
  { pixels, ...layer }: Layer,
  coverage: Coverage,
  [r, g, b]: readonly [number, number, number],
  opacity: number
): void {
  const { left, top, right, bottom, values } = coverage
  const row = layer.right - layer.left
  for (let y = top; y < bottom; y++) {
    const [first, end] = spanOf(coverage, y)
    let from = (y - top) * (right - left) + first - left
    let at = 4 * ((y - layer.top) * row + first - layer.left)
    for (let x = first; x < end; x++, from++, at += 4) {
      const cover = values[from]! * opacity
      if (cover === 0) continue
      const under = 1 - cover
      pixels[at] = r * cover + pixels[at]! * under
      pixels[at + 1] = g * cover + pixels[at + 1]! * under
      pixels[at + 2] = b * cover + pixels[at + 2]! * under
      pixels[at + 3] = cover + pixels[at + 3]! * under
    }
  }
}

/** Puts a layer where nothing lies yet, as far as it lies within what it is put into. */
export function put(empty: Layer, layer: Layer): void {
  const shared = within(layer, empty)
  if (isEmpty(shared)) return
  const [from, to] = [layer.right - layer.left, empty.right - empty.left]
  const width = 4 * (shared.right - shared.left)
  for (let y = shared.top; y < shared.bottom; y++) {
    const at = 4 * ((y - layer.top) * from + shared.left - layer.left)
    empty.pixels.set(layer.pixels.subarray(at, at + width), 4 * ((y - empty.top) * to + shared.left - empty.left))
  }
}

/** Lays a layer over another, as far as it lies within it. */
export function over(below: Layer, above: Layer, opacity = 1): void {
  const shared = within(above, below)
  if (isEmpty(shared)) return
  const [rowA, rowB] = [above.right - above.left, below.right - below.left]
  const [from, to] = [above.pixels, below.pixels]
  for (let y = shared.top; y < shared.bottom; y++) {
    let a = 4 * ((y - above.top) * rowA + shared.left - above.left)
    let b = 4 * ((y - below.top) * rowB + shared.left - below.left)
    for (let x = shared.left; x < shared.right; x++, a += 4, b += 4) {
      const cover = from[a + 3]! * opacity
      // light that covers nothing is added all the same
      if (cover === 0 && !(from[a]! || from[a + 1]! || from[a + 2]!)) continue
      if (cover === 1 && opacity === 1) {
        to[b] = from[a]!
        to[b + 1] = from[a + 1]!
        to[b + 2] = from[a + 2]!
        to[b + 3] = 1
        continue
      }
      const under = 1 - cover
      to[b] = from[a]! * opacity + to[b]! * under
      to[b + 1] = from[a + 1]! * opacity + to[b + 1]! * under
      to[b + 2] = from[a + 2]! * opacity + to[b + 2]! * under
      to[b + 3] = cover + to[b + 3]! * under
    }
  }
}

/**
 * A layer added to a sum, so many times. The sum grows where the layer reaches beyond it, and is begun where it is
 * null.
 */
export function added(sum: Layer | null, layer: Layer, weight: number): Layer {
  const bounds = sum ? joined(sum, layer) : layer
  const whole = sum && isWithin(layer, sum) ? sum : clearLayer(bounds)
  if (sum && whole !== sum) addInto(whole, sum, 1)
  addInto(whole, layer, weight)
  return whole
}

const isWithin = (inner: Bounds, outer: Bounds): boolean =>
  isEmpty(inner) ||
  (inner.left >= outer.left && inner.right <= outer.right && inner.top >= outer.top && inner.bottom <= outer.bottom)

function addInto(whole: Layer, { pixels, left, top, right, bottom }: Layer, weight: number): void {
  const [row, own] = [whole.right - whole.left, right - left]
  const to = whole.pixels
  for (let y = top; y < bottom; y++) {
    let from = 4 * (y - top) * own
    let at = 4 * ((y - whole.top) * row + left - whole.left)
    for (let i = 0; i < 4 * own; i++) {
      to[at] = to[at]! + pixels[from]! * weight
      at++
      from++
    }
  }
}

/** Pixels of a blur on each side of what is blurred; three boxes of a radius reach three times as far. */
export const reachOf = (soft: number): number => 3 * Math.ceil(soft / 2)

/** Parts of a pixel below this are none: what turns and scales leaves such behind. */
const NO_PART = 1e-6

/** A way in whole pixels, and the part of one that is left. */
function inPixels(way: number): { whole: number; part: number } {
  const whole = Math.floor(way + NO_PART)
  const part = way - whole
  return { whole, part: part < NO_PART ? 0 : part }
}

/** Coverage moved by parts of a pixel, right and down: each pixel is shared between those that it comes to lie on. */
function shifted({ values, ...bounds }: Coverage, across: number, down: number): Coverage {
  const { left, top, right, bottom } = bounds
  const [w, h] = [right - left, bottom - top]
  const moved = { left, top, right: right + 1, bottom: bottom + 1 }
  const result = new Float32Array((w + 1) * (h + 1))
  for (let v = 0; v < h; v++)
    for (let u = 0; u < w; u++) {
      const value = values[v * w + u]!
      if (value === 0) continue
      const at = v * (w + 1) + u
      const [near, far] = [value * (1 - down), value * down]
      result[at] = result[at]! + near * (1 - across)
      result[at + 1] = result[at + 1]! + near * across
      result[at + w + 1] = result[at + w + 1]! + far * (1 - across)
      result[at + w + 2] = result[at + w + 2]! + far * across
    }
  return { ...moved, values: result }
}

/** What lies beneath a layer: where, how soft, in which colour; `added` light covers nothing. */
interface Beneath {
  x: number
  y: number
  soft: number
  colour: HexColour
  opacity: number
  added?: boolean | undefined
}

/**
 * The layer with its own shape beneath it, moved, softened and in one colour. Moved and softened by parts of a pixel
 * too: what moves slowly does so without steps. `soft` is twice the radius of its boxes; see `soften`.
 */
export function beneath(
  layer: Layer,
  { x, y, soft, colour, opacity, added = false }: Beneath,
  clip: Bounds,
  kernels: Kernels
): Layer {
  const [across, down] = [inPixels(x), inPixels(y)]
  const spread = grown(layer, reachOf(soft))
  const [w, h] = [spread.right - spread.left, spread.bottom - spread.top]
  let plane: Float32Array = new Float32Array(w * h)
  const row = layer.right - layer.left
  for (let v = layer.top; v < layer.bottom; v++)
    for (let u = layer.left; u < layer.right; u++)
      plane[(v - spread.top) * w + u - spread.left] = layer.pixels[4 * ((v - layer.top) * row + u - layer.left) + 3]!
  plane = soften(plane, w, h, soft / 2, kernels)
  const inWhole = {
    left: spread.left + across.whole,
    top: spread.top + down.whole,
    right: spread.right + across.whole,
    bottom: spread.bottom + down.whole,
    values: plane
  }
  const moved = across.part || down.part ? shifted(inWhole, across.part, down.part) : inWhole
  const whole = clearLayer(within(joined(moved, layer), clip))
  paint(whole, cut(moved, whole), { paint: colour, opacity, along: FIRST })
  if (added) for (let i = 3; i < whole.pixels.length; i += 4) whole.pixels[i] = 0
  over(whole, layer)
  return whole
}

/** The part of coverage that lies within bounds. */
function cut(coverage: Coverage, bounds: Bounds): Coverage {
  const shared = within(coverage, bounds)
  if (isEmpty(shared)) return { ...shared, values: new Float32Array(0) }
  const [row, width] = [coverage.right - coverage.left, shared.right - shared.left]
  const values = new Float32Array(width * (shared.bottom - shared.top))
  for (let y = shared.top; y < shared.bottom; y++) {
    const from = (y - coverage.top) * row + shared.left - coverage.left
    values.set(coverage.values.subarray(from, from + width), (y - shared.top) * width)
  }
  return { ...shared, values }
}
