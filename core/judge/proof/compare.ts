/**
 * One delivered frame against what it should have been: every alpha code, and colour as it is seen, composited over
 * five backdrops. Colour under clear pixels is counted apart and never judged.
 */
import { codesToHex, hexAtDepth, type HexColour, type Triple } from '../../base/colour'
import { readAs, withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import { fullCode, type AlphaMode, type Depth, type Frame } from '../../frame/frame'
import { coded } from '../../frame/transfer'
import type { Differences, Kernels, Stored } from '../../frame/kernels/kernels'

export interface FrameComparison extends Differences {
  pixels: number
  /**
   * Mean absolute miss in codes of 255 when the delivered samples are explained by a known mistake; as delivered first.
   */
  explanations: Explanation[]
}

export interface Explanation {
  mistake:
    | 'none'
    | 'premultiplied-black'
    | 'premultiplied-white'
    | 'premultiplied-other'
    | 'unpremultiplied'
    | 'premultiplied-twice'
    | 'inverted'
    | 'limited-range'
    | 'solid'
  miss: number
  /** The matte colour that was solved for, where it is another than black or white. */
  matte?: HexColour
}

/** One pixel in so many is taken into the mean; odd, so as not to fall into step with rows. */
const MEANT = 61

/** The colour opposite the picture's mean, in 16-bit codes: what makes a rim most visible. */
function oppositeMean(samples: Uint16Array): Triple {
  let [r, g, b, weight] = [0, 0, 0, 0]
  for (let i = 0; i < samples.length; i += 4 * MEANT) {
    const a = samples[i + 3]!
    if (a === 0) continue
    weight += a
    r += samples[i]! * a
    g += samples[i + 1]! * a
    b += samples[i + 2]! * a
  }
  const opposite = (sum: number): number => 65535 - (weight > 0 ? sum / weight : 32767.5)
  return [opposite(r), opposite(g), opposite(b)]
}

function stored(alpha: AlphaMode): Stored {
  return { mode: alpha.mode, matte: alpha.mode === 'premultiplied' ? hexAtDepth(alpha.matte, 16) : [0, 0, 0] }
}

/** Mean absolute difference of visible samples, in codes of 255. */
function miss(a: Frame, b: Frame): number {
  let sum = 0
  let count = 0
  for (let i = 0; i < a.samples.length; i += 4) {
    if (a.samples[i + 3] === 0 && b.samples[i + 3] === 0) continue
    count += 4
    for (let c = 0; c < 4; c++) sum += Math.abs(a.samples[i + c]! - b.samples[i + c]!)
  }
  return count ? sum / count / 257 : 0
}

function mapAlpha(frame: Frame, map: (a: number) => number): Frame {
  const samples = frame.samples.slice()
  for (let i = 3; i < samples.length; i += 4) samples[i] = map(samples[i]!)
  return { ...frame, samples }
}

/** About how many pixels explanations are tried on; more would not decide better. */
const TRIED = 1 << 14

/**
 * Of the `seen` pixels that either frame shows, about as many as are tried, spread over the picture, as two small
 * frames of one row.
 */
function sampled(expected: Frame, found: Frame, seen: number): [Frame, Frame] {
  const [e, f] = [expected.samples, found.samples]
  // an odd stride does not fall into step with rows
  const every = Math.floor(seen / TRIED) | 1
  const room = 4 * Math.ceil(e.length / 4 / every)
  const [a, b] = [new Uint16Array(room), new Uint16Array(room)]
  let at = 0
  for (let i = 0; i < e.length; i += 4 * every) {
    if (e[i + 3] === 0 && f[i + 3] === 0) continue
    for (let c = 0; c < 4; c++) {
      a[at + c] = e[i + c]!
      b[at + c] = f[i + c]!
    }
    at += 4
  }
  return [
    { ...expected, width: at / 4, height: 1, samples: a.slice(0, at) },
    { ...found, width: at / 4, height: 1, samples: b.slice(0, at) }
  ]
}

/**
 * The matte colour that laid `straight` on itself to give `found`, by least squares; null where it is black, white, or
 * cannot be told.
 */
function matteSolved(straight: Frame, found: Frame): HexColour | null {
  const sums: [number, number, number] = [0, 0, 0]
  let weights = 0
  for (let i = 0; i < found.samples.length; i += 4) {
    const a = straight.samples[i + 3]! / 65535
    const rest = 1 - a
    weights += rest * rest
    for (let c = 0; c < 3; c++) sums[c]! += rest * (found.samples[i + c]! - a * straight.samples[i + c]!)
  }
  if (weights < 4) return null
  const codes = sums.map(sum => Math.max(0, Math.min(255, sum / weights / 257))) as unknown as Triple
  const extreme = codes.every(code => code < 6) || codes.every(code => code > 249)
  return extreme ? null : codesToHex(codes)
}

/** Which known mistake would make the expected frame into the one found? Both of 16 bits. */
function explain(expectedWhole: Frame, foundWhole: Frame, seen: number, kernels: Kernels): Explanation[] {
  const [expected, found] = sampled(expectedWhole, foundWhole, seen)
  if (expected.width === 0) return []
  const black: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
  const white: AlphaMode = { mode: 'premultiplied', matte: '#ffffff' }
  const straight = withAlphaMode(expected, { mode: 'straight' }, kernels)
  const once = withAlphaMode(straight, black, kernels)
  const matte = matteSolved(straight, found)
  const tries: [Explanation['mistake'], Frame][] = [
    ['none', expected],
    ['premultiplied-black', once],
    ['premultiplied-white', withAlphaMode(straight, white, kernels)],
    ['unpremultiplied', straight],
    ['premultiplied-twice', withAlphaMode(readAs(once, { mode: 'straight' }), black, kernels)],
    ['inverted', mapAlpha(expected, a => 65535 - a)],
    ['limited-range', mapAlpha(expected, a => Math.round((16 / 255) * 65535 + (a * 219) / 255))],
    ['solid', mapAlpha(expected, () => 65535)]
  ]
  const known = tries.map(([mistake, frame]): Explanation => ({ mistake, miss: miss(frame, found) }))
  const due = expectedWhole.alpha
  if (!matte || (due.mode === 'premultiplied' && due.matte === matte)) return known
  return [
    ...known,
    {
      mistake: 'premultiplied-other',
      miss: miss(withAlphaMode(straight, { mode: 'premultiplied', matte }, kernels), found),
      matte
    }
  ]
}

/** Pixels with any value different. */
function floatDifferences(a: Float32Array, b: Float32Array): number {
  let count = 0
  for (let i = 0; i < a.length; i += 4)
    if (
      !Object.is(a[i], b[i]) ||
      !Object.is(a[i + 1], b[i + 1]) ||
      !Object.is(a[i + 2], b[i + 2]) ||
      !Object.is(a[i + 3], b[i + 3])
    )
      count++
  return count
}

/** The codes alpha errors are told in: those of the depth, and of 16 bits for float. */
export function codesOf(depth: Depth): number {
  return depth === 32 ? 65535 : fullCode(depth)
}

/** Alpha figures in codes of the expected depth. */
function inCodesOf(alpha: Differences['alpha'], full: number): Differences['alpha'] {
  const scale = full / 65535
  return {
    ...alpha,
    max: alpha.max * scale,
    sum: alpha.sum * scale,
    squares: alpha.squares * scale * scale,
    foundLeast: alpha.foundLeast * scale,
    foundMost: alpha.foundMost * scale
  }
}

/**
 * Compares a found frame with the expected one. Both must be of the same size, else a plain Error is thrown; a found
 * frame of another depth is brought to the expected one first, and one without alpha is taken as solid.
 */
export function compareFrames(expected: Frame, foundFrame: Frame, kernels: Kernels): FrameComparison {
  if (expected.width !== foundFrame.width || expected.height !== foundFrame.height)
    throw new RangeError(
      `the frame is ${foundFrame.width}x${foundFrame.height} instead of ${expected.width}x${expected.height}`
    )
  const { width, height } = expected
  // float is compared value for value; figures of what differs are taken from 16-bit codes as a screen would have them
  const float = expected.depth === 32 && foundFrame.depth === 32
  const raw =
    float && expected !== foundFrame
      ? floatDifferences(expected.samples as Float32Array, foundFrame.samples as Float32Array)
      : 0
  const due = withDepth(coded(expected, kernels), 16, kernels)
  const same = expected === foundFrame
  const found =
    same || (float && raw === 0)
      ? due
      : withDepth(coded(withDepth(foundFrame, expected.depth, kernels), kernels), 16, kernels)
  const counted = kernels.compare(due.samples as Uint16Array, found.samples as Uint16Array, width, height, {
    expected: stored(due.alpha),
    found: stored(found.alpha),
    opposite: same ? [0, 0, 0] : oppositeMean(due.samples as Uint16Array)
  })
  const explained = counted.colour.max > 1 || counted.alpha.max > 257
  return {
    ...counted,
    changed: Math.max(counted.changed, raw),
    pixels: width * height,
    alpha: inCodesOf(counted.alpha, codesOf(expected.depth)),
    explanations: explained ? explain(due, found, counted.colour.visible, kernels) : []
  }
}
