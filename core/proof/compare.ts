/**
 * One delivered frame against what it should have been: every alpha code, and colour as it is seen, composited over
 * five backdrops. Colour under clear pixels is counted apart and never judged.
 */
import { hexAtDepth } from '../colour'
import { readAs, withAlphaMode } from '../frame/alpha'
import { withDepth } from '../frame/depth'
import { fullCode, type AlphaMode, type Frame, type Samples } from '../frame/frame'
import type { Kernels } from '../kernels/kernels'
import { ciede2000, toLab } from './ciede2000'

/** Bins of the difference histogram are 0.02 wide and end at 20. */
export const BIN = 0.02
export const BINS = 1000

export interface FrameComparison {
  pixels: number
  /** Pixels with any code different, and those of them that are clear in both. */
  changed: number
  changedUnderClear: number
  alpha: { max: number; sum: number; squares: number; changed: number; clearLost: number; solidLost: number; clear: number; solid: number; foundLeast: number; foundMost: number }
  colour: { max: number; sum: number; visible: number; bins: Uint32Array }
  edge: { max: number; sum: number; pixels: number }
  /** Mean absolute miss in codes of 255 when the delivered samples are explained by a known mistake; as delivered first. */
  explanations: Explanation[]
}

export interface Explanation {
  mistake: 'none' | 'premultiplied-black' | 'premultiplied-white' | 'unpremultiplied' | 'premultiplied-twice' | 'inverted' | 'limited-range' | 'solid'
  miss: number
}

const GREY = 0.5
/** How far from a partial pixel still counts as edge. */
const EDGE_REACH = 2

/** A procedural picture: soft colour bands that cross, so that every region meets another backdrop. */
function pictureAt(x: number, y: number, channel: number): number {
  return 0.5 + 0.45 * Math.sin(x * 0.031 + channel * 2.1) * Math.cos(y * 0.043 - channel * 1.3)
}

/** The colour opposite the picture's mean: what makes a rim most visible. */
function oppositeMean(frame: Frame, full: number): readonly [number, number, number] {
  const sums = [0, 0, 0]
  let weight = 0
  const { samples } = frame
  for (let i = 0; i < samples.length; i += 64) {
    const a = samples[i + 3]!
    weight += a
    for (let c = 0; c < 3; c++) sums[c]! += samples[i + c]! * a
  }
  return [0, 1, 2].map(c => 1 - (weight > 0 ? sums[c]! / weight / full : 0.5)) as unknown as readonly [number, number, number]
}

/** True near partial alpha: within two pixels of one. */
function edgeMap(samples: Samples, width: number, height: number, full: number): Uint8Array {
  const rows = new Uint8Array(width * height)
  const map = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const a = samples[4 * (y * width + x) + 3]!
      if (a > 0 && a < full) rows.fill(1, y * width + Math.max(0, x - EDGE_REACH), y * width + Math.min(width, x + EDGE_REACH + 1))
    }
  }
  for (let y = 0; y < height; y++) {
    for (let v = Math.max(0, y - EDGE_REACH); v <= Math.min(height - 1, y + EDGE_REACH); v++) {
      for (let x = 0; x < width; x++) if (rows[v * width + x]) map[y * width + x] = 1
    }
  }
  return map
}

/** One channel of a pixel over a backdrop value, 0..1. */
function over(colour: number, a: number, backdrop: number, mode: AlphaMode, matte: number): number {
  if (mode.mode === 'straight') return colour * a + backdrop * (1 - a)
  if (mode.mode === 'none') return colour
  return colour + (backdrop - matte) * (1 - a)
}

function differenceAt(expected: Frame, found: Frame, i: number, backdrops: (readonly [number, number, number])[], lab: Float64Array): number {
  const full = fullCode(expected.depth)
  const mattes = [expected, found].map(f => (f.alpha.mode === 'premultiplied' ? hexAtDepth(f.alpha.matte, 32) : ([0, 0, 0] as const)))
  let worst = 0
  for (const backdrop of backdrops) {
    for (const [n, frame] of [expected, found].entries()) {
      const s = frame.samples
      const a = frame.alpha.mode === 'none' ? 1 : s[i + 3]! / full
      const m = mattes[n]!
      toLab(over(s[i]! / full, a, backdrop[0], frame.alpha, m[0]), over(s[i + 1]! / full, a, backdrop[1], frame.alpha, m[1]), over(s[i + 2]! / full, a, backdrop[2], frame.alpha, m[2]), lab, 3 * n)
    }
    worst = Math.max(worst, ciede2000(lab, 0, 3))
  }
  return worst
}

/** Mean absolute difference of visible samples, in codes of 255. */
function miss(a: Frame, b: Frame): number {
  const scale = 255 / fullCode(a.depth)
  let sum = 0
  let count = 0
  for (let i = 0; i < a.samples.length; i += 4) {
    if (a.samples[i + 3] === 0 && b.samples[i + 3] === 0) continue
    count += 4
    for (let c = 0; c < 4; c++) sum += Math.abs(a.samples[i + c]! - b.samples[i + c]!)
  }
  return count ? (sum * scale) / count : 0
}

