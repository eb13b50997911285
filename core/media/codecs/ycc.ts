/** Y'CbCr pictures as planes, the matrices they are in, and what they are in RGB. */
import type { Frame } from '../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../frame/frame'
import { BT2020, BT601, BT709, type Weights } from '../../frame/weights'
import type { Kernels, YccPlanes } from '../../frame/kernels/kernels'
import type { Finding } from '../../source/source'
import type { PictureTrack } from '../containers/container'

/** Planes of limited range, as the kernel takes them, and alpha of 16 bits. */
export interface YccPicture extends Omit<YccPlanes, 'planeSize'> {
  alpha: Uint16Array | null
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

/** Planes of luma and two chromas one behind the other. */
export function inOne(planes: readonly Uint16Array[]): Uint16Array {
  const one = new Uint16Array(planes.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const plane of planes) {
    one.set(plane, at)
    at += plane.length
  }
  return one
}

/** The picture as RGBA of 16 bits. */
export function rgbOf({ alpha, ...picture }: YccPicture, weights: { kr: number; kb: number }, kernels: Kernels): Frame {
  const { planes, stride, width, height, half } = picture
  const rows = planes.length / (half ? stride + 2 * Math.ceil(stride / 2) : 3 * stride)
  const samples = kernels.yccToRgba({ ...picture, planeSize: stride * rows }, alpha, weights)
  return { width, height, depth: 16, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}
