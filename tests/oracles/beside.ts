/**
 * The plain twin of the key by the colour beside each edge. A pixel at an edge lies between the screen's colour and the
 * subject's own; how far along the way between the two is its alpha. The subject's own colour is read from the nearest
 * part of it that is surely solid, so edges come out right in any hue: hue alone makes those of a pink before green too
 * solid, those of an olive too thin.
 */
import { ACROSS } from '../../core/frame/kernels/terms'
import type { BesideHow, FrameSize, KeyedSamples, ScreenPlate } from '../../core/frame/kernels/kernels'
import { codes16 } from './floats'
import { floatsOf } from './keys'
import { wholePlate } from './plate'
import { chromaOf, clamp01, luma, takeOutAt, withoutSpill } from '../../core/frame/kernels/pixel'

/**
 * By hue alone, from here on a colour may be the subject's own; half of 70 degrees from the screen's hue none of it is
 * screen.
 */
const OWN = 0.72
/** By hue alone as good as solid. */
const SURELY = 0.98
/**
 * A core's neighbours are no nearer to the screen than by this share, or by so little: where they are, an edge begins.
 */
const WIDE = { around: 2, share: 0.045 }
/**
 * What is thin has fewer neighbours, which then must be more alike; and nothing beside it may be further from the
 * screen.
 */
const THIN = { share: 0.012, beside: 6, top: 0.97 }
const LEAST = 0.006
/** Share of the way from the screen to a core beyond which texture is texture and no edge. */
const INSIDE = 0.93
const INSIDE_LEAST = 0.8
/** A core further off than this says little of the colour here. */
const REACH = 60
/** Luma counts less than chroma on the way from the screen to a core: light and shade change it within a subject. */
const LUMA = 0.1
/** More than anything lies from a screen, on this scale. */
const BEYOND = 8
/** Deviations of noise that hardly a pixel lies beyond, alone and in the mean of 25. */
const FAR = 4.5
const FAR_MEAN = 0.9
/** Deviations by which pixels of one colour lie apart, few of them more. */
const OWN_NOISE = 3
/** Pixels each way that a mean is taken over against noise. */
const MEAN = 2

/** How each pixel lies to the screen's chroma: along it, 0 for the screen itself and 1 for none of it; and across. */
interface Measured {
  away: Float32Array
  cross: Float32Array
}

function measureScreen(rgba: Float32Array, plate: Float32Array): Measured {
  const pixels = rgba.length / 4
  const [away, cross] = [new Float32Array(pixels), new Float32Array(pixels)]
  for (let p = 0, i = 0; p < pixels; p++, i += 4) {
    const [ku, kv] = chromaOf(plate[i]!, plate[i + 1]!, plate[i + 2]!)
    const strength = ku * ku + kv * kv
    // a plate without a hue tells nothing
    if (strength < 1e-8) {
      away[p] = 1
      continue
    }
    const [u, v] = chromaOf(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
    away[p] = 1 - (u * ku + v * kv) / strength
    cross[p] = (u * kv - v * ku) / strength
  }
  return { away, cross }
}

/** Alpha by hue alone. */
const hueOf = (away: number, cross: number): number => 1 - clamp01(1 - away - Math.abs(cross) * ACROSS)

/** Means of 5x5 values; at the rim the outermost goes on. */
function mean5(plane: Float32Array, width: number, height: number): Float32Array {
  const across = new Float32Array(plane.length)
  const result = new Float32Array(plane.length)
  const held = (n: number, end: number): number => Math.max(0, Math.min(end - 1, n))
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      let sum = 0
      for (let d = -MEAN; d <= MEAN; d++) sum += plane[y * width + held(x + d, width)]!
      across[p] = sum
    }
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      let sum = 0
      for (let d = -MEAN; d <= MEAN; d++) sum += across[held(y + d, height) * width + x]!
      result[p] = sum / 25
    }
  return result
}

/** The largest of the values in a square of 2 * reach + 1; beyond the rim is nothing. */
function largestSquare(plane: Float32Array, width: number, height: number, reach: number): Float32Array {
  const along = (from: Float32Array, length: number, step: number, lines: number, next: number): Float32Array => {
    const to = new Float32Array(from.length)
    for (let line = 0; line < lines; line++)
      for (let n = 0; n < length; n++) {
        let most = 0
        for (let k = Math.max(0, n - reach); k <= Math.min(length - 1, n + reach); k++)
          most = Math.max(most, from[line * next + k * step]!)
        to[line * next + n * step] = most
      }
    return to
  }
  return along(along(plane, width, 1, height, width), height, width, width, 1)
}

