/**
 * Filters of SVG (W3C Filter Effects 1): blur, offset, flood, merge, composite, blend, colour matrix and drop shadow.
 * What a filter asks beyond these is named, and the filter is then left out whole.
 */
import { over, type Layer } from '../../scene/layer'
import type { Bounds } from '../../raster/coverage'
import { blended, isBlend } from '../../scene/blend'
import { shadeOf, shareOf, type Shade } from './paint'
import type { Node } from './tree'

const KNOWN: ReadonlySet<string> = new Set([
  ...['feGaussianBlur', 'feOffset', 'feFlood', 'feMerge', 'feComposite', 'feBlend', 'feColorMatrix', 'feDropShadow']
])
const INPUTS = /^(SourceGraphic|SourceAlpha)?$/
const OPERATORS = ['over', 'in', 'out', 'atop', 'xor', 'arithmetic', 'lighter']

/** What keeps a filter from being drawn, in words; null where it can be. */
export function unfiltered({ attributes, children }: Node): string | null {
  if (attributes.primitiveUnits === 'objectBoundingBox') return 'filters measured by what they filter'
  const results = new Set<string>()
  for (const { tag, attributes: a } of children.filter(({ tag }) => tag !== '#text')) {
    if (!KNOWN.has(tag)) return `the filter ${tag}`
    if (['x', 'y', 'width', 'height'].some(name => a[name] !== undefined))
      return 'parts of a filter with a place of their own'
    for (const input of [a.in ?? '', a.in2 ?? ''])
      if (!INPUTS.test(input) && !results.has(input)) return `the filter input ${input}`
    if (tag === 'feComposite' && !OPERATORS.includes(a.operator ?? 'over')) return 'a filter operator'
    if (tag === 'feBlend' && !isBlend(a.mode ?? 'normal')) return 'a filter mode'
    if (a.result) results.add(a.result)
  }
  return null
}

const toLinear = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4)
const toCoded = (c: number): number => (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055)

/** Premultiplied pixels through a curve of their straight colours, in place. */
function curved(pixels: Float32Array, curve: (c: number) => number): Float32Array {
  for (let i = 0; i < pixels.length; i += 4) {
    const a = pixels[i + 3]!
    if (a > 0) for (let c = 0; c < 3; c++) pixels[i + c] = curve(Math.min(1, Math.max(0, pixels[i + c]! / a))) * a
  }
  return pixels
}

/** From here on three boxes are as good as a bell, and take no longer the wider they are (Filter Effects 1, 9.14). */
const WIDE = 8

function blurredAlong(pixels: Float32Array, size: readonly [number, number], sigma: number, step: 0 | 1): Float32Array {
  if (!(sigma > 0.01)) return pixels
  if (sigma <= WIDE) {
    const reach = Math.ceil(3 * sigma)
    const bell = Float64Array.from({ length: 2 * reach + 1 }, (_, n) =>
      Math.exp(-((n - reach) ** 2) / (2 * sigma ** 2))
    )
    return weighed(pixels, size, step, bell, reach)
  }
  const d = Math.floor((sigma * 3 * Math.sqrt(2 * Math.PI)) / 4 + 0.5)
  // boxes of an even width stand half a pixel off, one to each side, and the third is one wider
  const boxes: readonly [number, number][] =
    d % 2
      ? new Array<[number, number]>(3).fill([(d - 1) / 2, (d - 1) / 2])
      : [
          [d / 2, d / 2 - 1],
          [d / 2 - 1, d / 2],
          [d / 2, d / 2]
        ]
  return boxes.reduce((result, [before, after]) => boxed(result, size, step, before, after), pixels)
}

/** Lines of pixels, along or down: how many there are, how long, and the way from one to the next. */
const linesOf = ([width, height]: readonly [number, number], step: 0 | 1): [number, number, number, number] =>
  step === 0 ? [width, height, 4, 4 * width] : [height, width, 4 * width, 4]

function weighed(
  pixels: Float32Array,
  size: readonly [number, number],
  step: 0 | 1,
  weights: Float64Array,
  reach: number
): Float32Array {
  const sum = weights.reduce((total, weight) => total + weight, 0)
  const out = new Float32Array(pixels.length)
  const [along, across, unit, line] = linesOf(size, step)
  for (let l = 0; l < across; l++)
    for (let p = 0; p < along; p++)
      for (let c = 0; c < 4; c++) {
        let total = 0
        for (let k = Math.max(0, p - reach); k <= Math.min(along - 1, p + reach); k++)
          total += weights[k - p + reach]! * pixels[l * line + k * unit + c]!
        out[l * line + p * unit + c] = total / sum
      }
  return out
}

