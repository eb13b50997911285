/** Looking at one frame: everything a later judgement needs, small enough to travel and to be summed over the clip. */
import { codesToHex, type HexColour, type Triple } from '../../base/colour'
import { withDepth } from '../../frame/depth'
import type { Frame } from '../../frame/frame'
import { coded } from '../../frame/transfer'
import type { Kernels, Triples } from '../../frame/kernels/kernels'
import { brokenValues, type BrokenValues } from '../../frame/numbers'
import { latticeOf } from './fades'
import { readPlane, type AlphaFaults } from './plane'

export interface AlphaLook {
  width: number
  height: number
  /** Pixels by alpha, in 256 bins of the full range. */
  histogram: number[]
  clear: number
  partial: number
  solid: number
  /** Lowest and highest alpha, 0 to 1. */
  least: number
  most: number
  /** One bit for each alpha code of 16 bits (or of 8, times 257) that occurs. */
  levels: Uint8Array
  /** Samples of a 16-bit frame that are no 8-bit code times 257. */
  fine: number
  /** Pixels whose colour exceeds their alpha: impossible when premultiplied on black. */
  excess: number
  /**
   * The commonest colour of the border, the share of all pixels that have exactly it with full alpha, and the border's
   * mean.
   */
  border: { colour: HexColour; share: number; mean: HexColour }
  /** How triples of pixels vote on the mode; none where there is no alpha. */
  triples: Triples | null
  /** Stored codes at a lattice of places, to see what they do over time. */
  lattice: Uint16Array
  plane: AlphaFaults
  /** Equal for equal frames; see `Kernels.fingerprint`. */
  fingerprint: string
  /** Values that are no numbers, and alpha beyond its range; absent where all is well. */
  broken?: BrokenValues
}

interface Border {
  /** The commonest exact colour of the outermost pixels, and their mean, as codes of 16 bits. */
  commonest: [number, number, number]
  mean: [number, number, number]
}

function borderOf({ samples, width, height }: Frame): Border {
  const scale = samples instanceof Uint8Array ? 257 : 1
  const counts = new Map<number, { at: number; count: number }>()
  const sums: [number, number, number] = [0, 0, 0]
  let last = -1
  let entry = { at: 0, count: 0 }
  const visit = (x: number, y: number): void => {
    const at = 4 * (y * width + x)
    for (let c = 0; c < 3; c++) sums[c]! += scale * samples[at + c]!
    const key = samples[at]! + samples[at + 1]! * 65536 + samples[at + 2]! * 4294967296
    // most of a border is like its neighbour
    if (key !== last) {
      last = key
      entry = counts.get(key) ?? { at, count: 0 }
      if (entry.count === 0) counts.set(key, entry)
    }
    entry.count++
  }
  for (const y of [0, height - 1]) for (let x = 0; x < width; x++) visit(x, y)
  for (const x of [0, width - 1]) for (let y = 0; y < height; y++) visit(x, y)
  let best = { at: 0, count: 0 }
  for (const entry of counts.values()) if (entry.count > best.count) best = entry
  const three = (code: (c: number) => number): [number, number, number] => [code(0), code(1), code(2)]
  return {
    commonest: three(c => scale * samples[best.at + c]!),
    mean: three(c => sums[c]! / (2 * (width + height)))
  }
}

const hexOf = (codes: Triple): HexColour => codesToHex(codes.map(code => code / 257) as [number, number, number])

/** From here on a pixel is solid enough to say how bright the picture's colours are. */
const FIRM = 0.1

/**
 * A float frame whose colours go beyond white, brought down until the brightest that its own alpha carries is white;
 * null where none does. Edges mix the same whatever the scale, and light beyond white is no sign of how alpha is
 * stored; light beside alpha stays what it is.
 */
function dimmed(frame: Frame): Frame | null {
  const { samples } = frame
  if (!(samples instanceof Float32Array)) return null
  let most = 1
  for (let i = 0; i < samples.length; i += 4) {
    const alpha = samples[i + 3]!
    if (!(alpha >= FIRM)) continue
    const bright = Math.max(samples[i]!, samples[i + 1]!, samples[i + 2]!) / alpha
    if (bright > most && bright < Infinity) most = bright
  }
  if (most === 1) return null
  return { ...frame, samples: samples.map((value, i) => ((i & 3) === 3 ? value : value / most)) }
}

/**
 * Examines one frame as it is stored. Float frames are looked at as 16-bit codes. Time and memory are linear in its
 * pixels.
 */
export function lookAt(frame: Frame, kernels: Kernels): AlphaLook {
  const { width, height } = frame
  const pixels = width * height
  const codes = frame.samples instanceof Uint8Array ? frame : withDepth(frame, 16, kernels)
  const border = borderOf(codes)
  const dim = dimmed(frame)
  const { samples } = dim ? withDepth(dim, 16, kernels) : codes
  const { counts, same, fingerprint, alpha } = kernels.examine(samples as Uint8Array | Uint16Array, {
    width,
    height,
    same: [...border.commonest, 65535],
    alpha: frame.alpha.mode !== 'none'
  })
  const { clear, solid } = counts
  return {
    width,
    height,
    histogram: [...counts.histogram],
    clear,
    solid,
    partial: pixels - clear - solid,
    least: counts.least / 65535,
    most: counts.most / 65535,
    levels: counts.levels,
    fine: counts.fine,
    excess: counts.excess,
    border: { colour: hexOf(border.commonest), share: same / pixels, mean: hexOf(border.mean) },
    triples: alpha?.triples ?? null,
    // each frame is brought down by its own measure, so that nothing can be said over time
    lattice: dim ? new Uint16Array(latticeOf(codes).length) : latticeOf(codes),
    plane: readPlane(codes, alpha?.plane ?? null),
    fingerprint: dim ? kernels.fingerprint(frame.samples) : fingerprint
  }
}

/** Light from here on is seen where there is no alpha. */
const SEEN = 1 / 255

/** Pixels of floats that shine where there is no alpha at all. */
function shining({ samples, alpha }: Frame): number {
  if (!(samples instanceof Float32Array) || alpha.mode !== 'premultiplied') return 0
  let count = 0
  for (let i = 0; i < samples.length; i += 4)
    if (samples[i + 3] === 0 && (samples[i]! > SEEN || samples[i + 1]! > SEEN || samples[i + 2]! > SEEN)) count++
  return count
}

/**
 * Examines a frame as it came: its codes as a screen has them, and what those no longer show, light where there is no
 * alpha and values that are no numbers.
 */
export function lookAtStored(frame: Frame, kernels: Kernels): AlphaLook {
  const look = lookAt(coded(frame, kernels), kernels)
  const broken = brokenValues(frame)
  return { ...look, excess: look.excess + shining(frame), ...(broken ? { broken } : {}) }
}
