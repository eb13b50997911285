/** Scaling, on premultiplied values: what is scaled over any backdrop is what is scaled and then laid over it. */
import type { Kernels, Taps } from '../frame/kernels/kernels'
import { clamp01 } from '../frame/kernels/pixel'
import { multiplied, type Picture } from './picture'

/** How pixels are weighed: sharply, with lobes below 0 that ring; smoothly, without; or each by its nearest alone. */
export type ScaleFilter = 'lanczos' | 'smooth' | 'nearest'

/** Weights by distance, and how far they reach, in pixels of whichever side has fewer. */
const KERNELS: Readonly<Record<Exclude<ScaleFilter, 'nearest'>, { reach: number; weight: (x: number) => number }>> = {
  lanczos: { reach: 3, weight: lanczos },
  // quadratic B-spline: three pixels, all of them above 0
  smooth: {
    reach: 1.5,
    weight: x => {
      const far = Math.abs(x)
      return far < 0.5 ? 0.75 - far * far : far < 1.5 ? (1.5 - far) ** 2 / 2 : 0
    }
  }
}

function lanczos(x: number): number {
  if (x === 0) return 1
  if (Math.abs(x) >= 3) return 0
  const p = Math.PI * x
  return (3 * Math.sin(p) * Math.sin(p / 3)) / (p * p)
}

/** For each place of the result, where its weights begin and what they are. */
function taps(from: number, to: number, filter: Exclude<ScaleFilter, 'nearest'>): Taps {
  const { reach, weight } = KERNELS[filter]
  const ratio = from / to
  const widen = Math.max(1, ratio)
  const count = Math.floor(2 * reach * widen) + 1
  const first = new Int32Array(to)
  const shares = new Float32Array(to * count)
  for (let n = 0; n < to; n++) {
    const centre = (n + 0.5) * ratio - 0.5
    const begin = Math.ceil(centre - reach * widen)
    const weights = Array.from({ length: count }, (_, k) => weight((begin + k - centre) / widen))
    const sum = weights.reduce((a, b) => a + b, 0)
    first[n] = begin
    shares.set(
      weights.map(w => w / sum),
      n * count
    )
  }
  return { first, count, shares }
}

function nearest({ width: w, height: h, rgba: from }: Picture, width: number, height: number): Picture {
  const rgba = new Float32Array(width * height * 4)
  for (let y = 0; y < height; y++) {
    const v = Math.min(h - 1, Math.floor(((y + 0.5) * h) / height))
    for (let x = 0; x < width; x++) {
      const i = 4 * (v * w + Math.min(w - 1, Math.floor(((x + 0.5) * w) / width)))
      for (let c = 0; c < 4; c++) rgba[4 * (y * width + x) + c] = from[i + c]!
    }
  }
  return { width, height, rgba }
}

/** The least and the most of each channel, numbers alone. */
function extremes(rgba: Float32Array): { least: number[]; most: number[] } {
  const [least, most] = [new Array<number>(4).fill(Infinity), new Array<number>(4).fill(-Infinity)]
  for (let i = 0; i < rgba.length; i++) {
    const c = i & 3
    if (rgba[i]! < least[c]!) least[c] = rgba[i]!
    if (rgba[i]! > most[c]!) most[c] = rgba[i]!
  }
  return { least, most }
}

/**
 * Scales premultiplied light without bounds of its own: no channel rings beyond what there was anywhere in the picture,
 * so that nothing grows darker than black or more than solid by it.
 */
export function scaledLight(
  picture: Picture,
  width: number,
  height: number,
  filter: ScaleFilter,
  kernels: Kernels
): Picture {
  if (width === picture.width && height === picture.height) return picture
  if (filter === 'nearest') return nearest(picture, width, height)
  const { least, most } = extremes(picture.rgba)
  const [across, down] = [taps(picture.width, width, filter), taps(picture.height, height, filter)]
  const rgba = kernels.resample(picture.rgba, picture.width, picture.height, across, down)
  for (let i = 0; i < rgba.length; i++) {
    const value = rgba[i]!
    if (value > most[i & 3]!) rgba[i] = most[i & 3]!
    else if (value < least[i & 3]!) rgba[i] = least[i & 3]!
  }
  if (filter === 'lanczos') holdAlpha(picture, rgba, width, height)
  return { width, height, rgba }
}

