/** Writing UtVideo: planes of RGB and alpha, predicted by medians, one code book a plane, in slices. */
import { concatenate } from '../../../base/files/bytes'
import type { PlanarPart } from '../../../frame/kernels/coded'
import type { Kernels } from '../../../frame/kernels/kernels'
import type { Coder } from '../codec'
import { ascending, codeLengths, codesOf } from '../planar/lengths'
import { WAY } from './way'

/** The numbers of the codec's configuration for RGB with alpha and without, after its version. */
const FORMER = { alpha: [0, 0, 2, 0x18], none: [0, 0, 1, 0x18] } as const

/** What stands behind the planes: that they are predicted by medians. */
const MEDIAN = [0, 3, 0, 0]

/** Slices of a picture: a reader's threads take one each. */
const slicesOf = (height: number): number => (height >= 64 ? 8 : 1)

/** The first row of each slice. */
const topsOf = (height: number): number[] =>
  Array.from({ length: slicesOf(height) }, (_, n) => Math.floor((height * n) / slicesOf(height)))

const u32 = (value: number): Uint8Array =>
  Uint8Array.of(value & 255, (value >>> 8) & 255, (value >>> 16) & 255, value >>> 24)

/** A plane: its code lengths, where each slice ends, and the slices. */
function packed({ values, counts }: PlanarPart, ends: readonly number[], kernels: Kernels): Uint8Array[] {
  const lengths = codeLengths(counts)
  const codes = codesOf(ascending(lengths))
  // a plane of one value needs no codes
  const alone = lengths.includes(0)
  const slices = ends.map((end, n) =>
    alone ? new Uint8Array(0) : kernels.planarCode(values.subarray(n ? ends[n - 1] : 0, end), codes, WAY)
  )
  let at = 0
  const places = slices.map(({ length }) => u32((at += length)))
  return [lengths, ...places, ...slices]
}

export const coder: Coder = {
  lossless: true,
  exactAlpha: true,
  depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
  options: {},
  entry({ alpha, height }) {
    const none = alpha.mode === 'none'
    const slices = slicesOf(height)
    return {
      code: none ? 'ULRG' : 'ULRA',
      name: 'UtVideo',
      depth: none ? 24 : 32,
      config: Uint8Array.of(0xf0, 0, 0, 1, ...FORMER[none ? 'none' : 'alpha'], 4, 0, 0, 0, 1, 0, 0, slices - 1)
    }
  },
  encode({ kernels }, { samples, width, height, alpha }) {
    const tops = topsOf(height)
    const ends = tops.map((_, n) => (tops[n + 1] ?? height) * width)
    const how = { alpha: alpha.mode !== 'none', tops, way: WAY }
    const planes = kernels.planarSplit(samples as Uint8Array, { width, height }, how)
    const parts = planes.flatMap(plane => packed(plane, ends, kernels))
    return Promise.resolve(concatenate([...parts, Uint8Array.from(MEDIAN)]))
  }
}
