/**
 * The edge fit. Each partial pixel i is paired with a nearby pixel j of higher alpha, taken to be of the same object.
 * With r = a_i / a_j, straight storage predicts C_i = C_j; premultiplied storage on M predicts C_i = r C_j + (1 - r) M.
 * Sums of both residuals, and of what least squares need to solve M, are kept; and each pair votes.
 */
import { hexToCodes, type HexColour } from '../colour'
import type { Frame } from '../frame/frame'

/** Residuals are in 8-bit codes, weighted by the pixel's alpha: what cannot be seen cannot decide. */
export interface PairSums {
  count: number
  weight: number
  /** Sum of w |C_i - C_j|^2 over the three channels. */
  straight: number
  /** Sums of w (1-r)^2, w (1-r) d_c and w |d|^2 with d = C_i - r C_j. */
  rest2: number
  restD: [number, number, number]
  d2: number
  /** Sum of w |C_i - r^2 C_j|^2: what colour multiplied twice on black predicts. */
  twice: number
  /** Pairs that clearly prefer one reading, for M black, white, and the colour of the clear pixels. */
  votes: { black: Votes; white: Votes; clear: Votes }
}

export interface Votes {
  straight: number
  premultiplied: number
}

const FULL = 65535

/** Distances at which a neighbour is sought, nearest first; soft edges need the far ones. */
const REACH = [1, 2, 4, 8, 16]
const AROUND = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
  [1, 1],
  [-1, 1],
  [1, -1],
  [-1, -1]
] as const

/** Partial pixels asked whether they lie on a rim, and pairs taken from one frame; more would not decide better. */
const MOST_ASKED = 30000
const MOST_PAIRS = 8000

/** Every n-th of a list, so that at most `most` are left. */
function thinned(list: Uint32Array, most: number): Uint32Array {
  const every = Math.ceil(list.length / most)
  return every <= 1 ? list : Uint32Array.from({ length: Math.ceil(list.length / every) }, (_, i) => list[i * every]!)
}

/** Indices of every n-th partial pixel, so that at most `most` are found. */
function partialPixels(samples: Uint16Array, most: number): Uint32Array {
  let count = 0
  for (let at = 3; at < samples.length; at += 4) {
    const a = samples[at]!
    if (a > 0 && a < FULL) count++
  }
  const every = Math.max(1, Math.ceil(count / most))
  const found = new Uint32Array(Math.ceil(count / every))
  for (let at = 3, n = 0, wait = 0; at < samples.length && n < found.length; at += 4) {
    const a = samples[at]!
    if (a === 0 || a === FULL) continue
    if (wait === 0) {
      found[n++] = at >> 2
      wait = every
    }
    wait--
  }
  return found
}

/** A vote counts when one prediction misses by over this many codes and the other by less than half as much. */
const CLEAR_MISS = 4

export function noPairs(): PairSums {
  const votes = (): Votes => ({ straight: 0, premultiplied: 0 })
  return {
    count: 0,
    weight: 0,
    straight: 0,
    rest2: 0,
    restD: [0, 0, 0],
    d2: 0,
    twice: 0,
    votes: { black: votes(), white: votes(), clear: votes() }
  }
}

export function addPairs(into: PairSums, more: PairSums): void {
  into.count += more.count
  into.weight += more.weight
  into.straight += more.straight
  into.rest2 += more.rest2
  into.d2 += more.d2
  into.twice += more.twice
  for (let c = 0; c < 3; c++) into.restD[c]! += more.restD[c]!
  for (const matte of ['black', 'white', 'clear'] as const) {
    into.votes[matte].straight += more.votes[matte].straight
    into.votes[matte].premultiplied += more.votes[matte].premultiplied
  }
}

function partner(samples: Uint16Array, width: number, height: number, x: number, y: number, a: number): number {
  for (const reach of REACH) {
    let best = -1
    let bestAlpha = Math.max(a * 1.15, a + FULL * 0.04)
    for (const [dx, dy] of AROUND) {
      const u = x + dx * reach
      const v = y + dy * reach
      if (u < 0 || v < 0 || u >= width || v >= height) continue
      const at = 4 * (v * width + u)
      const alpha = samples[at + 3]!
      if (alpha > bestAlpha) {
        bestAlpha = alpha
        best = at
      }
    }
    if (best >= 0) return best
  }
  return -1
}

/** How near a clear pixel must be for a partial one to lie on an outer rim. */
const RIM = 3

/**
 * Whether a partial pixel lies on an outer rim: only there is it surely one colour running out into nothing. Lettering
 * over a translucent bar has partial pixels too, but they mix two colours, and either reading may seem to explain them.
 */
