/** What a preparation and a recipe do to the pixels of a frame, counted in workers and added up over the clip. */
import type { Form } from '../../media/formats/form'
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import { STRAIGHT, type Frame } from '../../frame/frame'
import { coded, toLinearLight } from '../../frame/transfer'
import { BIN, type Kernels } from '../../frame/kernels/kernels'
import { inTransferOf, storedFrame } from '../../media/carriage/stored'
import { compareFrames } from '../proof/compare'
import { THRESHOLDS } from '../proof/thresholds'
import { lightFigures, type LightFigures } from './light'
import { stepKindById } from '../../prepare/kinds'
import type { Step } from '../../prepare/preparation'
import type { StepKind } from '../../prepare/step'

/**
 * What one step changed, in pixels: of all, those whose alpha changed, those whose colour did, and those of what is
 * seen that it cut off.
 */
export interface StepFigures {
  pixels: number
  alpha: number
  colour: number
  seen: number
  cutOff: number
  light: LightFigures
}

export interface RecipeFigures {
  /** One bit for each alpha code of 16 bits that occurs, before and after. */
  before: Uint8Array
  after: Uint8Array
  /** Pixels that are partly clear before and not after. */
  hardened: number
  partial: number
  /**
   * Largest alpha error in codes of 255; colour in CIEDE2000: the mean, and how many of the visible pixels lie too far
   * off.
   */
  alphaMax: number
  colourSum: number
  colourFar: number
  visible: number
  changed: number
  /**
   * Of float made into integer codes: pixels seen whose colour lies beyond white or below black, and the brightest, in
   * linear light.
   */
  clipped: number
  brightest: number
}

/** Steps that work on one frame, and so can be measured by it. */
export const stillSteps = (steps: readonly Step[]): Step[] =>
  steps.filter(step => step.on && !stepKindById(step.kind).order)

/** Half a code of 255, and alpha that is hardly there, in codes of 16 bits. */
const HALF = 128
const HARDLY = Math.round(0.02 * 65535)

const straight16 = (frame: Frame, kernels: Kernels): Uint16Array =>
  withDepth(withAlphaMode(coded(frame, kernels), STRAIGHT, kernels), 16, kernels).samples as Uint16Array

/** What a step made of a frame. Frames of another size are asked only how much of what was seen is gone. */
export function stepFigures(before: Frame, after: Frame, kind: StepKind, kernels: Kernels): StepFigures {
  const [from, to] = [straight16(before, kernels), straight16(after, kernels)]
  const figures: StepFigures = {
    pixels: after.width * after.height,
    alpha: 0,
    colour: 0,
    seen: 0,
    cutOff: 0,
    light: lightFigures(before, after, kind.group !== 'Frame')
  }
  for (let i = 3; i < from.length; i += 4) if (from[i]! > HARDLY) figures.seen++
  if (from.length !== to.length || before.width !== after.width) {
    if (!kind.crops) return figures
    let kept = 0
    for (let i = 3; i < to.length; i += 4) if (to[i]! > HARDLY) kept++
    return { ...figures, cutOff: Math.max(0, figures.seen - kept) }
  }
  for (let i = 0; i < from.length; i += 4) {
    const [a, b] = [from[i + 3]!, to[i + 3]!]
    if (Math.abs(a - b) > HALF) figures.alpha++
    for (let c = 0; c < 3; c++) {
      if (Math.abs(from[i + c]! - to[i + c]!) * Math.min(a, b) <= HALF * 65535) continue
      figures.colour++
      break
    }
  }
  return figures
}

/** Whether a form may hold less of a frame's colour than float does, whatever becomes of its alpha. */
const narrows = (form: Form, bits: number): boolean => bits === 32 && form.depth < 32 && form.content.kind !== 'alpha'

/** Whether a form's alpha and colour can be held against those of the source, pixel for pixel. */
export const comparable = (form: Form): boolean => form.content.kind === 'whole' && form.alpha.mode !== 'none'

/** Whether a recipe may change what is seen, so that it is worth measuring. `bits` are those of the source. */
export function mayChange(form: Form, bits: number, premultiplied: boolean): boolean {
  if (narrows(form, bits)) return true
  if (!comparable(form)) return false
  return (
    form.cut !== null ||
    form.depth < bits ||
    (form.half && bits === 16) ||
    form.alphaBits < bits ||
    (form.bits ?? bits) < bits ||
    (premultiplied && form.alpha.mode === 'straight')
  )
}

/**
 * Colour may stray by so much beyond white for rounding, and faint pixels by much more, as it is divided by their
 * alpha.
 */
const WHITE = 1.002
const FAINT = 0.02

/** Pixels that integer codes cannot hold, as they would be stored. */
function beyondCodes(frame: Frame, form: Form, kernels: Kernels): Pick<RecipeFigures, 'clipped' | 'brightest'> {
  const found = { clipped: 0, brightest: 0 }
  if (!narrows(form, frame.depth)) return found
  const { samples } = storedFrame(frame, { ...form, depth: 32, half: false, cut: null }, kernels)
  for (let i = 0; i < samples.length; i += 4) {
    if (frame.samples[i + 3]! < FAINT) continue
    const [r, g, b] = [samples[i]!, samples[i + 1]!, samples[i + 2]!]
    const most = Math.max(r, g, b)
    if (most <= WHITE && Math.min(r, g, b) >= 1 - WHITE) continue
    found.clipped++
    found.brightest = Math.max(found.brightest, toLinearLight(most))
  }
  return found
}

/** What a form makes of a frame that is as prepared. */
export function recipeFigures(frame: Frame, form: Form, kernels: Kernels): RecipeFigures {
  // floats came from half floats mostly, and are no fewer for it; codes of 16 bits are
  const due = storedFrame(frame, { ...form, half: form.half && frame.depth !== 32 }, kernels)
  // codes of another curve are held against what they mean, not against what the same codes of sRGB would
  // and in the file's mode, for what is brighter than white is cut off otherwise when it is multiplied
  const meant = form.curve ? withAlphaMode(inTransferOf(form, frame, kernels), form.alpha, kernels) : frame
  const whole = withDepth(coded(meant, kernels), 16, kernels)
  const made = withDepth(coded(due, kernels), 16, kernels)
  const [from, to] = [whole.samples as Uint16Array, made.samples as Uint16Array]
  const [before, after] = [kernels.look(from), kernels.look(to)]
  const compared = compareFrames(whole, made, kernels)
  let hardened = 0
  for (let i = 3; i < from.length; i += 4) {
    const [a, b] = [from[i]!, to[i]!]
    if (a > 0 && a < 65535 && (b === 0 || b === 65535) && Math.abs(a - b) > 257) hardened++
  }
  const first = Math.round(THRESHOLDS.colourHigh / BIN)
  let colourFar = 0
  compared.colour.bins.forEach((count, bin) => (colourFar += bin >= first ? count : 0))
  return {
    before: before.levels,
    after: after.levels,
    hardened,
    partial: from.length / 4 - before.clear - before.solid,
    alphaMax: compared.alpha.max / 257,
    colourSum: compared.colour.sum,
    colourFar,
    visible: compared.colour.visible,
    changed: compared.changed,
    ...beyondCodes(frame, form, kernels)
  }
}

/** Bits that are set. */
export function levelsIn(levels: Uint8Array): number {
  let count = 0
  for (let byte of levels) for (; byte; byte &= byte - 1) count++
  return count
}