/** The first and the last place of a line that lie beside each place of one of another length. */
function beside(from: number, to: number): { first: Int32Array; last: Int32Array } {
  const [first, last] = [new Int32Array(to), new Int32Array(to)]
  const ratio = from / to
  const half = Math.max(1, ratio) / 2
  for (let n = 0; n < to; n++) {
    const centre = (n + 0.5) * ratio - 0.5
    first[n] = Math.max(0, Math.floor(centre - half))
    last[n] = Math.min(from - 1, Math.ceil(centre + half))
  }
  return { first, last }
}

/**
 * Holds the alpha of a scaled picture to what lies beside each place in the picture it was made of: it rings no
 * further.
 */
function holdAlpha({ rgba, width: w, height: h }: Picture, made: Float32Array, width: number, height: number): void {
  const [across, down] = [beside(w, width), beside(h, height)]
  // rows first, then columns a row at a time, so that memory is gone through in its order
  const [low, high] = [new Float32Array(width * h), new Float32Array(width * h)]
  for (let y = 0, o = 0; y < h; y++) {
    const row = 4 * y * w + 3
    for (let n = 0; n < width; n++, o++) {
      const end = row + 4 * across.last[n]!
      let at = row + 4 * across.first[n]!
      let least = rgba[at]!
      let most = least
      for (at += 4; at <= end; at += 4) {
        const value = rgba[at]!
        if (value < least) least = value
        else if (value > most) most = value
      }
      low[o] = least
      high[o] = most
    }
  }
  const [least, most] = [new Float32Array(width), new Float32Array(width)]
  for (let n = 0, o = 3; n < height; n++) {
    const first = down.first[n]! * width
    least.set(low.subarray(first, first + width))
    most.set(high.subarray(first, first + width))
    for (let row = first + width; row <= down.last[n]! * width; row += width)
      for (let x = 0; x < width; x++) {
        if (low[row + x]! < least[x]!) least[x] = low[row + x]!
        if (high[row + x]! > most[x]!) most[x] = high[row + x]!
      }
    for (let x = 0; x < width; x++, o += 4) {
      if (made[o]! < least[x]!) made[o] = least[x]!
      else if (made[o]! > most[x]!) made[o] = most[x]!
    }
  }
}

/** The picture in another size, each pixel weighed by the area or the curve that the filter has. */
export function scaled(
  picture: Picture,
  width: number,
  height: number,
  filter: ScaleFilter,
  kernels: Kernels
): Picture {
  if (width === picture.width && height === picture.height) return picture
  if (filter === 'nearest') return nearest(picture, width, height)
  const rgba = kernels.resample(
    multiplied(picture.rgba),
    picture.width,
    picture.height,
    taps(picture.width, width, filter),
    taps(picture.height, height, filter)
  )
  for (let i = 0; i < rgba.length; i += 4) {
    // colour is divided by alpha as it rings, beyond solid too, so that it stays what it was; then alpha is cut off
    const a = rgba[i + 3]!
    const part = a > 1e-8 ? 1 / a : 0
    rgba[i] = clamp01(rgba[i]! * part)
    rgba[i + 1] = clamp01(rgba[i + 1]! * part)
    rgba[i + 2] = clamp01(rgba[i + 2]! * part)
    // what rings below a thousandth of a code of 16 bits is nothing
    rgba[i + 3] = a < 1e-8 ? 0 : clamp01(a)
  }
  if (filter === 'lanczos') holdAlpha(picture, rgba, width, height)
  return { width, height, rgba }
}
