/** Y'CbCr pictures of any sampling as planes of 12 bits, and what they are in RGB. */
import type { Frame } from '../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../frame/frame'
import { BT2020, BT601, BT709, type Weights } from '../../frame/weights'
import type { Kernels } from '../../frame/kernels/kernels'
import type { Finding } from '../../source/source'
import type { PictureTrack } from '../containers/container'

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

/** The weights of a film by what its container says, else those that are usual for its lines. */
export function weightsOf({
  colour,
  height
}: Pick<PictureTrack, 'colour' | 'height'>): Weights & { name: string; told: boolean } {
  const told = WEIGHTS[colour?.[2] ?? 0]
  return told ? { ...told, told: true } : { ...usualWeights(height), told: false }
}

/** What a film is said to be coloured by: its matrix where it is told; null where it is only taken to be. */
export const sayWeights = ({ name, told }: { name: string; told: boolean }): string | null =>
  told ? `${name}, limited range` : null

/** What to know of a film that says nothing of its matrix: which one is taken; nothing where it is told. */
export function untoldMatrix({ name, told }: { name: string; told: boolean }, lines: number): Finding[] {
  if (told) return []
  const sentence = `The film does not say which colour matrix it is in; ${name} is taken, as is usual for ${lines} lines.`
  return [{ id: 'colour-untagged', severity: 'note', frames: [], sentence }]
}

/** Planes of luma and two chromas as one, chroma of half the columns made as wide as luma; `stride` codes a line. */
export function wholePlanes(
  [luma, ...chroma]: readonly [Uint16Array, Uint16Array, Uint16Array],
  { width, height, stride, half }: { width: number; height: number; stride: number; half: boolean }
): Uint16Array {
  const size = stride * height
  const planes = new Uint16Array(3 * size)
  planes.set(luma.subarray(0, size))
  for (const [n, plane] of chroma.entries()) {
    const to = planes.subarray((n + 1) * size, (n + 2) * size)
    if (half) spread(plane, to, { width, height, from: stride / 2, into: stride })
    else to.set(plane.subarray(0, size))
  }
  return planes
}

/** The picture as RGBA of 16 bits. */
export function rgbOf(
  { planes, stride, width, height, alpha }: YccPicture,
  weights: { kr: number; kb: number },
  kernels: Kernels
): Frame {
  const samples = kernels.yccToRgba({ planes, stride, planeSize: planes.length / 3, width, height }, alpha, weights)
  return { width, height, depth: 16, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}
