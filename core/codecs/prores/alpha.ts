/** The alpha plane of a ProRes frame at its full depth (SMPTE RDD 36, 7.1.2): coded apart from colour, and without loss. */
import { unreadable } from '../../errors'
import type { AlphaSlice, Kernels } from '../../kernels/kernels'
import { parseFrame, placeSlices, type ParsedFrame } from './frame'

/**
 * Alpha codes of a frame, one a pixel, scaled to 16 bits; null when the frame has none. Rejects interlaced frames and
 * damaged ones with an error that names `file` and `place`.
 */
export function decodeAlpha(
  data: Uint8Array,
  kernels: Kernels,
  file: string,
  place: string,
  frame: ParsedFrame = parseFrame(data, file, place)
): Uint16Array | null {
  if (!frame.alphaBits) return null
  if (frame.interlaced) throw unreadable(file, place, 'the frame is interlaced; its alpha is not read yet')
  const fail = ({ x, y }: AlphaSlice): Error => unreadable(file, place, `the alpha at pixel ${x}, ${y} is damaged`)
  const slices = placeSlices(data, frame, file, place).map((slice): AlphaSlice => {
    const { offset, size } = slice
    const header = data[offset]! >> 3
    if (size < 8 || header < 8) throw fail(slice)
    const colour = [2, 4, 6].reduce((sum, at) => sum + ((data[offset + at]! << 8) | data[offset + at + 1]!), header)
    if (colour >= size) throw fail(slice)
    return { ...slice, offset: offset + colour, size: size - colour }
  })
  const plane = kernels.proresAlpha(data, slices, frame.width, frame.height, frame.alphaBits === 16 ? 16 : 8)
  if (typeof plane === 'number') throw fail(slices[plane]!)
  return plane
}
