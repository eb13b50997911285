/**
 * Straight float pictures, which steps compute on: coded values from 0 to 1, alpha full range, exact for 16-bit codes.
 */
import type { Triple } from '../base/colour'
import { hexAtDepth, type HexColour } from '../base/colour'
import { withAlphaMode } from '../frame/alpha'
import { withDepth } from '../frame/depth'
import { STRAIGHT, type Depth, type Frame } from '../frame/frame'
import { coded } from '../frame/transfer'
import type { Kernels } from '../frame/kernels/kernels'

/** A picture belongs to the step that is given it, which may write into it; pictures of other sources are only read. */
export interface Picture {
  readonly width: number
  readonly height: number
  /** RGBA interleaved. */
  readonly rgba: Float32Array
}

/**
 * A frame as steps see it. Light outside the alpha of a premultiplied frame goes beyond 1. `spare` is memory that may
 * be used for it.
 */
export function toPicture(frame: Frame, kernels: Kernels, spare: Float32Array | null = null): Picture {
  const lit = coded(frame, kernels)
  const reuse = spare?.length === lit.samples.length && !(lit.samples instanceof Float32Array)
  const wide: Frame = reuse
    ? { ...lit, depth: 32, samples: kernels.toFloats(lit.samples as Uint8Array | Uint16Array, spare) }
    : withDepth(lit, 32, kernels)
  const straight = wide.alpha.mode === 'premultiplied' ? withAlphaMode(wide, STRAIGHT, kernels) : wide
  // the frame may be kept by whoever made it
  const own = straight.samples === frame.samples ? straight.samples.slice() : straight.samples
  return { width: frame.width, height: frame.height, rgba: own as Float32Array }
}

/** Back to a frame of a depth, straight and coded. */
export function toFrame(picture: Picture, depth: Depth, kernels: Kernels): Frame {
  return withDepth(
    {
      width: picture.width,
      height: picture.height,
      depth: 32,
      samples: picture.rgba,
      alpha: STRAIGHT,
      transfer: 'srgb'
    },
    depth,
    kernels
  )
}

/** A colour's red, green and blue, 0 to 1. */
export const unit = (hex: HexColour): Triple => hexAtDepth(hex, 32)

/** The alpha of each pixel, 0 to 1. */
export function alphaOf({ rgba }: Picture): Float32Array {
  const alpha = new Float32Array(rgba.length / 4)
  for (let p = 0, i = 3; p < alpha.length; p++, i += 4) alpha[p] = rgba[i]!
  return alpha
}

/** The picture with this alpha in place of its own; its colour stays. */
export function withAlpha(picture: Picture, alpha: Float32Array): Picture {
  const { rgba } = picture
  for (let p = 0, i = 3; p < alpha.length; p++, i += 4) rgba[i] = alpha[p]!
  return picture
}

/** A copy with colour multiplied by alpha. */
export function multiplied(rgba: Float32Array): Float32Array {
  const result = new Float32Array(rgba.length)
  for (let i = 0; i < rgba.length; i += 4) {
    const a = rgba[i + 3]!
    if (a === 0) continue
    result[i] = rgba[i]! * a
    result[i + 1] = rgba[i + 1]! * a
    result[i + 2] = rgba[i + 2]! * a
    result[i + 3] = a
  }
  return result
}
