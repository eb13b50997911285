/**
 * Chroma key by the colour beside each edge. A pixel at an edge lies between the screen's colour and the subject's own;
 * how far along the way between the two is its alpha. The subject's own colour is read from the nearest part of it that
 * is surely solid, so edges come out right in any hue: hue alone makes those of a pink before green too solid, those of
 * an olive too thin.
 */
import type { Triple } from '../colour'
import type { Kernels } from '../kernels/kernels'
import { chromaOf, clamp01, luma, takeOutAt, withoutSpill } from '../kernels/pixel'
import type { Plate } from './chroma'
import { nearestOf, type Nearest } from './nearest'
import type { Picture } from './picture'

export interface BesideSettings {
  screen: Triple
  /** Alpha below is clear, alpha above solid, 0 to 1. */
  clear: number
  solid: number
  /** 0 leaves the screen's light on the subject, 1 takes all of it. */
  spill: number
}

export interface Keyed {
  /** Straight RGBA, alpha multiplied into what there was. */
  picture: Picture
  /** How sure the key is of each pixel's alpha, 0 to 1. */
  sure: Float32Array
}

/**
 * By hue alone, from here on a colour may be the subject's own; half of 70 degrees from the screen's hue none of it is
 * screen.
 */
const OWN = 0.72
/** By hue alone as good as solid. */
const SURELY = 0.98
const ACROSS = 1 / Math.tan((70 * Math.PI) / 360)
/**
 * A core's neighbours are no nearer to the screen than by this share, or by so little: where they are, an edge begins.
 */
const WIDE = { around: 2, share: 0.045 }
/**
 * What is thin has fewer neighbours, which then must be more alike; and nothing beside it may be further from the
 * screen.
 */
const THIN = { around: 1, share: 0.012, beside: 6, top: 0.97 }
const LEAST = 0.006
/** Share of the way from the screen to a core beyond which texture is texture and no edge. */
const INSIDE = 0.93
const INSIDE_LEAST = 0.8
/** A core further off than this says little of the colour here. */
const REACH = 60

interface Measured {
  /**
   * How far chroma has gone from the screen's, along the screen's own: 0 is the screen, and linear in what is mixed.
   */
  away: Float32Array
  /** Alpha by hue alone, 0 to 1. */
  hue: Float32Array
}

