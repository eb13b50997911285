/** What a proof found of a delivery, and the figures of all its frames together. */
import type { AlphaAnswer } from '../examine/mode'
import type { Form } from '../../media/formats/form'
import type { Format } from '../../media/formats/format'
import type { SoundForm } from '../../source/sound'
import { type Rate } from '../../base/rate'
import type { Finding, SourceFacts } from '../../source/source'
import { BIN, BINS } from '../../frame/kernels/kernels'
import { codesOf, type FrameComparison } from './compare'
import type { SoundProof } from './sound'
import { THRESHOLDS } from './thresholds'

export interface Expectation extends Form {
  width: number
  height: number
  frames: number
  /** Null when the reference knows no rate, which then is not compared. */
  rate: Rate | null
  /** Bytes estimated before pouring, if they were. */
  bytes: number | null
  /** Whether alpha came as a key of its own, and so through the codec's colour. */
  paired?: boolean
  /** Times it should play, 0 for ever; left out where nothing was asked. */
  plays?: number | null
  /** Sound that was to go with it. */
  sound?: SoundForm | null
  moreSounds?: readonly SoundForm[]
  /** Whether none was asked for. */
  silent?: boolean
  /** Bytes it was to come to, where a size was asked for. */
  most?: number | null
}

export interface Evidence {
  expected: Expectation
  delivered: SourceFacts
  format: Format
  comparisons: FrameComparison[]
  /** Frames that could not be read or compared, and why. */
  failures: { frame: number; sentence: string }[]
  /** What the delivered pixels alone say of their mode. */
  answer: AlphaAnswer | null
  sha256: string | null
  /** Frames in the wrong place, alpha out of step, pictures shifted. */
  displaced?: readonly Finding[]
  /** What came of the sound, where any was to go with it. */
  sound?: SoundProof | null
}

export interface Totals {
  pixels: number
  changed: number
  underClear: number
  alphaMax: number
  alphaSum: number
  alphaSquares: number
  alphaChanged: number
  clearLost: number
  solidLost: number
  clear: number
  solid: number
  least: number
  most: number
  colourMax: number
  colourMean: number
  colourHigh: number
  edgeMax: number
  edgeMean: number
  fineDue: number
  fineFound: number
  histogram: { due: number[]; found: number[] }
}

/** Numbers, from 1, of the frames that were compared: of all, those that could be read. */
export function comparedFrames(compared: number, failures: Evidence['failures']): number[] {
  const failed = new Set(failures.map(({ frame }) => frame))
  return Array.from({ length: compared + failed.size }, (_, i) => i + 1).filter(frame => !failed.has(frame))
}

/** The comparisons of a clip's frames, added up; `full` is the highest code. */
export function totals(comparisons: readonly FrameComparison[], full: number): Totals {
  const sum = (pick: (c: FrameComparison) => number): number => comparisons.reduce((total, c) => total + pick(c), 0)
  const most = (pick: (c: FrameComparison) => number): number =>
    comparisons.reduce((top, c) => Math.max(top, pick(c)), 0)
  const visible = sum(c => c.colour.visible)
  const edgePixels = sum(c => c.edge.pixels)
  const bins = new Float64Array(BINS + 1)
  for (const { colour } of comparisons) colour.bins.forEach((count, i) => (bins[i]! += count))
  // pixels that are equal are not in the bins; they all lie at zero
  let above = visible * (1 - THRESHOLDS.colourShare)
  let high = 0
  for (let i = BINS; i >= 0; i--) {
    above -= bins[i]!
    if (above < 0) {
      high = (i + 1) * BIN
      break
    }
  }
  const histogram = (pick: (c: FrameComparison) => Uint32Array): number[] => {
    const total = new Float64Array(256)
    for (const c of comparisons) pick(c).forEach((count, i) => (total[i]! += count))
    return [...total]
  }
  return {
    histogram: { due: histogram(c => c.alpha.dueLevels), found: histogram(c => c.alpha.foundLevels) },
    fineDue: sum(c => c.fine.due),
    fineFound: sum(c => c.fine.found),
    pixels: sum(c => c.pixels),
    changed: sum(c => c.changed),
    underClear: sum(c => c.changedUnderClear),
    alphaMax: most(c => c.alpha.max),
    alphaSum: sum(c => c.alpha.sum),
    alphaSquares: sum(c => c.alpha.squares),
    alphaChanged: sum(c => c.alpha.changed),
    clearLost: sum(c => c.alpha.clearLost),
    solidLost: sum(c => c.alpha.solidLost),
    clear: sum(c => c.alpha.clear),
    solid: sum(c => c.alpha.solid),
    least: comparisons.reduce((low, c) => Math.min(low, c.alpha.foundLeast), full),
    most: most(c => c.alpha.foundMost),
    colourMax: most(c => c.colour.max),
    colourMean: visible ? sum(c => c.colour.sum) / visible : 0,
    colourHigh: Math.min(
      high,
      most(c => c.colour.max)
    ),
    edgeMax: most(c => c.edge.max),
    edgeMean: edgePixels ? sum(c => c.edge.sum) / edgePixels : 0
  }
}

/** Codes that alpha may be off by in a delivery of this format. */
export function alphaAllowed({ depth, paired }: Expectation, format: Format): number {
  return (paired ? format.lossless : format.exactAlpha)
    ? THRESHOLDS.alphaCodes
    : Math.max(THRESHOLDS.alphaCodes, THRESHOLDS.alphaLossy * codesOf(depth))
}
