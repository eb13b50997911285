/** The one list of steps. Adding a step is a constant in one of these files and a place here. */
import { wrongCall } from '../../base/errors'
import type { StepKind } from '../step'
import {
  fullRange,
  growAlpha,
  haze,
  invertAlpha,
  levels,
  opacity,
  softenAlpha,
  specks,
  steady,
  threshold,
  unmatteColour
} from './alpha'
import { chromaKey } from './chroma-key'
import { bringToSrgb, clearToBlack, edgeFill, flatten, mendValues, spill } from './colour'
import { depth } from './depth'
import { crop, fit, flip, pad, place, progressive, rotate, scale, squarePixels, turn, fill, stretch } from './frame'
import { difference, drawnMask, flatBackground, glow, lumaKey, matteFrom, shadow, subjectAndShadow } from './pull'
import { closeLoop, convertRate, dropLast, hold, pingPong, range, readRate, repeat, reverse, sound } from './time'

export const stepKinds: readonly StepKind[] = [
  chromaKey,
  lumaKey,
  glow,
  shadow,
  subjectAndShadow,
  difference,
  flatBackground,
  matteFrom,
  drawnMask,
  unmatteColour,
  levels,
  invertAlpha,
  threshold,
  fullRange,
  specks,
  haze,
  growAlpha,
  softenAlpha,
  opacity,
  steady,
  edgeFill,
  clearToBlack,
  spill,
  bringToSrgb,
  mendValues,
  flatten,
  crop,
  pad,
  fit,
  fill,
  stretch,
  scale,
  squarePixels,
  place,
  rotate,
  turn,
  flip,
  progressive,
  range,
  readRate,
  convertRate,
  reverse,
  dropLast,
  closeLoop,
  repeat,
  pingPong,
  hold,
  sound,
  depth
]

/** The kind of step of this id. Throws a clear error where there is none. */
export function stepKindById(id: string): StepKind {
  const kind = stepKinds.find(k => k.id === id)
  if (!kind) throw wrongCall(`there is no step "${id}"; the steps are ${stepKinds.map(k => k.id).join(', ')}`)
  return kind
}