/** The least of a pixel and the four beside it. */
function leastOfFive(plane: Float32Array, width: number, height: number): Float32Array {
  const result = plane.slice()
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++)
      result[p] = Math.min(
        plane[p]!,
        plane[x > 0 ? p - 1 : p]!,
        plane[x < width - 1 ? p + 1 : p]!,
        plane[y > 0 ? p - width : p]!,
        plane[y < height - 1 ? p + width : p]!
      )
  return result
}

interface Frame {
  rgba: Float32Array
  plate: Float32Array
  width: number
  height: number
}

/** Where the subject is surely solid: of another hue than the screen, and not falling towards it anywhere near. */
function coresOf(
  { away, cross }: Measured,
  smooth: Measured | null,
  { width, height }: Frame,
  how: BesideHow
): Uint8Array {
  const { away: noise } = how.noise
  const wide = smooth ?? { away, cross }
  // the least of neighbours is what is left by the largest of the rest
  const rest = (plane: Float32Array): Float32Array => plane.map(value => Math.max(0, BEYOND - value))
  const wideRest = largestSquare(rest(wide.away), width, height, WIDE.around)
  const beside = leastOfFive(away, width, height)
  const most = largestSquare(away, width, height, THIN.beside)
  const [wideNoise, thinNoise] = smooth ? [FAR_MEAN * noise, 1.5 * noise] : [0, 0]
  const steady = (value: number, share: number, least: number, more: number): boolean =>
    least >= value - Math.max(share * value, LEAST, more)
  const cores = new Uint8Array(away.length)
  for (let p = 0; p < cores.length; p++) {
    const [value, even] = [away[p]!, wide.away[p]!]
    if (
      hueOf(even, wide.cross[p]!) >= OWN &&
      steady(even, WIDE.share, BEYOND - wideRest[p]!, wideNoise) &&
      (!smooth || steady(even, WIDE.share, beside[p]!, OWN_NOISE * noise))
    )
      cores[p] = 1
    else if (
      hueOf(value, cross[p]!) >= OWN &&
      value >= THIN.top * most[p]! - thinNoise &&
      steady(value, THIN.share, beside[p]!, thinNoise)
    )
      cores[p] = 1
  }
  return cores
}

/** Ways to look for a colour further off, and how many blocks of pixels away. */
const WAYS = [
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
  [-1, -1],
  [0, -1],
  [1, -1]
] as const
const BLOCK = 4
const BLOCKS_AWAY = [3, 6, 12, 24] as const
/** A ramp's colours stray so far from the line between the screen and its top, as a share of that line. */
const STRAYS = 0.08
/** Shares of a ramp by which its thirds may lie off an even one. */
const UNEVEN = 0.45
/** A colour so near to the top of its ramp is the top. */
const TOP = 0.04

/** Mean colours of blocks of pixels, and the screen in their middle: three floats each. */
interface Blocks {
  columns: number
  rows: number
  colours: Float32Array
  screens: Float32Array
  /** Whether any pixel of it is a core. */
  cores: Uint8Array
}

function blocksOf({ rgba, plate, width, height }: Frame, cores: Uint8Array): Blocks {
  const [columns, rows] = [Math.floor(width / BLOCK), Math.floor(height / BLOCK)]
  const [colours, screens] = [new Float32Array(3 * columns * rows), new Float32Array(3 * columns * rows)]
  const any = new Uint8Array(columns * rows)
  for (let y = 0, n = 0; y < rows; y++)
    for (let x = 0; x < columns; x++, n++) {
      const middle = (y * BLOCK + (BLOCK >> 1)) * width + x * BLOCK + (BLOCK >> 1)
      for (let c = 0; c < 3; c++) screens[3 * n + c] = plate[4 * middle + c]!
      for (let v = 0; v < BLOCK; v++)
        for (let u = 0; u < BLOCK; u++) {
          const p = (y * BLOCK + v) * width + x * BLOCK + u
          any[n]! |= cores[p]!
          for (let c = 0; c < 3; c++) colours[3 * n + c]! += rgba[4 * p + c]! / (BLOCK * BLOCK)
        }
    }
  return { columns, rows, colours, screens, cores: any }
}

/**
 * How far the colour of a block has gone along the way from the screen's to that of another, which is 1; -1 where it
 * does not lie on it.
 */