function mapAlpha(frame: Frame, map: (a: number) => number): Frame {
  const samples = frame.samples.slice()
  for (let i = 3; i < samples.length; i += 4) samples[i] = map(samples[i]!)
  return { ...frame, samples }
}

/** Which known mistake would make the expected frame into the one found? */
function explain(expected: Frame, found: Frame, kernels: Kernels): Explanation[] {
  const full = fullCode(expected.depth)
  const black: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
  const white: AlphaMode = { mode: 'premultiplied', matte: '#ffffff' }
  const straight = withAlphaMode(expected, { mode: 'straight' }, kernels)
  const once = withAlphaMode(straight, black, kernels)
  const tries: [Explanation['mistake'], Frame][] = [
    ['none', expected],
    ['premultiplied-black', once],
    ['premultiplied-white', withAlphaMode(straight, white, kernels)],
    ['unpremultiplied', straight],
    ['premultiplied-twice', withAlphaMode(readAs(once, { mode: 'straight' }), black, kernels)],
    ['inverted', mapAlpha(expected, a => full - a)],
    ['limited-range', mapAlpha(expected, a => Math.round((16 / 255) * full + (a * 219) / 255))],
    ['solid', mapAlpha(expected, () => full)]
  ]
  return tries.map(([mistake, frame]) => ({ mistake, miss: miss(frame, found) }))
}

/**
 * Compares a found frame with the expected one. Both must be of the same size, else a plain Error is thrown; a found frame of
 * another depth is brought to the expected one first, and one without alpha is taken as solid.
 */
export function compareFrames(expected: Frame, foundFrame: Frame, kernels: Kernels): FrameComparison {
  if (expected.width !== foundFrame.width || expected.height !== foundFrame.height) throw new RangeError(`the frame is ${foundFrame.width}x${foundFrame.height} instead of ${expected.width}x${expected.height}`)
  const found = withDepth(foundFrame, expected.depth)
  const { width, height, samples: e } = expected
  const f = found.samples
  const full = fullCode(expected.depth)
  const result: FrameComparison = {
    pixels: width * height,
    changed: 0,
    changedUnderClear: 0,
    alpha: { max: 0, sum: 0, squares: 0, changed: 0, clearLost: 0, solidLost: 0, clear: 0, solid: 0, foundLeast: full, foundMost: 0 },
    colour: { max: 0, sum: 0, visible: 0, bins: new Uint32Array(BINS + 1) },
    edge: { max: 0, sum: 0, pixels: 0 },
    explanations: []
  }
  const { alpha, colour, edge } = result
  const lab = new Float64Array(6)
  let edges: Uint8Array | null = null
  const opposite = oppositeMean(expected, full)
  // where alpha is stored beside colour of no meaning, colour of clear pixels is not compared
  const clearHasNoColour = expected.alpha.mode === 'straight' && found.alpha.mode === 'straight'
  for (let p = 0, i = 0; i < e.length; p++, i += 4) {
    const ea = e[i + 3]!
    const fa = f[i + 3]!
    if (ea === 0) alpha.clear++
    else if (ea === full) alpha.solid++
    if (fa < alpha.foundLeast) alpha.foundLeast = fa
    if (fa > alpha.foundMost) alpha.foundMost = fa
    const visible = ea > 0 || fa > 0
    if (visible) colour.visible++
    if (ea === fa && e[i] === f[i] && e[i + 1] === f[i + 1] && e[i + 2] === f[i + 2]) continue
    result.changed++
    if (ea !== fa) {
      const error = Math.abs(ea - fa)
      alpha.changed++
      alpha.sum += error
      alpha.squares += error * error
      if (error > alpha.max) alpha.max = error
      if (ea === 0) alpha.clearLost++
      if (ea === full) alpha.solidLost++
    }
    if (!visible && clearHasNoColour) {
      result.changedUnderClear++
      continue
    }
    const picture = [pictureAt(p % width, Math.floor(p / width), 0), pictureAt(p % width, Math.floor(p / width), 1), pictureAt(p % width, Math.floor(p / width), 2)] as const
    const difference = differenceAt(expected, found, i, [[0, 0, 0], [1, 1, 1], [GREY, GREY, GREY], opposite, picture], lab)
    colour.sum += difference
    if (difference > colour.max) colour.max = difference
    colour.bins[Math.min(BINS, Math.floor(difference / BIN))]!++
    edges ??= edgeMap(e, width, height, full)
    if (edges[p]) {
      edge.sum += difference
      if (difference > edge.max) edge.max = difference
    }
  }
  if (edges) for (const near of edges) edge.pixels += near
  if (colour.max > 1 || alpha.max > full / 255) result.explanations = explain(expected, found, kernels)
  return result
}
