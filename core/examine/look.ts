/** Looking at one frame: everything a later judgement needs, small enough to travel and to be summed over the clip. */
import { codesToHex, type HexColour } from '../colour'
import { withDepth } from '../frame/depth'
import type { Frame } from '../frame/frame'
import type { Kernels, Triples } from '../kernels/kernels'
import { latticeOf } from './fades'
import { readPlane, type Plane } from './plane'

export interface Look {
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
  /** The commonest colour of the border, the share of all pixels that have exactly it with full alpha, and the border's mean. */
  border: { colour: HexColour; share: number; mean: HexColour }
  /** How triples of pixels vote on the mode; none where there is no alpha. */
  triples: Triples | null
  /** Stored codes at a lattice of places, to see what they do over time. */
  lattice: Uint16Array
  plane: Plane
  /** Equal for equal frames; see `Kernels.fingerprint`. */
  fingerprint: string
}

/** The commonest exact colour of the outermost pixels, and how much of the picture is exactly that and solid. */
function borderColour(samples: Uint16Array, width: number, height: number, kernels: Kernels): Look['border'] {
  const counts = new Map<number, { at: number; count: number }>()
  const sums: [number, number, number] = [0, 0, 0]
  const visit = (x: number, y: number): void => {
    const at = 4 * (y * width + x)
    for (let c = 0; c < 3; c++) sums[c]! += samples[at + c]!
    const key = samples[at]! + samples[at + 1]! * 65536 + samples[at + 2]! * 4294967296
    const entry = counts.get(key)
    if (entry) entry.count++
    else counts.set(key, { at, count: 1 })
  }
  for (let x = 0; x < width; x++) {
    visit(x, 0)
    visit(x, height - 1)
  }
  for (let y = 0; y < height; y++) {
    visit(0, y)
    visit(width - 1, y)
  }
  let best = { at: 0, count: 0 }
  for (const entry of counts.values()) if (entry.count > best.count) best = entry
  const [r, g, b] = [samples[best.at]!, samples[best.at + 1]!, samples[best.at + 2]!]
  return {
    colour: codesToHex([r / 257, g / 257, b / 257]),
    share: kernels.countSame(samples, [r, g, b, 65535]) / (width * height),
    mean: codesToHex(sums.map(sum => sum / 257 / (2 * (width + height))) as [number, number, number])
  }
}

/** Examines one frame as it is stored. Float frames are looked at as 16-bit codes. Time and memory are linear in its pixels. */
export function lookAt(frame: Frame, kernels: Kernels): Look {
  const { width, height } = frame
  const wide = withDepth(frame, 16, kernels)
  const samples = wide.samples as Uint16Array
  const counts = kernels.look(samples)
  const { clear, solid } = counts
  return {
    width,
    height,
    histogram: [...counts.histogram],
    clear,
    solid,
    partial: width * height - clear - solid,
    least: counts.least / 65535,
    most: counts.most / 65535,
    levels: counts.levels,
    fine: counts.fine,
    excess: counts.excess,
    border: borderColour(samples, width, height, kernels),
    triples: frame.alpha.mode === 'none' ? null : kernels.triples(samples, width, height),
    lattice: latticeOf(wide),
    plane: readPlane(wide),
    fingerprint: kernels.fingerprint(samples)
  }
}
