/** Planes of 8 bits, plainly: neighbours one by one, and codes bit by bit. */
import type { PlanarPart, PlanarTable, PlanarWay } from '../../core/frame/kernels/coded'
import type { FrameSize } from '../../core/frame/kernels/kernels'
import { Bits, unpackSymbols } from '../../core/media/codecs/planar/huffman'
import { fromDistances, undoMedian } from '../../core/media/codecs/planar/predict'

const middleOf = (a: number, b: number, c: number): number => [a, b, c].sort((x, y) => x - y)[1]!

/** What each sample differs by from the median of its neighbours. */
function differences(plane: Uint8Array, width: number, { start, lines }: PlanarWay): Uint8Array {
  return plane.map((value, i) => {
    if (i === 0) return value - start
    if (i < width) return value - plane[i - 1]!
    if (i === width || (lines && i % width === 0)) return value - plane[i - width]!
    const [left, above, corner] = [plane[i - 1]!, plane[i - width]!, plane[i - width - 1]!]
    return value - middleOf(left, above, (left + above - corner) & 255)
  })
}

export function planarSplit(
  samples: Uint8Array,
  { width, height }: FrameSize,
  { alpha, tops, way }: { alpha: boolean; tops: readonly number[]; way: PlanarWay }
): PlanarPart[] {
  const at = (i: number, c: number): number => samples[4 * i + c]!
  const plane = (value: (i: number) => number): Uint8Array =>
    Uint8Array.from({ length: width * height }, (_, i) => value(i))
  const planes = [
    plane(i => at(i, 1)),
    plane(i => at(i, 2) - at(i, 1) + way.start),
    plane(i => at(i, 0) - at(i, 1) + way.start),
    ...(alpha ? [plane(i => at(i, 3))] : [])
  ]
  return planes.map(whole => {
    const values = new Uint8Array(whole.length)
    for (const [n, top] of tops.entries())
      values.set(differences(whole.slice(top * width, (tops[n + 1] ?? height) * width), width, way), top * width)
    const counts = new Uint32Array(256)
    for (const value of values) counts[value]!++
    return { values, counts }
  })
}

export function planarCode(values: Uint8Array, codes: BigUint64Array, way: Pick<PlanarWay, 'words'>): Uint8Array {
  const parts = [...values].map(value => {
    const length = Number(codes[value]! >> 32n)
    return (codes[value]! & 0xffffffffn)
      .toString(2)
      .padStart(length, '0')
      .slice(length ? -length : 32)
  })
  const bits = parts.join('')
  const words = Math.ceil(bits.length / 32)
  const out = new DataView(new ArrayBuffer(4 * words))
  for (let n = 0; n < words; n++)
    out.setUint32(4 * n, parseInt(bits.slice(32 * n, 32 * n + 32).padEnd(32, '0'), 2), way.words)
  return new Uint8Array(out.buffer)
}

export function planarDecode(
  bytes: Uint8Array,
  table: PlanarTable,
  { count, width, median, way }: { count: number; width: number; median: boolean; way: PlanarWay }
): Uint8Array | null {
  const out = new Uint8Array(count)
  if (!unpackSymbols(new Bits(bytes, way.words), table, out)) return null
  if (median) undoMedian(out, width, way.start, !way.lines)
  return out
}

export const planarJoin = (planes: readonly Uint8Array[], { start }: Pick<PlanarWay, 'start'>): Uint8Array =>
  fromDistances(planes, start)