function alongWay({ colours, screens }: Blocks, block: number, top: number): number {
  const [i, k] = [3 * block, 3 * top]
  let [dot, span, length] = [0, 0, 0]
  for (let c = 0; c < 3; c++) {
    const [way, gone] = [colours[k + c]! - screens[k + c]!, colours[i + c]! - screens[i + c]!]
    dot += way * gone
    span += way * way
    length += gone * gone
  }
  if (span < 1e-4) return -1
  const t = dot / span
  return length - t * dot > STRAYS * STRAYS * span ? -1 : t
}

/** Colours of blocks this much alike are one. */
const ALIKE = 0.002

/** Whether the four blocks beside one are of its colour. */
function isFlat({ columns, rows, colours }: Blocks, x: number, y: number): boolean {
  const i = 3 * (y * columns + x)
  for (const [dx, dy] of [
    [1, 0],
    [-1, 0],
    [0, 1],
    [0, -1]
  ] as const) {
    if (x + dx < 0 || y + dy < 0 || x + dx >= columns || y + dy >= rows) continue
    const k = i + 3 * (dy * columns + dx)
    for (let c = 0; c < 3; c++) if (Math.abs(colours[i + c]! - colours[k + c]!) > ALIKE) return false
  }
  return true
}

/** Whether a block lies on a ramp that rises from the screen, before it and behind it, to a colour further inside. */
function onRamp(blocks: Blocks, x: number, y: number, least: number): boolean {
  const { columns, rows, cores } = blocks
  const at = y * columns + x
  for (const [dx, dy] of WAYS)
    for (const far of BLOCKS_AWAY) {
      const third = far / 3
      const [u, v, bu, bv] = [x + dx * far, y + dy * far, x - dx * third, y - dy * third]
      if (u < 0 || v < 0 || u >= columns || v >= rows || bu < 0 || bv < 0 || bu >= columns || bv >= rows) continue
      const top = v * columns + u
      if (!cores[top]) continue
      const t = alongWay(blocks, at, top)
      if (t < 0 || t >= 1 - least) continue
      const rise = 1 - t
      const step = dy * third * columns + dx * third
      if (Math.abs(alongWay(blocks, at + step, top) - t - rise / 3) > UNEVEN * rise) continue
      if (Math.abs(alongWay(blocks, at + 2 * step, top) - t - (2 * rise) / 3) > UNEVEN * rise) continue
      const before = alongWay(blocks, at - step, top)
      if (before >= 0 && before <= t - rise / 8) return true
    }
  return false
}

/**
 * Takes from the cores what lies on a ramp: soft edges wide enough to be even within a few pixels are no colour of the
 * subject's own. On a ramp colours go evenly from the screen's to one further inside; where two colours meet they do
 * not.
 */
function withoutRamps(cores: Uint8Array, frame: Frame, noise: number): void {
  const blocks = blocksOf(frame, cores)
  const { columns, rows } = blocks
  for (let y = 0, n = 0; y < rows; y++)
    for (let x = 0; x < columns; x++, n++) {
      if (!blocks.cores[n] || isFlat(blocks, x, y) || !onRamp(blocks, x, y, TOP + noise)) continue
      for (let v = 0; v < BLOCK; v++) {
        const p = (y * BLOCK + v) * frame.width + x * BLOCK
        cores.fill(0, p, p + BLOCK)
      }
    }
}

/** Where there is nothing but screen: by the pixel itself, or in the mean around it where there is noise. */
function baresOf({ away, cross }: Measured, smooth: Measured | null, { clear, noise }: BesideHow): Uint8Array {
  const bares = new Uint8Array(away.length)
  const hueNoise = Math.hypot(noise.away, ACROSS * noise.cross)
  const [farAway, farHue] = [clear + FAR * noise.away, clear + FAR * hueNoise]
  const [meanAway, meanHue] = [Math.max(clear, FAR_MEAN * noise.away), Math.max(clear, FAR_MEAN * hueNoise)]
  for (let p = 0; p < bares.length; p++) {
    const hue = hueOf(away[p]!, cross[p]!)
    if (hue < clear && away[p]! < clear) bares[p] = 1
    else if (smooth && hue < farHue && away[p]! < farAway) {
      if (smooth.away[p]! < meanAway && hueOf(smooth.away[p]!, smooth.cross[p]!) < meanHue) bares[p] = 1
    }
  }
  return bares
}

