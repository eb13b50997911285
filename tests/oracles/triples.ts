/**
 * Triples of pixels along a line, and which storage explains the middle one; the plain twin.
 *
 * Antialiasing, blur and layering mix premultiplied values linearly. Of three pixels with alpha a0 < a < a1, and t = (a
 * - a0) / (a1 - a0), straight storage therefore predicts C = ((1 - t) a0 C0 + t a1 C1) / a for the middle one,
 * premultiplied storage on any matte colour C = (1 - t) C0 + t C1. Where both agree, one colour fades, and only its
 * slope tells: straight keeps it, premultiplied bends it towards the matte. A middle that keeps the colour of the lower
 * end is nearer to no mixture than to either, and no vote for premultiplied.
 */
import { noTriples } from '../../core/frame/kernels/terms'
import type { Triple } from '../../core/base/colour'
import type { Triples } from '../../core/frame/kernels/kernels'

/** The distance of the outer pixels that every middle one is asked at. */
const NEAR = 2
const FULL = 65535
/** A code of 255 in one of 65535. */
const CODE = 1 / 257
/**
 * Frames of so many pixels are asked at every fourth, another in each of four rows; where so many are partial only
 * every fourth row is looked at, and counts for four, of still more every eighth: it says as much. At every eighth they
 * are asked as long as more than enough, by the share of the rows, have voted, at every sixteenth from twice as many.
 */
const MANY = 1 << 20
const CROWD = 1 << 17
const THRONG = 1 << 19
const ENOUGH = 2048
/** Whether the pixel is asked in a large frame, thinned once or twice. */
function isAsked(x: number, y: number, thinned: number): boolean {
  const column = (y & 4) === 0 ? y & 3 : -y & 3
  if (thinned === 0) return (x & 3) === column
  return (x & 7) === column + ((y >> 2) & 4) && (thinned === 1 || (((x ^ y) >> 3) & 1) === 0)
}
/** Of so many rows one is asked, another in each eight. */
const isRowAsked = (y: number, every: 1 | 2 | 4 | 8): boolean => ((y ^ (y >> 3)) & (every - 1)) === 0
/** Outer pixels must differ by this much of full alpha, and the middle one lie this far from either. */
const SPAN = 0.12 * FULL
const INNER = 0.12
/** Two predictions count as different from here on, in codes of 255; `1.2 (1 + 1 / a)` codes are rounding. */
const APART = 8
const ROUNDING = 1.2
/** What one colour may stray by where it fades. */
const STEADY = 2.5
/** Colour this far beyond what alpha allows is more than rounding and coding leave. */
const BEYOND = 12 * 257
/** Colour this near to the matte's looks the same either way. */
const ALIKE = 8 * 257
/** Clear pixels this far from the median are of another colour, even where coding has smeared them. */
const OFF = 24 * 257
/** Alpha of faint pixels, whose colour premultiplying would have brought near to that of the clear ones beside them. */
const FAINT = 0.1 * FULL
/**
 * How far a clear pixel must lie from others to count as deep within a clear area, and how far its colour may stray, in
 * codes of 255.
 */
const DEEP = 12
const STRAY = 6

/** What a triple says of its middle pixel. */
export const VOTE = { none: 0, straight: 1, premultiplied: 2, neither: 3 } as const

const LUMA = [0.2126, 0.7152, 0.0722] as const

