/**
 * A subject with its shadow, before one flat colour: the two are told apart, so that both survive. Shadow darkens the
 * background's channels alike, and never below what the deepest shadow leaves; whatever is coloured, or darker, is
 * subject, and solid. Between the two lies an edge, whose pixels are the subject's own colour over the shadow beside
 * it.
 */
import type { Triple } from '../base/colour'
import { islandsOf } from '../frame/islands'
import { clamp01 } from '../frame/kernels/pixel'
import { nearestOf, NONE } from '../frame/nearest'
import type { Picture } from './picture'

export interface GroundedSettings {
  background: Triple
  /** Alpha of the deepest shadow, 0 to 1. */
  deepest: number
  /** How far the channels of a shadow may lie apart, as a share of the background. */
  tint: number
  /** Whether light areas that the subject encloses are the background seen through it. */
  through: boolean
}

/** Pixels on either side of where the subject begins that may be mixed. */
const EDGE = 2

/**
 * What is left of the background in each channel, at most all of it: the least, the mean, and how far they lie apart.
 */
function leftOf(rgba: Float32Array, i: number, back: Triple): { mean: number; apart: number } {
  const [r, g, b] = [rgba[i]! / back[0], rgba[i + 1]! / back[1], rgba[i + 2]! / back[2]]
  const most = Math.max(r, g, b)
  return { mean: Math.min(1, (r + g + b) / 3), apart: most - Math.min(r, g, b) }
}

/** Pixels that no shadow on this background can be. */
function subjectOf({ width, height, rgba }: Picture, settings: GroundedSettings, back: Triple): Uint8Array {
  const subject = new Uint8Array(width * height)
  for (let p = 0, i = 0; p < subject.length; p++, i += 4) {
    const { mean, apart } = leftOf(rgba, i, back)
    if (apart > settings.tint || mean < 1 - settings.deepest) subject[p] = 1
  }
  return settings.through ? subject : filled(subject, width, height)
}

/** With what it encloses: areas outside it that do not reach the rim. */
function filled(mask: Uint8Array, width: number, height: number): Uint8Array {
  const outside = mask.map(byte => (byte ? 0 : 1))
  const { runs, root } = islandsOf(outside, width, height)
  const open = new Set<number>()
  for (let n = 0; n < runs.length; n += 4) {
    const [y, from, to, label] = [runs[n]!, runs[n + 1]!, runs[n + 2]!, runs[n + 3]!]
    if (y === 0 || y === height - 1 || from === 0 || to === width - 1) open.add(root(label))
  }
  const result = mask.slice()
  for (let n = 0; n < runs.length; n += 4) {
    if (open.has(root(runs[n + 3]!))) continue
    const row = runs[n]! * width
    result.fill(1, row + runs[n + 1]!, row + runs[n + 2]! + 1)
  }
  return result
}

/** Marks the pixels of `mask` that have only such around them, within `EDGE`; 1 where they are deep within. */
function deepIn(mask: Uint8Array, width: number, height: number, wanted: 0 | 1): Uint8Array {
  const others = mask.map(byte => (byte === wanted ? 0 : 1))
  const { squares } = nearestOf(others, width, height)
  const deep = new Uint8Array(mask.length)
  for (let p = 0; p < deep.length; p++) if (mask[p] === wanted && squares[p]! > EDGE * EDGE) deep[p] = 1
  return deep
}

/** Mean of what `marked` pixels within 3 of `p` hold; null where there is none. */
function meanNear(
  marked: Uint8Array,
  { width, height }: Picture,
  p: number,
  take: (q: number, sums: number[]) => void
): number[] | null {
  const [x, y] = [p % width, Math.floor(p / width)]
  const sums = [0, 0, 0]
  let count = 0
  for (let v = Math.max(0, y - 3); v <= Math.min(height - 1, y + 3); v++) {
    for (let u = Math.max(0, x - 3); u <= Math.min(width - 1, x + 3); u++) {
      const q = v * width + u
      if (!marked[q]) continue
      take(q, sums)
      count++
    }
  }
  return count ? sums.map(sum => sum / count) : null
}

/** The picture without its background: subject solid in its own colour, shadow black with alpha. */
export function pullGrounded(given: Picture, settings: GroundedSettings): Picture {
  const { width, height } = given
  // a channel that is nothing in the background tells nothing of what is left of it
  const back = settings.background.map(c => Math.max(c, 1 / 255)) as unknown as Triple
  const subject = subjectOf(given, settings, back)
  const own = deepIn(subject, width, height, 1)
  const open = deepIn(subject, width, height, 0)
  const nearestOwn = nearestOf(own, width, height)
  const nearestOpen = nearestOf(open, width, height)
  const rgba = given.rgba.slice()
  const shade = (i: number): number => clamp01(1 - leftOf(given.rgba, i, back).mean)
  for (let p = 0, i = 0; p < subject.length; p++, i += 4) {
    const before = given.rgba[i + 3]!
    if (own[p]) continue
    // an edge that has no colour of its own differs from shadow by too little to be seen
    if (!subject[p]) {
      rgba[i] = rgba[i + 1] = rgba[i + 2] = 0
      rgba[i + 3] = before * shade(i)
      continue
    }
    const colour = ownColour(given, own, nearestOwn, subject, p)
    const near = nearestOpen.from[p]!
    const beside =
      meanNear(open, given, p, (q, sums) => (sums[0]! += shade(4 * q)))?.[0] ?? (near < 0 ? 0 : shade(4 * near))
    const cover = colour ? coverOf(given.rgba, i, colour, back, beside) : subject[p]!
    const a = cover + (1 - cover) * beside
    // the shadow beneath is black: all colour that the background does not account for is the subject's
    const through = (1 - cover) * (1 - beside)
    for (let c = 0; c < 3; c++) rgba[i + c] = a > 0 ? clamp01((given.rgba[i + c]! - through * back[c]!) / a) : 0
    rgba[i + 3] = before * a
  }
  return { width, height, rgba }
}

/**
 * The subject's colour at an edge: of what is surely its own beside it; where it is too thin to have any, of its least
 * light pixel.
 */
function ownColour(
  given: Picture,
  own: Uint8Array,
  nearest: { from: Int32Array; squares: Int32Array },
  subject: Uint8Array,
  p: number
): number[] | null {
  const { rgba } = given
  const take = (q: number, sums: number[]): void => {
    for (let c = 0; c < 3; c++) sums[c]! += rgba[4 * q + c]!
  }
  const beside = meanNear(own, given, p, take)
  if (beside) return beside
  const near = nearest.squares[p]!
  if (near !== NONE && near <= 36) return [0, 1, 2].map(c => rgba[4 * nearest.from[p]! + c]!)
  return subject[p] ? [0, 1, 2].map(c => rgba[4 * p + c]!) : null
}

/**
 * How much of the pixel the subject covers: how far it lies from the shaded background on the way to the subject's
 * colour.
 */
function coverOf(rgba: Float32Array, i: number, colour: readonly number[], back: Triple, shade: number): number {
  let [along, span] = [0, 0]
  for (let c = 0; c < 3; c++) {
    const beneath = (1 - shade) * back[c]!
    along += (rgba[i + c]! - beneath) * (colour[c]! - beneath)
    span += (colour[c]! - beneath) ** 2
  }
  return span < 1e-6 ? 1 : clamp01(along / span)
}