function measured(plate: Plate, { width, height, rgba }: Picture): Measured {
  const [away, hue] = [new Float32Array(width * height), new Float32Array(width * height)]
  const row = new Float32Array(4 * width)
  for (let y = 0, p = 0, i = 0; y < height; y++) {
    plate(y, row)
    for (let x = 0, o = 0; x < width; x++, p++, i += 4, o += 4) {
      const [ku, kv] = chromaOf(row[o]!, row[o + 1]!, row[o + 2]!)
      const strength = ku * ku + kv * kv
      if (strength < 1e-8) {
        away[p] = hue[p] = 1
        continue
      }
      const [u, v] = chromaOf(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
      const along = (u * ku + v * kv) / strength
      away[p] = 1 - along
      hue[p] = 1 - clamp01(along - (Math.abs(u * kv - v * ku) * ACROSS) / strength)
    }
  }
  return { away, hue }
}

/** Luma counts less than chroma on the way from the screen to a core: light and shade change it within a subject. */
const LUMA = 0.1

/**
 * How far the colour at `i` has gone from the screen's, at `o` of `row`, to the one at `own`; null where those two are
 * alike.
 */
function shareAt(rgba: Float32Array, i: number, own: number, row: Float32Array, o: number): number | null {
  const [sr, sg, sb] = [row[o]!, row[o + 1]!, row[o + 2]!]
  const [fr, fg, fb] = [rgba[own]!, rgba[own + 1]!, rgba[own + 2]!]
  const [r, g, b] = [rgba[i]!, rgba[i + 1]!, rgba[i + 2]!]
  const [su, sv] = chromaOf(sr, sg, sb)
  const [fu, fv] = chromaOf(fr, fg, fb)
  const [u, v] = chromaOf(r, g, b)
  const sy = luma(sr, sg, sb)
  const [du, dv, dy] = [fu - su, fv - sv, LUMA * (luma(fr, fg, fb) - sy)]
  const span = du * du + dv * dv + dy * dy
  return span < 1e-4 ? null : ((u - su) * du + (v - sv) * dv + LUMA * (luma(r, g, b) - sy) * dy) / span
}

/** More than anything lies from a screen, on this scale. */
const BEYOND = 8

/** Where the subject is surely solid: of another hue than the screen, and not falling towards it anywhere near. */
function coresOf({ away, hue }: Measured, { width, height }: Picture, kernels: Kernels): Uint8Array {
  // the least of neighbours is what is left by the largest of the rest
  const rest = away.map(value => Math.max(0, BEYOND - value))
  const wide = kernels.largest(rest, width, height, WIDE.around)
  const thin = kernels.largest(rest, width, height, THIN.around)
  const most = kernels.largest(away, width, height, THIN.beside)
  const cores = new Uint8Array(away.length)
  for (let p = 0; p < cores.length; p++) {
    const value = away[p]!
    if (hue[p]! < OWN) continue
    const steady = (share: number, least: number): boolean => least >= Math.min((1 - share) * value, value - LEAST)
    if (steady(WIDE.share, BEYOND - wide[p]!)) cores[p] = 1
    else if (value >= THIN.top * most[p]! && steady(THIN.share, BEYOND - thin[p]!)) cores[p] = 1
  }
  return cores
}

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

/** Keys a straight picture before a screen whose colour `plate` gives. */
export function pullBeside(
  plate: Plate,
  given: Picture,
  { screen, clear, solid, spill }: BesideSettings,
  kernels: Kernels
): Keyed {
  const { width, height } = given
  const rgba = given.rgba.slice()
  const far = measured(plate, given)
  const cores = coresOf(far, given, kernels)
  const bares = new Uint8Array(cores.length)
  for (let p = 0; p < bares.length; p++) if (far.hue[p]! < clear && far.away[p]! < clear) bares[p] = 1
  const core = nearestOf(cores, width, height)
  const bare = nearestOf(bares, width, height)
  const channel = screen.indexOf(Math.max(...screen))
  const row = new Float32Array(4 * width)
  const sure = new Float32Array(width * height).fill(1)
  for (let y = 0, p = 0, i = 0; y < height; y++) {
    plate(y, row)
    for (let x = 0, o = 0; x < width; x++, p++, i += 4, o += 4) {
      let a = 1
      if (bares[p]) a = 0
      else if (!cores[p]) {
        const nearest = core.from[p]!
        // without a core anywhere, or before one of the screen's own colour, hue is all there is
        a = clamp01((nearest < 0 ? null : shareAt(given.rgba, i, 4 * nearest, row, o)) ?? far.hue[p]!)
        if (a < 1 && isInside(a, p, { far, cores, core, bare, width })) a = 1
        if (a < solid && a > clear)
          sure[p] = surenessOf(given.rgba, i, row, o, { a, nearest, toCore: Math.sqrt(core.squares[p]!) })
      }
      if (a >= solid) a = 1
      // what is hardly there goes softly
      else if (a < clear) a = Math.max(0, 2 * a - clear)
      if (a < 1) takeOutAt(rgba, i, a, row[o]!, row[o + 1]!, row[o + 2]!)
      if (spill > 0) withoutSpill(rgba, i, channel, spill)
      rgba[i + 3] = given.rgba[i + 3]! * a
    }
  }
  return { picture: { width, height, rgba }, sure }
}

interface Around {
  far: Measured
  cores: Uint8Array
  core: Nearest
  bare: Nearest
  width: number
}

/**
 * Whether a pixel that is no core lies within the subject all the same: behind something solid, or far nearer to it
 * than to the screen.
 */
function isInside(a: number, p: number, { far, cores, core, bare, width }: Around): boolean {
  const out = bare.from[p]!
  if (far.hue[p]! >= SURELY && out >= 0 && liesBetween(cores, width, p, out)) return true
  if (a <= INSIDE_LEAST) return false
  if (out < 0) return true
  const [toCore, toBare] = [Math.sqrt(core.squares[p]!), Math.sqrt(bare.squares[p]!)]
  return core.from[p]! >= 0 && toBare > INSIDE * (toBare + toCore)
}

/**
 * Sure where clear and solid; between, as far as the nearest core's colour and the screen's explain the pixel, and as
 * that core is near.
 */
function surenessOf(
  rgba: Float32Array,
  i: number,
  row: Float32Array,
  o: number,
  { a, nearest, toCore }: { a: number; nearest: number; toCore: number }
): number {
  if (a === 0 || a === 1) return 1
  if (nearest < 0) return 0
  let [miss, span] = [0, 0]
  for (let c = 0; c < 3; c++) {
    const [own, back] = [rgba[4 * nearest + c]!, row[o + c]!]
    miss += (rgba[i + c]! - a * own - (1 - a) * back) ** 2
    span += (own - back) ** 2
  }
  if (span < 1e-4) return 0
  return clamp01(1 - 4 * Math.sqrt(miss / span)) * clamp01(1.5 - toCore / REACH)
}
