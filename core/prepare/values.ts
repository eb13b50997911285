/** Straight, coded values as they come: codes, or floats of 0 to 1. */
import { fullCode, type Frame } from '../frame/frame'
import type { Picture } from './picture'

export interface Values {
  width: number
  height: number
  /** RGBA interleaved. */
  samples: Uint8Array | Uint16Array | Float32Array
  /** What makes 0 to 1 of a sample. */
  unit: number
}

/** A frame's samples as values, whatever their depth. */
export const valuesOfFrame = ({ width, height, samples, depth }: Frame): Values => ({
  width,
  height,
  samples,
  unit: 1 / fullCode(depth)
})

/** A picture's floats as values. */
export const valuesOf = ({ width, height, rgba }: Picture): Values => ({ width, height, samples: rgba, unit: 1 })
