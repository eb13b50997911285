/** Y'CbCr pictures of any sampling as planes of 12 bits, and what they are in RGB. */
import type { Frame } from '../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../frame/frame'
import { BT2020, BT601, BT709, type Weights } from '../../frame/weights'
import type { Kernels } from '../../frame/kernels/kernels'

/**
 * Three planes of limited range, 12 bits a sample, one behind the other, each `stride` samples a row; and alpha of 16
 * bits.
 */
export interface YccPicture {
  planes: Uint16Array
  stride: number
  width: number
  height: number
  alpha: Uint16Array | null
}

/**
 * A plane of half the columns made as wide as the picture. Its samples lie on the even columns (ITU-R BT.601, BT.709);
 * between two of them lies their mean.
 */
export function spread(
  half: Uint16Array,
  to: Uint16Array,
  { width, height, from, into }: { width: number; height: number; from: number; into: number }
): void {
  const last = Math.ceil(width / 2) - 1
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const k = x >> 1
      const here = half[y * from + k]!
      to[y * into + x] = x & 1 ? (here + half[y * from + Math.min(k + 1, last)]! + 1) >> 1 : here
    }
  }
}

/** Luma weights by H.273 matrix code: BT.709, BT.601 (two codes), BT.2020. */
export const WEIGHTS: Readonly<Record<number, Weights & { name: string }>> = {
  1: { ...BT709, name: 'BT.709' },
  5: { ...BT601, name: 'BT.601' },
  6: { ...BT601, name: 'BT.601' },
  9: { ...BT2020, name: 'BT.2020' }
}

/** The weights that are usual for so many lines, where nothing says which. */
export const usualWeights = (height: number): Weights & { name: string } => WEIGHTS[height <= 576 ? 6 : 1]!

/** The picture as RGBA of 16 bits. */
export function rgbOf(
  { planes, stride, width, height, alpha }: YccPicture,
  weights: { kr: number; kb: number },
  kernels: Kernels
): Frame {
  const samples = kernels.yccToRgba({ planes, stride, planeSize: planes.length / 3, width, height }, alpha, weights)
  return { width, height, depth: 16, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}
