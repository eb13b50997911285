/** Blending and compositing of layers (W3C Compositing and Blending 1, 5 and 9), premultiplied, in floating point. */
import { isEmpty, within } from '../raster/coverage'
import { over, type Layer } from './layer'

type Rgb = readonly [number, number, number]

const luma = ([r, g, b]: Rgb): number => 0.3 * r + 0.59 * g + 0.11 * b
const sat = (c: Rgb): number => Math.max(...c) - Math.min(...c)

function withLuma(c: Rgb, l: number): Rgb {
  const d = l - luma(c)
  const moved = c.map(v => v + d) as unknown as Rgb
  const [low, high, middle] = [Math.min(...moved), Math.max(...moved), luma(moved)]
  return moved.map(v => {
    let value = v
    if (low < 0) value = middle + ((value - middle) * middle) / (middle - low)
    if (high > 1) value = middle + ((value - middle) * (1 - middle)) / (high - middle)
    return value
  }) as unknown as Rgb
}

function withSat(c: Rgb, s: number): Rgb {
  const [low, high] = [Math.min(...c), Math.max(...c)]
  return high > low ? (c.map(v => ((v - low) * s) / (high - low)) as unknown as Rgb) : [0, 0, 0]
}

const hardLight = (b: number, s: number): number => (s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1))

/** Modes that treat each channel by itself: backdrop and source, straight. */
const SEPARABLE: Readonly<Record<string, (b: number, s: number) => number>> = {
  add: (b, s) => Math.min(1, b + s),
  multiply: (b, s) => b * s,
  screen: (b, s) => b + s - b * s,
  overlay: (b, s) => hardLight(s, b),
  darken: Math.min,
  lighten: Math.max,
  'color-dodge': (b, s) => (b === 0 ? 0 : s >= 1 ? 1 : Math.min(1, b / (1 - s))),
  'color-burn': (b, s) => (b >= 1 ? 1 : s <= 0 ? 0 : 1 - Math.min(1, (1 - b) / s)),
  'hard-light': hardLight,
  'soft-light': (b, s) => {
    if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b)
    const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b)
    return b + (2 * s - 1) * (d - b)
  },
  difference: (b, s) => Math.abs(b - s),
  exclusion: (b, s) => b + s - 2 * b * s
}

const WHOLE: Readonly<Record<string, (b: Rgb, s: Rgb) => Rgb>> = {
  hue: (b, s) => withLuma(withSat(s, sat(b)), luma(b)),
  saturation: (b, s) => withLuma(withSat(b, sat(s)), luma(b)),
  color: (b, s) => withLuma(s, luma(b)),
  luminosity: (b, s) => withLuma(b, luma(s))
}

/** Whether a mode of CSS is known; "normal" is. */
export const isBlend = (mode: string): boolean =>
  mode === 'normal' || (mode !== 'add' && mode in SEPARABLE) || mode in WHOLE

/**
 * Of what a layer covers of the one below, how much, and how much of that lies over what is not solid: sums over its
 * pixels, 0 to 1 each. There its mode is only as strong as what it lies over, and no alpha holds it for what is laid
 * beneath later.
 */
export function unheldOf(below: Layer, above: Layer, opacity: number): { all: number; unheld: number } {
  const rowB = below.right - below.left
  const sum = { all: 0, unheld: 0 }
  const shared = within(above, below)
  const rowA = above.right - above.left
  for (let y = shared.top; y < shared.bottom; y++)
    for (let x = shared.left; x < shared.right; x++) {
      const cover = above.pixels[4 * ((y - above.top) * rowA + x - above.left) + 3]! * opacity
      const solid = below.pixels[4 * ((y - below.top) * rowB + x - below.left) + 3]!
      sum.all += cover
      sum.unheld += cover * (1 - solid)
    }
  return sum
}

/** Lays a layer over another in a mode of CSS, or by "add"; any other lies over it as it is. */
export function blended(below: Layer, above: Layer, mode: string, opacity: number): void {
  const one = SEPARABLE[mode]
  const whole = WHOLE[mode]
  if (!one && !whole) return over(below, above, opacity)
  const shared = within(above, below)
  if (isEmpty(shared)) return
  const [rowA, rowB] = [above.right - above.left, below.right - below.left]
  for (let y = shared.top; y < shared.bottom; y++) {
    let a = 4 * ((y - above.top) * rowA + shared.left - above.left)
    let b = 4 * ((y - below.top) * rowB + shared.left - below.left)
    for (let x = shared.left; x < shared.right; x++, a += 4, b += 4) {
      const as = above.pixels[a + 3]! * opacity
      if (as === 0) {
        // light that covers nothing is added all the same
        for (let c = 0; c < 3; c++) below.pixels[b + c]! += above.pixels[a + c]! * opacity
        continue
      }
      const ab = below.pixels[b + 3]!
      if (one) {
        const straight = 1 / above.pixels[a + 3]!
        const [own, both, under] = [as * (1 - ab), as * ab, 1 - as]
        for (let c = 0; c < 3; c++) {
          const source = above.pixels[a + c]! * straight
          const behind = below.pixels[b + c]!
          const mixed = ab > 0 ? one(behind / ab, source) : 0
          below.pixels[b + c] = own * source + both * mixed + under * behind
        }
        below.pixels[b + 3] = as + ab * under
        continue
      }
      const s = [0, 1, 2].map(c => above.pixels[a + c]! / above.pixels[a + 3]!) as unknown as Rgb
      const d = (ab > 0 ? [0, 1, 2].map(c => below.pixels[b + c]! / ab) : [0, 0, 0]) as unknown as Rgb
      const mixed = whole!(d, s)
      for (let c = 0; c < 3; c++)
        below.pixels[b + c] = as * (1 - ab) * s[c]! + as * ab * mixed[c]! + (1 - as) * ab * d[c]!
      below.pixels[b + 3] = as + ab * (1 - as)
    }
  }
}

/** Keeps of a layer what `cover` says at each of its pixels, 0 to 1. */
export function kept(layer: Layer, cover: (pixel: number) => number): void {
  const { pixels } = layer
  for (let n = 0; 4 * n < pixels.length; n++) {
    if (pixels[4 * n + 3] === 0) continue
    const share = cover(n)
    for (let c = 0; c < 4; c++) pixels[4 * n + c]! *= share
  }
}