/** For each pixel the nearest marked row of its column, -1 where it has none; the one above of two as near. */
function nearestRows(marked: Uint8Array, width: number, height: number): Int16Array {
  const rows = new Int16Array(marked.length).fill(-1)
  for (let p = 0; p < rows.length; p++) rows[p] = marked[p] ? Math.floor(p / width) : p >= width ? rows[p - width]! : -1
  for (let y = height - 2; y >= 0; y--)
    for (let x = 0, p = y * width; x < width; x++, p++) {
      const [above, below] = [rows[p]!, rows[p + width]!]
      if (below >= 0 && (above < 0 || below - y < y - above)) rows[p] = below
    }
  return rows
}

/**
 * The marked pixel nearest to one, -1 where there is none. Of several as near, the one whose column is nearest, and the
 * left of two.
 */
function nearestTo(rows: Int16Array, width: number, p: number): number {
  const [y, x] = [Math.floor(p / width), p % width]
  let [best, place] = [Infinity, -1]
  for (let d = 0; d < width && d * d < best; d++)
    for (const column of d === 0 ? [x] : [x - d, x + d]) {
      if (column < 0 || column >= width) continue
      const row = rows[y * width + column]!
      const square = d * d + (row - y) ** 2
      if (row < 0 || square >= best) continue
      best = square
      place = row * width + column
    }
  return place
}

const distance = (from: number, to: number, width: number): number =>
  Math.hypot((from % width) - (to % width), Math.floor(from / width) - Math.floor(to / width))

/** Whether something solid lies between two pixels, looked for at every pixel and a half. */
function liesBetween(cores: Uint8Array, width: number, from: number, to: number): boolean {
  const [x0, y0, x1, y1] = [from % width, Math.floor(from / width), to % width, Math.floor(to / width)]
  const steps = Math.ceil(Math.max(Math.abs(x1 - x0), Math.abs(y1 - y0)) / 1.5)
  for (let n = 1; n < steps; n++) {
    const [x, y] = [Math.round(x0 + ((x1 - x0) * n) / steps), Math.round(y0 + ((y1 - y0) * n) / steps)]
    if (cores[y * width + x]) return true
  }
  return false
}

/**
 * The mean of the colours in 5x5 pixels that lie near the one at `p`, into `to`: of `only` those marked. Near is within
 * what noise makes of one colour; without noise it is the colour itself.
 */
function colourNear(
  { rgba, width, height }: Frame,
  p: number,
  { noise: { colour } }: BesideHow,
  to: Float32Array,
  only: Uint8Array | null
): void {
  const i = 4 * p
  if (colour === 0) {
    for (let c = 0; c < 3; c++) to[c] = rgba[i + c]!
    return
  }
  const [x, y, far] = [p % width, Math.floor(p / width), 3 * colour]
  let [count, r, g, b] = [0, 0, 0, 0]
  for (let row = Math.max(0, y - MEAN); row <= Math.min(height - 1, y + MEAN); row++)
    for (let column = Math.max(0, x - MEAN); column <= Math.min(width - 1, x + MEAN); column++) {
      const q = row * width + column
      if (only && !only[q]) continue
      const j = 4 * q
      if (Math.abs(rgba[j]! - rgba[i]!) > far || Math.abs(rgba[j + 1]! - rgba[i + 1]!) > far) continue
      if (Math.abs(rgba[j + 2]! - rgba[i + 2]!) > far) continue
      r += rgba[j]!
      g += rgba[j + 1]!
      b += rgba[j + 2]!
      count++
    }
  to[0] = r / count
  to[1] = g / count
  to[2] = b / count
}

/**
 * How far a colour has gone from the screen's, at `o` of the plate, to the subject's own; null where those two are
 * alike.
 */
function shareOfWay(colour: Float32Array, own: Float32Array, plate: Float32Array, o: number): number | null {
  const [sr, sg, sb] = [plate[o]!, plate[o + 1]!, plate[o + 2]!]
  const [su, sv] = chromaOf(sr, sg, sb)
  const [fu, fv] = chromaOf(own[0]!, own[1]!, own[2]!)
  const [u, v] = chromaOf(colour[0]!, colour[1]!, colour[2]!)
  const sy = luma(sr, sg, sb)
  const [du, dv, dy] = [fu - su, fv - sv, LUMA * (luma(own[0]!, own[1]!, own[2]!) - sy)]
  const span = du * du + dv * dv + dy * dy
  const gone = (u - su) * du + (v - sv) * dv + LUMA * (luma(colour[0]!, colour[1]!, colour[2]!) - sy) * dy
  return span < 1e-4 ? null : gone / span
}

