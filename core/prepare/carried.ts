/**
 * What a frame is on its way through steps: floats, or still the codes it came as, with what is to be done to each
 * pixel noted and its alpha set apart. What is noted is done in bands that stay in the cache, when a whole picture or
 * the finished frame is asked for.
 */
import { withDepth } from '../frame/depth'
import { allocateSamples, STRAIGHT, type Depth, type Frame } from '../frame/frame'
import type { Kernels } from '../frame/kernels/kernels'
import { alphaOf, toFrame, toPicture, withAlpha, type Picture } from './picture'

/** Changes pixels in place, each by itself; `first` is the place of the first of them in the picture, by rows. */
export type PixelChange = (rgba: Float32Array, first: number) => void

interface Pending {
  frame: Frame
  /** Alpha that takes the place of the frame's own, before the changes. */
  alpha: Float32Array | null
  changes: readonly PixelChange[]
}

export type Carried = { picture: Picture } | Pending

/** A frame as it comes, before any step has changed it. */
export const carriedFrame = (frame: Frame): Carried => ({ frame, alpha: null, changes: [] })

/** Pixels in one band: floats of so many stay in the cache next to the processor. */
const BAND = 4096

function change(rgba: Float32Array, first: number, changes: readonly PixelChange[]): void {
  const pixels = rgba.length / 4
  for (let from = 0; from < pixels; from += BAND) {
    const band = rgba.subarray(4 * from, 4 * Math.min(pixels, from + BAND))
    for (const each of changes) each(band, first + from)
  }
}

/** Pixels `from` to `end` of what is noted, a band at a time; `take` may keep nothing of what it is given. */
function eachBand(
  { frame, alpha, changes }: Pending,
  from: number,
  end: number,
  kernels: Kernels,
  take: (rgba: Float32Array, first: number) => void
): void {
  const room = new Float32Array(4 * Math.min(BAND, end - from))
  for (let first = from; first < end; first += BAND) {
    const pixels = Math.min(BAND, end - first)
    const part: Frame = {
      ...frame,
      width: pixels,
      height: 1,
      samples: frame.samples.subarray(4 * first, 4 * (first + pixels))
    }
    const { rgba } = toPicture(part, kernels, room.subarray(0, 4 * pixels))
    if (alpha) for (let p = 0, i = 3; p < pixels; p++, i += 4) rgba[i] = alpha[first + p]!
    for (const each of changes) each(rgba, first)
    take(rgba, first)
  }
}

/** As a picture of its own; `spare` is memory that may be used for it. */
export function asPicture(carried: Carried, kernels: Kernels, spare: Float32Array | null = null): Picture {
  if ('picture' in carried) return carried.picture
  const picture = toPicture(carried.frame, kernels, spare)
  if (carried.alpha) withAlpha(picture, carried.alpha)
  change(picture.rgba, 0, carried.changes)
  return picture
}

/** As a frame: the one it came as, where nothing is noted, else straight and coded at `depth`. */
export function asFrame(carried: Carried, depth: Depth, kernels: Kernels): Frame {
  if ('picture' in carried) return toFrame(carried.picture, depth, kernels)
  const { frame, alpha, changes } = carried
  if (changes.length === 0) return alpha ? alphaSet(frame, alpha, depth, kernels) : frame
  const samples = allocateSamples(frame.width, frame.height, depth)
  eachBand(carried, 0, frame.width * frame.height, kernels, (rgba, first) => {
    const to = samples.subarray(4 * first, 4 * first + rgba.length)
    if (to instanceof Uint8Array) kernels.toCodes8(rgba, to)
    else if (to instanceof Uint16Array) kernels.toCodes16(rgba, to)
    else to.set(rgba)
  })
  return { width: frame.width, height: frame.height, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

/** A straight, coded frame with another alpha: colour is not computed on. */
function alphaSet(frame: Frame, alpha: Float32Array, depth: Depth, kernels: Kernels): Frame {
  const deep = withDepth(frame, depth, kernels)
  const samples = deep === frame ? frame.samples.slice() : deep.samples
  const codes = depth === 8 ? kernels.toCodes8(alpha) : depth === 16 ? kernels.toCodes16(alpha) : alpha
  for (let p = 0, i = 3; p < codes.length; p++, i += 4) samples[i] = codes[p]!
  return { ...deep, samples, alpha: STRAIGHT }
}

/** With one more change. */
export function changed(carried: Carried, more: PixelChange): Carried {
  if (!('picture' in carried)) return { ...carried, changes: [...carried.changes, more] }
  change(carried.picture.rgba, 0, [more])
  return carried
}

/**
 * With the alpha that `make` gives for the alpha there is, which it may write into; `picture` makes a picture where one
 * is needed for it.
 */
export async function alphaChanged(
  carried: Carried,
  picture: (carried: Carried) => Picture,
  make: (alpha: Float32Array) => Float32Array | Promise<Float32Array>
): Promise<Carried> {
  const coded =
    'frame' in carried &&
    carried.changes.length === 0 &&
    carried.frame.alpha.mode !== 'premultiplied' &&
    carried.frame.transfer === 'srgb'
  if (coded) return { ...carried, alpha: await make(carried.alpha ?? codedAlpha(carried.frame)) }
  const whole = picture(carried)
  return { picture: withAlpha(whole, await make(alphaOf(whole))) }
}

function codedAlpha({ samples }: Frame): Float32Array {
  const alpha = new Float32Array(samples.length / 4)
  // a loop for each kind of array: one that meets several runs several times slower
  if (samples instanceof Uint8Array) for (let p = 0, i = 3; p < alpha.length; p++, i += 4) alpha[p] = samples[i]! / 255
  else if (samples instanceof Uint16Array)
    for (let p = 0, i = 3; p < alpha.length; p++, i += 4) alpha[p] = samples[i]! / 65535
  else for (let p = 0, i = 3; p < alpha.length; p++, i += 4) alpha[p] = samples[i]!
  return alpha
}

/** Every `every`-th row, from the first on. */
export function someRows(carried: Carried, every: number, kernels: Kernels): Picture {
  const { width, height } = 'picture' in carried ? carried.picture : carried.frame
  const rows = Math.ceil(height / every)
  const rgba = new Float32Array(4 * width * rows)
  for (let n = 0; n < rows; n++) {
    const from = n * every * width
    if ('picture' in carried) rgba.set(carried.picture.rgba.subarray(4 * from, 4 * (from + width)), 4 * n * width)
    else eachBand(carried, from, from + width, kernels, (band, first) => rgba.set(band, 4 * (n * width + first - from)))
  }
  return { width, height: rows, rgba }
}