/** Adds a frame of 16-bit RGBA up; see `Kernels.triples`. */
export function triples(s: Uint16Array, width: number, height: number, marks: Uint8Array | null): Triples {
  const result = noTriples()
  medianOfClear(s, result)
  const { matte } = result
  const anyClear = result.clear > 0
  const many = width * height >= MANY
  const partial = many ? partialOf(s) : 0
  const every = partial < CROWD ? 1 : partial < THRONG ? 4 : 8
  let voted = 0
  const alphaAt = (x: number, y: number): number =>
    x < 0 || y < 0 || x >= width || y >= height ? 0 : s[4 * (y * width + x) + 3]!

  /** Counts what the partial pixel at sample `i` cannot be under a reading, and whether its colour leaps at a rim. */
  const countImpossible = (i: number, x: number, y: number): void => {
    const a = s[i + 3]!
    const rest = FULL - a
    let [above, below, alike] = [false, false, anyClear]
    for (let c = 0; c < 3; c++) {
      if (Math.abs(s[i + c]! - 257 * matte[c]!) > ALIKE) alike = false
      const own = anyClear ? Math.floor((257 * matte[c]! * rest) / FULL) : 0
      if (s[i + c]! > a + own + BEYOND) above = true
      if (s[i + c]! + BEYOND < (anyClear ? own : rest)) below = true
    }
    if (alike) result.alike++
    if (below) result.below++
    if (above && !(below && anyClear)) result.above++
    if (a < FAINT) {
      // of the pixels beside it the first that is clear
      const beside =
        x > 0 && s[i - 1] === 0
          ? i - 4
          : x < width - 1 && s[i + 7] === 0
            ? i + 4
            : y > 0 && s[i - 4 * width + 3] === 0
              ? i - 4 * width
              : y < height - 1 && s[i + 4 * width + 3] === 0
                ? i + 4 * width
                : -1
      if (beside >= 0) {
        let step = 0
        for (let c = 0; c < 3; c++) step = Math.max(step, Math.abs(s[i + c]! - s[beside + c]!))
        if (step > a + BEYOND) result.torn++
        else result.joined++
      }
    }
  }

  for (let y = 0, i = 0; y < height; y++) {
    const [ahead, due] = [voted * height, ENOUGH * y]
    const thinned = ahead > 2 * due ? 2 : ahead > due ? 1 : 0
    const counted = isRowAsked(y, every)
    // where few have voted, every second row is asked that is not counted
    const votes = counted || (thinned === 0 && isRowAsked(y, 2))
    for (let x = 0; x < width; x++, i += 4) {
      const a = s[i + 3]!
      if (a === FULL) continue
      if (a === 0) {
        for (let c = 0; c < 3; c++) {
          if (Math.abs(s[i + c]! - 257 * matte[c]!) <= OFF) continue
          result.clearOff++
          break
        }
        if ((x & 3) === 0 && (y & 3) === 0 && isDeep(alphaAt, x, y)) {
          result.deep++
          let [above, below] = [false, false]
          for (let c = 0; c < 3; c++) {
            if (s[i + c]! > 257 * (matte[c]! + STRAY)) above = true
            if (s[i + c]! + 257 * STRAY < 257 * matte[c]!) below = true
          }
          if (below) result.deepBelow++
          else if (above) result.deepAbove++
        }
        continue
      }
      if (!counted && !votes) continue
      if (counted) countImpossible(i, x, y)
      if (many && !isAsked(x, y, thinned)) continue
      result.asked++
      let vote = 0
      for (let axis = 0; axis < 2; axis++) {
        const [place, length, step] = axis === 0 ? [x, width, 4] : [y, height, 4 * width]
        for (let d = 1; d <= 64; d *= 2) {
          if (place < d || place + d >= length) break
          if (d > NEAR && ((x | y) & ((d >> 1) - 1)) !== 0) break
          let [low, high] = [i - d * step, i + d * step]
          if (s[low + 3]! > s[high + 3]!) [low, high] = [high, low]
          const [a0, a1] = [s[low + 3]!, s[high + 3]!]
          if (a1 - a0 < SPAN) continue
          const t = (a - a0) / (a1 - a0)
          if (!(t >= INNER && t <= 1 - INNER)) continue
          if (d > NEAR && !smooth(s, { low, middle: i, high, half: (d >> 1) * step })) continue
          const found = judge(s, [low, i, high], t, result, anyClear)
          if (found === VOTE.straight || found === VOTE.premultiplied || vote === 0) vote = found
        }
      }
      if (vote) voted++
      if (marks && vote) marks[i >> 2] = vote
    }
  }
  for (const key of ['above', 'below', 'alike', 'torn', 'joined'] as const) result[key] *= every
  return result
}

function partialOf(s: Uint16Array): number {
  let count = 0
  for (let i = 3; i < s.length; i += 4) if (s[i] !== 0 && s[i] !== FULL) count++
  return count
}

/** Clear pixels counted, and the median of their colour in codes of 255. */
function medianOfClear(s: Uint16Array, result: Triples): void {
  const bins = new Uint32Array(768)
  for (let i = 0; i < s.length; i += 4) {
    if (s[i + 3] !== 0) continue
    result.clear++
    for (let c = 0; c < 3; c++) bins[256 * c + (s[i + c]! >> 8)]!++
  }
  for (let c = 0; c < 3; c++) {
    let seen = 0
    for (let code = 0; code < 256; code++) {
      seen += bins[256 * c + code]!
      if (2 * seen >= result.clear) {
        result.matte[c] = code
        break
      }
    }
  }
}

function isDeep(alphaAt: (x: number, y: number) => number, x: number, y: number): boolean {
  for (let v = -DEEP; v <= DEEP; v += DEEP / 2)
    for (let u = -DEEP; u <= DEEP; u += DEEP / 2) if (alphaAt(x + u, y + v) !== 0) return false
  return true
}

interface Far {
  low: number
  middle: number
  high: number
  /** Samples from the middle to half of the way. */
  half: number
}

/** Whether alpha runs one way from end to end, in no great leap: what a soft edge or a ramp does. */
function smooth(s: Uint16Array, { low, middle, high, half }: Far): boolean {
  const [before, after] = low < middle ? [middle - half, middle + half] : [middle + half, middle - half]
  const [a0, h0, a, h1, a1] = [s[low + 3]!, s[before + 3]!, s[middle + 3]!, s[after + 3]!, s[high + 3]!]
  const most = 0.6 * (a1 - a0)
  return (
    a0 <= h0 && h0 <= a && a <= h1 && h1 <= a1 && h0 - a0 < most && a - h0 < most && h1 - a < most && a1 - h1 < most
  )
}

