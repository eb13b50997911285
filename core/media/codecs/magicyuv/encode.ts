/** Writing MagicYUV: planes of RGB and alpha, predicted by medians, one code book a plane, in slices. */
import { concatenate } from '../../../base/files/bytes'
import type { Coder } from '../codec'
import { codeLengths, codesOf, upwards } from '../planar/lengths'
import { MEDIAN, WAY } from './way'

/** Its letters, as bytes. */
const MAGY = 0x4d414759
const HEAD = 32

/** Longest code: a table of twelve bits finds each at once. */
const LONGEST = 12

/** Rows of a slice: a reader's threads take one each. */
const rowsOf = (height: number): number => (height >= 64 ? Math.ceil(height / 8) : height)

/** The head of a packet, which the container keeps as well. */
function headOf({ width, height, alpha }: { width: number; height: number; alpha: boolean }): Uint8Array {
  const view = new DataView(new ArrayBuffer(HEAD))
  view.setUint32(0, MAGY)
  view.setUint32(4, HEAD, true)
  // version, layout, and two numbers that other writers have there
  for (const [i, byte] of [7, alpha ? 0x66 : 0x65, 12, 0, 0, 0, 32, 0].entries()) view.setUint8(8 + i, byte)
  for (const [i, value] of [width, height, width, rowsOf(height)].entries()) view.setUint32(16 + 4 * i, value, true)
  return new Uint8Array(view.buffer)
}

/** Code lengths of a plane, a byte for each run: of more than one the high bit, and how many follow. */
function runsOf(lengths: Uint8Array): Uint8Array {
  const runs: number[] = []
  for (let i = 0; i < lengths.length;) {
    let count = 1
    while (lengths[i + count] === lengths[i]) count++
    if (count > 1) runs.push(0x80 | lengths[i]!, count - 1)
    else runs.push(lengths[i]!)
    i += count
  }
  return Uint8Array.from(runs)
}

export const coder: Coder = {
  lossless: true,
  exactAlpha: true,
  depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
  options: {},
  entry({ alpha, width, height }) {
    const none = alpha.mode === 'none'
    return {
      code: none ? 'M8RG' : 'M8RA',
      name: 'MagicYUV',
      depth: none ? 24 : 32,
      config: headOf({ width, height, alpha: !none })
    }
  },
  encode({ kernels }, { samples, width, height, alpha }) {
    const has = alpha.mode !== 'none'
    const rows = rowsOf(height)
    const slices = Math.ceil(height / rows)
    const tops = Array.from({ length: slices }, (_, n) => n * rows)
    const split = kernels.planarSplit(samples as Uint8Array, { width, height }, { alpha: has, tops, way: WAY })
    const [green, blue, ...others] = split
    const planes = [blue!, green!, ...others]
    const books: Uint8Array[] = []
    const parts = planes.flatMap(({ values, counts }) => {
      // every value has a code, whether it occurs or not
      const lengths = codeLengths(
        counts.map(count => count + 1),
        LONGEST
      )
      const codes = codesOf(upwards(lengths))
      books.push(runsOf(lengths))
      return tops.map((top, n) => {
        const slice = values.subarray(top * width, (tops[n + 1] ?? height) * width)
        return concatenate([Uint8Array.of(0, MEDIAN), kernels.planarCode(slice, codes, WAY)])
      })
    })
    const order = planes.flatMap((_, plane) => tops.map((_, n) => n * planes.length + plane))
    const before = 4 * (parts.length + 1) + 1 + order.length + books.reduce((sum, { length }) => sum + length, 0)
    const starts = new DataView(new ArrayBuffer(4 * (parts.length + 1)))
    starts.setUint32(0, before, true)
    let at = before
    for (const [i, { length }] of parts.entries()) {
      starts.setUint32(4 * (i + 1), at, true)
      at += length
    }
    const head = headOf({ width, height, alpha: has })
    return Promise.resolve(
      concatenate([head, new Uint8Array(starts.buffer), Uint8Array.of(planes.length, ...order), ...books, ...parts])
    )
  }
}