/** The mean of so many pixels before and after, by running sums; beyond the rim is nothing. */
function boxed(
  pixels: Float32Array,
  size: readonly [number, number],
  step: 0 | 1,
  before: number,
  after: number
): Float32Array {
  const out = new Float32Array(pixels.length)
  const [along, across, unit, line] = linesOf(size, step)
  const width = before + after + 1
  for (let l = 0; l < across; l++)
    for (let c = 0; c < 4; c++) {
      const from = l * line + c
      let sum = 0
      for (let k = 0; k <= Math.min(along - 1, after); k++) sum += pixels[from + k * unit]!
      for (let p = 0; p < along; p++) {
        out[from + p * unit] = sum / width
        const [enters, leaves] = [p + after + 1, p - before]
        if (enters < along) sum += pixels[from + enters * unit]!
        if (leaves >= 0) sum -= pixels[from + leaves * unit]!
      }
    }
  return out
}

/** Moved by any distance; between pixels what lies around is mixed. */
function movedBy(
  pixels: Float32Array,
  [width, height]: readonly [number, number],
  dx: number,
  dy: number
): Float32Array {
  const out = new Float32Array(pixels.length)
  const [ix, iy] = [Math.floor(dx), Math.floor(dy)]
  const [fx, fy] = [dx - ix, dy - iy]
  const at = (x: number, y: number, c: number): number =>
    x < 0 || y < 0 || x >= width || y >= height ? 0 : pixels[4 * (y * width + x) + c]!
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 4; c++) {
        const [u, v] = [x - ix, y - iy]
        out[4 * (y * width + x) + c] =
          (1 - fy) * ((1 - fx) * at(u, v, c) + fx * at(u - 1, v, c)) +
          fy * ((1 - fx) * at(u, v - 1, c) + fx * at(u - 1, v - 1, c))
      }
  return out
}

const numbers = (text: string | undefined): number[] =>
  (text ?? '')
    .trim()
    .split(/[\s,]+/)
    .filter(Boolean)
    .map(Number)

/** The matrix of a kind of feColorMatrix (9.4), 4 rows of 5. */
function matrixOf(type: string, values: string | undefined): number[] {
  const given = numbers(values)
  if (type === 'matrix')
    return given.length === 20 ? given : [1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0]
  if (type === 'luminanceToAlpha') return [...new Array<number>(15).fill(0), 0.2125, 0.7154, 0.0721, 0, 0]
  const rows = (parts: readonly (readonly number[])[]): number[] => [
    ...parts.flatMap(row => [...row, 0, 0]),
    0,
    0,
    0,
    1,
    0
  ]
  const [r, g, b] = [0.213, 0.715, 0.072]
  if (type === 'saturate') {
    const s = given[0] ?? 1
    return rows([r, g, b].map((_, n) => [r, g, b].map((w, c) => w * (1 - s) + (n === c ? s : 0))))
  }
  const turn = ((given[0] ?? 0) * Math.PI) / 180
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)]
  return rows([
    [r + cos * (1 - r) - sin * r, g - cos * g - sin * g, b - cos * b + sin * (1 - b)],
    [r - cos * r + sin * 0.143, g + cos * (1 - g) + sin * 0.14, b - cos * b - sin * 0.283],
    [r - cos * r - sin * (1 - r), g - cos * g + sin * g, b + cos * (1 - b) + sin * b]
  ])
}

export interface Filtering {
  styles(node: Node): Record<string, string>
  current: Shade
  /** Pixels to a unit of the drawing, across and down. */
  scale: readonly [number, number]
  /** Where the filter applies, in pixels. */
  region: Bounds
}