function onRim(samples: Uint16Array, width: number, height: number, x: number, y: number): boolean {
  for (const [dx, dy] of AROUND) {
    for (let reach = 1; reach <= RIM; reach++) {
      const u = x + dx * reach
      const v = y + dy * reach
      if (u >= 0 && v >= 0 && u < width && v < height && samples[4 * (v * width + u) + 3]! <= 0) return true
    }
  }
  return false
}

/** Fewer pixels than this on rims are no evidence; then every partial pixel is asked. */
const FEW_RIMS = 48

/**
 * Collects the pairs of one frame of 16-bit codes. `clearColour` is the one colour of its clear pixels, where it has one. `onVote` is told
 * how each pair votes, on that colour or on black, by the index of its partial pixel.
 */
export function collectPairs(
  frame: Frame,
  clearColour: HexColour | null,
  onVote?: (pixel: number, vote: 'straight' | 'premultiplied' | 'neither') => void
): PairSums {
  const sums = noPairs()
  if (frame.alpha.mode === 'none') return sums
  const { width, height } = frame
  const samples = frame.samples as Uint16Array
  const toByte = 1 / 257
  const some = partialPixels(samples, MOST_ASKED)
  const rims = some.filter(p => onRim(samples, width, height, p % width, Math.floor(p / width)))
  const partials = thinned(rims.length >= FEW_RIMS ? rims : some, MOST_PAIRS)
  const mattes = {
    black: [0, 0, 0] as const,
    white: [255, 255, 255] as const,
    clear: clearColour ? hexToCodes(clearColour) : null
  }
  for (const p of partials) {
    const i = 4 * p
    const a = samples[i + 3]!
    const j = partner(samples, width, height, p % width, Math.floor(p / width), a)
    if (j < 0) continue
    const r = a / samples[j + 3]!
    const weight = (a / FULL) ** 2
    sums.count++
    sums.weight += weight
    sums.rest2 += weight * (1 - r) ** 2
    const ci = [samples[i]! * toByte, samples[i + 1]! * toByte, samples[i + 2]! * toByte]
    const cj = [samples[j]! * toByte, samples[j + 1]! * toByte, samples[j + 2]! * toByte]
    let missStraight = 0
    for (let c = 0; c < 3; c++) {
      const difference = ci[c]! - cj[c]!
      const d = ci[c]! - r * cj[c]!
      sums.straight += weight * difference * difference
      sums.restD[c]! += weight * (1 - r) * d
      sums.d2 += weight * d * d
      sums.twice += weight * (ci[c]! - r * r * cj[c]!) ** 2
      missStraight = Math.max(missStraight, Math.abs(difference))
    }
    const deciding = mattes.clear ? 'clear' : 'black'
    for (const name of ['black', 'white', 'clear'] as const) {
      const matte = mattes[name]
      if (!matte) continue
      let miss = 0
      for (let c = 0; c < 3; c++) miss = Math.max(miss, Math.abs(ci[c]! - r * cj[c]! - (1 - r) * matte[c]!))
      const vote =
        missStraight > CLEAR_MISS && miss < missStraight / 2
          ? 'premultiplied'
          : miss > CLEAR_MISS && missStraight < miss / 2
            ? 'straight'
            : 'neither'
      if (vote !== 'neither') sums.votes[name][vote]++
      if (name === deciding) onVote?.(p, vote)
    }
  }
  return sums
}

/** The matte colour that fits best, 0 to 255 a channel; null when nothing was paired. */
export function solveMatte(sums: PairSums): [number, number, number] | null {
  if (sums.rest2 < 1e-9) return null
  return sums.restD.map(value => Math.max(0, Math.min(255, value / sums.rest2))) as [number, number, number]
}

/** Root mean square miss of the straight reading, in 8-bit codes. */
export function straightResidual(sums: PairSums): number {
  return sums.weight ? Math.sqrt(sums.straight / sums.weight / 3) : 0
}

/** The same for colour multiplied twice on black. */
export function twiceResidual(sums: PairSums): number {
  return sums.weight ? Math.sqrt(sums.twice / sums.weight / 3) : 0
}

/** Root mean square miss of the premultiplied reading on `matte`. */
export function premultipliedResidual(sums: PairSums, matte: readonly [number, number, number]): number {
  if (!sums.weight) return 0
  let total = sums.d2
  for (let c = 0; c < 3; c++) total += matte[c]! ** 2 * sums.rest2 - 2 * matte[c]! * sums.restD[c]!
  return Math.sqrt(Math.max(0, total) / sums.weight / 3)
}
