/**
 * The alpha plane of a ProRes frame at its full depth (SMPTE RDD 36, 7.1.2): coded apart from colour, and without loss.
 */
import { unreadable } from '../../../base/errors'
import type { AlphaSlice, Kernels } from '../../../frame/kernels/kernels'
import { parseFrame, picturesOf, type ParsedFrame, type PlacedPicture } from './frame'

/**
 * Alpha codes of a frame, one a pixel, scaled to 16 bits; null when the frame has none. Fields are put line by line
 * between each other. Rejects damaged frames with an error that names `file` and `place`.
 */
export function decodeAlpha(
  data: Uint8Array,
  kernels: Kernels,
  file: string,
  place: string,
  frame: ParsedFrame = parseFrame(data, file, place)
): Uint16Array | null {
  const { alphaBits, width, height, fields } = frame
  if (!alphaBits) return null
  const pictures = picturesOf(data, frame, file, place)
  const planes = pictures.map(picture => planeOf(data, kernels, { width, bits: alphaBits, picture, file, place }))
  if (!fields) return planes[0]!
  const woven = new Uint16Array(width * height)
  planes.forEach((plane, n) => {
    const top = (n === 0) === (fields === 'top-first') ? 0 : 1
    for (let y = 0; 2 * y + top < height; y++)
      woven.set(plane.subarray(y * width, (y + 1) * width), (2 * y + top) * width)
  })
  return woven
}

interface Coded {
  width: number
  bits: 8 | 16
  picture: PlacedPicture
  file: string
  place: string
}

function planeOf(data: Uint8Array, kernels: Kernels, { width, bits, picture, file, place }: Coded): Uint16Array {
  const fail = ({ x, y }: AlphaSlice): Error => unreadable(file, place, `the alpha at pixel ${x}, ${y} is damaged`)
  const slices = picture.slices.map((slice): AlphaSlice => {
    const { offset, size } = slice
    const header = data[offset]! >> 3
    if (size < 8 || header < 8) throw fail(slice)
    const colour = [2, 4, 6].reduce((sum, at) => sum + ((data[offset + at]! << 8) | data[offset + at + 1]!), header)
    if (colour >= size) throw fail(slice)
    return { ...slice, offset: offset + colour, size: size - colour }
  })
  const plane = kernels.proresAlpha(data, slices, width, picture.height, bits)
  if (typeof plane === 'number') throw fail(slices[plane]!)
  return plane
}