/** A layer through a filter, as a new one of the same bounds. */
export function filtered(source: Layer, filter: Node, { styles, current, scale, region }: Filtering): Layer {
  const size = [source.right - source.left, source.bottom - source.top] as const
  const [width] = size
  const results = new Map<string, Float32Array>()
  let last: Float32Array = source.pixels.slice()
  const alphaAlone = (): Float32Array => source.pixels.map((value, i) => (i % 4 === 3 ? value : 0))
  const input = (name: string | undefined, first: boolean): Float32Array =>
    name === 'SourceGraphic' || (!name && first)
      ? source.pixels.slice()
      : name === 'SourceAlpha'
        ? alphaAlone()
        : name
          ? results.get(name)!.slice()
          : last.slice()
  const layerOf = (pixels: Float32Array): Layer => ({ ...source, pixels })
  const flood = (style: Record<string, string>): Float32Array => {
    const [r, g, b, a] = shadeOf(style['flood-color'] ?? '#000', current) ?? [0, 0, 0, 0]
    const alpha = a * shareOf(style['flood-opacity'])
    const pixels = new Float32Array(source.pixels.length)
    for (let i = 0; i < pixels.length; i += 4) pixels.set([r * alpha, g * alpha, b * alpha, alpha], i)
    return pixels
  }
  const blurOf = (pixels: Float32Array, deviation: string | undefined, fallback: number): Float32Array => {
    const [x = fallback, y = x] = numbers(deviation)
    return blurredAlong(blurredAlong(pixels, size, x * scale[0], 0), size, y * scale[1], 1)
  }
  let first = true
  for (const node of filter.children) {
    if (node.tag === '#text') continue
    const style = { ...styles(filter), ...styles(node) }
    const a = node.attributes
    const linear = (style['color-interpolation-filters'] ?? 'linearRGB') !== 'sRGB'
    const inward = (pixels: Float32Array): Float32Array => (linear ? curved(pixels, toLinear) : pixels)
    const outward = (pixels: Float32Array): Float32Array => (linear ? curved(pixels, toCoded) : pixels)
    let made: Float32Array
    if (node.tag === 'feFlood') made = flood(style)
    else if (node.tag === 'feMerge') {
      const sum = layerOf(new Float32Array(source.pixels.length))
      node.children
        .filter(({ tag }) => tag === 'feMergeNode')
        .forEach(part => over(sum, layerOf(inward(input(part.attributes.in, first)))))
      made = outward(sum.pixels)
    } else if (node.tag === 'feDropShadow') {
      const shape = input(a.in, first)
      const [dx, dy] = [Number(a.dx ?? 2) * scale[0], Number(a.dy ?? 2) * scale[1]]
      const soft = movedBy(
        blurOf(
          shape.map((value, i) => (i % 4 === 3 ? value : 0)),
          a.stdDeviation,
          2
        ),
        size,
        dx,
        dy
      )
      const colour = inward(flood(style))
      const sum = layerOf(colour.map((value, i) => value * soft[i - (i % 4) + 3]!))
      over(sum, layerOf(inward(shape)))
      made = outward(sum.pixels)
    } else if (node.tag === 'feGaussianBlur') made = outward(blurOf(inward(input(a.in, first)), a.stdDeviation, 0))
    else if (node.tag === 'feOffset')
      made = movedBy(input(a.in, first), size, Number(a.dx ?? 0) * scale[0], Number(a.dy ?? 0) * scale[1])
    else if (node.tag === 'feColorMatrix') {
      const pixels = inward(input(a.in, first))
      const m = matrixOf(a.type ?? 'matrix', a.values)
      for (let i = 0; i < pixels.length; i += 4) {
        const alpha = pixels[i + 3]!
        const straight = [0, 1, 2].map(c => (alpha > 0 ? pixels[i + c]! / alpha : 0))
        const [r, g, b, now] = [0, 1, 2, 3].map(row => {
          const sum = [0, 1, 2].reduce((total, c) => total + m[5 * row + c]! * straight[c]!, 0)
          return Math.min(1, Math.max(0, sum + m[5 * row + 3]! * alpha + m[5 * row + 4]!))
        }) as [number, number, number, number]
        pixels.set([r * now, g * now, b * now, now], i)
      }
      made = outward(pixels)
    } else {
      const [one, two] = [inward(input(a.in, first)), inward(input(a.in2, false))]
      if (node.tag === 'feBlend') {
        const sum = layerOf(two)
        blended(sum, layerOf(one), a.mode ?? 'normal', 1)
        made = outward(sum.pixels)
      } else made = outward(composited(one, two, a))
    }
    const placed = within(made, source, region, width)
    if (a.result) results.set(a.result, placed)
    last = placed
    first = false
  }
  return layerOf(last)
}

/** One over, in, out, atop or beside another (9.6), premultiplied. */
function composited(one: Float32Array, two: Float32Array, a: Readonly<Record<string, string>>): Float32Array {
  const [k1, k2, k3, k4] = ['k1', 'k2', 'k3', 'k4'].map(name => Number(a[name] ?? 0)) as [
    number,
    number,
    number,
    number
  ]
  const operator = a.operator ?? 'over'
  return one.map((value, i) => {
    const [s, d] = [value, two[i]!]
    const [as, ad] = [one[i - (i % 4) + 3]!, two[i - (i % 4) + 3]!]
    switch (operator) {
      case 'in':
        return s * ad
      case 'out':
        return s * (1 - ad)
      case 'atop':
        return s * ad + d * (1 - as)
      case 'xor':
        return s * (1 - ad) + d * (1 - as)
      case 'lighter':
        return Math.min(1, s + d)
      case 'arithmetic':
        return Math.min(1, Math.max(0, k1 * s * d + k2 * s + k3 * d + k4))
      default:
        return s + d * (1 - as)
    }
  })
}

/** What lies within the region; the rest is clear. */
function within(pixels: Float32Array, { left, top }: Layer, region: Bounds, width: number): Float32Array {
  for (let i = 0; i < pixels.length; i += 4) {
    const [x, y] = [left + ((i / 4) % width), top + Math.floor(i / 4 / width)]
    if (x < region.left || x >= region.right || y < region.top || y >= region.bottom) pixels.fill(0, i, i + 4)
  }
  return pixels
}