interface Around {
  hue: number
  cores: Uint8Array
  /** The nearest core and the nearest bare pixel, -1 where there is none. */
  core: number
  bareRows: Int16Array
  width: number
}

/**
 * Whether a pixel that is no core lies within the subject all the same: behind something solid, or far nearer to it
 * than to the screen.
 */
function isInside(a: number, p: number, { hue, cores, core, bareRows, width }: Around): boolean {
  if (hue < SURELY && a <= INSIDE_LEAST) return false
  const out = nearestTo(bareRows, width, p)
  if (hue >= SURELY && out >= 0 && liesBetween(cores, width, p, out)) return true
  if (a <= INSIDE_LEAST) return false
  if (out < 0) return true
  const [toCore, toBare] = [distance(p, core, width), distance(p, out, width)]
  return core >= 0 && toBare > INSIDE * (toBare + toCore)
}

/**
 * Sure where clear and solid; between, as far as the nearest core's colour and the screen's explain the pixel, and as
 * that core is near.
 */
function surenessOf(
  colour: Float32Array,
  own: Float32Array | null,
  plate: Float32Array,
  o: number,
  { a, toCore }: { a: number; toCore: number }
): number {
  if (a === 0 || a === 1) return 1
  if (!own) return 0
  let [miss, span] = [0, 0]
  for (let c = 0; c < 3; c++) {
    miss += (colour[c]! - a * own[c]! - (1 - a) * plate[o + c]!) ** 2
    span += (own[c]! - plate[o + c]!) ** 2
  }
  if (span < 1e-4) return 0
  return clamp01(1 - 4 * Math.sqrt(miss / span)) * clamp01(1.5 - toCore / REACH)
}

/** See `Kernels.keyBeside`. */
export function keyBeside(
  samples: Uint8Array | Uint16Array | Float32Array,
  screen: ScreenPlate,
  size: FrameSize,
  how: BesideHow
): KeyedSamples {
  const rgba = samples instanceof Float32Array ? samples : floatsOf(samples)
  const sure = keyFloats(rgba, screen, size, how)
  return { samples: samples instanceof Float32Array ? rgba : codes16(rgba), sure: how.sure ? sure : null }
}

/** Keys floats in place, and gives how sure that is. */
function keyFloats(
  rgba: Float32Array,
  screen: ScreenPlate,
  { width, height }: FrameSize,
  how: BesideHow
): Float32Array {
  const plate = wholePlate(screen, width, height)
  const frame: Frame = { rgba: rgba.slice(), plate, width, height }
  const { clear, solid, noise } = how
  const far = measureScreen(frame.rgba, plate)
  const noisy = noise.away > 0 || noise.cross > 0
  const smooth = noisy ? { away: mean5(far.away, width, height), cross: mean5(far.cross, width, height) } : null
  const cores = coresOf(far, smooth, frame, how)
  withoutRamps(cores, frame, noise.away)
  const bares = baresOf(far, smooth, how)
  const [coreRows, bareRows] = [nearestRows(cores, width, height), nearestRows(bares, width, height)]
  const sure = new Float32Array(width * height).fill(1)
  const [colour, own] = [new Float32Array(3), new Float32Array(3)]
  for (let p = 0, i = 0; p < sure.length; p++, i += 4) {
    let a = 1
    if (bares[p]) a = 0
    else if (!cores[p]) {
      const nearest = nearestTo(coreRows, width, p)
      const hue = hueOf(far.away[p]!, far.cross[p]!)
      colourNear(frame, p, how, colour, null)
      if (nearest >= 0) colourNear(frame, nearest, how, own, cores)
      // without a core anywhere, or before one of the screen's own colour, hue is all there is
      a = clamp01((nearest < 0 ? null : shareOfWay(colour, own, plate, i)) ?? hue)
      if (a < 1 && isInside(a, p, { hue, cores, core: nearest, bareRows, width })) a = 1
      if (a < solid && a > clear)
        sure[p] = surenessOf(colour, nearest < 0 ? null : own, plate, i, { a, toCore: distance(p, nearest, width) })
      if (a < solid && noisy) for (let c = 0; c < 3; c++) rgba[i + c] = colour[c]!
    }
    if (a >= solid) a = 1
    // what is hardly there goes softly
    else if (a < clear) a = Math.max(0, 2 * a - clear)
    if (a < 1) takeOutAt(rgba, i, a, plate, i)
    withoutSpill(rgba, i, how)
    rgba[i + 3] = frame.rgba[i + 3]! * a
  }
  return sure
}