/** Places of the three pixels of a triple: the thinner end, the middle, the thicker end. */
type Three = readonly [number, number, number]

const WHITE: Triple = [255, 255, 255]
const BLACK: Triple = [0, 0, 0]

function judge(s: Uint16Array, at: Three, t: number, result: Triples, anyClear: boolean): number {
  const [low, middle, high] = at
  const [a0, a, a1] = [s[low + 3]!, s[middle + 3]!, s[high + 3]!]
  const k1 = (t * a1) / a
  const rounding = ROUNDING * (1 + FULL / a)
  const need = Math.max(APART, 3 * rounding)
  // luma first: chroma may have been coded at half the size
  let apart = 0
  let missStraight = 0
  let missPremultiplied = 0
  let missTwice = 0
  let apartTwice = 0
  let missStay = 0
  let lumaApart = 0
  let [luma0, lumaC, lumaS, lumaP, lumaT] = [0, 0, 0, 0, 0]
  const r0 = a0 > 0 ? a / a0 : 0
  const r1 = a / a1
  for (let c = 0; c < 3; c++) {
    const [c0, cm, c1] = [s[low + c]! * CODE, s[middle + c]! * CODE, s[high + c]! * CODE]
    const straight = (1 - k1) * c0 + k1 * c1
    const premultiplied = (1 - t) * c0 + t * c1
    const twice = (1 - t) * c0 * r0 + t * c1 * r1
    const between = Math.abs(straight - premultiplied)
    if (between > apart) {
      apart = between
      missStraight = Math.abs(cm - straight)
      missPremultiplied = Math.abs(cm - premultiplied)
      missTwice = Math.abs(cm - twice)
      apartTwice = Math.abs(premultiplied - twice)
      missStay = Math.abs(cm - c0)
    }
    const share = LUMA[c]!
    lumaC += share * cm
    luma0 += share * c0
    lumaS += share * straight
    lumaP += share * premultiplied
    lumaT += share * twice
  }
  lumaApart = Math.abs(lumaS - lumaP)
  if (lumaApart > need) {
    apart = lumaApart
    missStraight = Math.abs(lumaC - lumaS)
    missPremultiplied = Math.abs(lumaC - lumaP)
    missTwice = Math.abs(lumaC - lumaT)
    apartTwice = Math.abs(lumaP - lumaT)
    missStay = Math.abs(lumaC - luma0)
  }
  if (apart <= need) return slope(s, at, result, anyClear)
  if (apartTwice > need && 3 * missTwice < apartTwice && 3 * missTwice < missPremultiplied) {
    result.twice++
    return VOTE.neither
  }
  if (3 * missStraight < apart) {
    result.straight++
    if (a0 === 0) result.rims[0]++
    return VOTE.straight
  }
  // a middle that keeps the colour of the lower side is no mixture: a layer fades out beneath another's hard edge
  if (3 * missPremultiplied < apart && missPremultiplied <= missStay) {
    result.premultiplied++
    if (a0 === 0) result.rims[1]++
    // the colour that a line through both ends reaches where alpha is nothing
    for (let c = 0; c < 3; c++) {
      const at = ((s[low + c]! * a1 - s[high + c]! * a0) / (a1 - a0)) * CODE
      if (at > -0.5 && at < 255.5) result.intercepts[256 * c + Math.floor(at + 0.5)]!++
    }
    return VOTE.premultiplied
  }
  return VOTE.neither
}

function slope(s: Uint16Array, at: Three, result: Triples, anyClear: boolean): number {
  if (s[at[0] + 3] === 0) return VOTE.neither
  if (!anyClear) {
    slopeOn(s, at, WHITE, result.slopes.white)
    return slopeOn(s, at, BLACK, result.slopes.black)
  }
  return slopeOn(s, at, result.matte, result.slopes.matte)
}

function slopeOn(s: Uint16Array, [low, middle, high]: Three, matte: Triple, votes: [number, number]): number {
  const [a0, a, a1] = [s[low + 3]!, s[middle + 3]!, s[high + 3]!]
  let moves = 0
  let missStraight = 0
  let missPremultiplied = 0
  for (let c = 0; c < 3; c++) {
    const m = matte[c]!
    const [c0, cm, c1] = [s[low + c]! * CODE, s[middle + c]! * CODE, s[high + c]! * CODE]
    moves = Math.max(moves, Math.abs((1 - a0 / a1) * (c1 - m)))
    missStraight = Math.max(missStraight, Math.abs(cm - c1), Math.abs(c0 - c1))
    missPremultiplied = Math.max(
      missPremultiplied,
      Math.abs(cm - (m + (a / a1) * (c1 - m))),
      Math.abs(c0 - (m + (a0 / a1) * (c1 - m)))
    )
  }
  if (moves <= Math.max(APART, 3 * STEADY)) return VOTE.neither
  if (missStraight <= STEADY) {
    votes[0]++
    return VOTE.straight
  }
  if (missPremultiplied <= STEADY) {
    votes[1]++
    return VOTE.premultiplied
  }
  return VOTE.neither
}
