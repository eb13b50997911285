/**
 * B44 and B44A of OpenEXR: half channels in blocks of four by four, 14 bytes each, or 3 where all are alike; others as
 * they are. Lossy.
 */
import { fromHalf, toHalf } from './half'
import type { ChunkShape } from './chunk'

/** Logarithmic channels are coded by their exponent: a table of 8 log(x). */
let logs: Uint16Array | null = null
function logTable(): Uint16Array {
  if (logs) return logs
  logs = new Uint16Array(65536)
  for (let h = 0; h < 65536; h++) {
    const x = fromHalf(h)
    logs[h] = Number.isFinite(x) && x >= 0 ? toHalf(8 * Math.log(x)) : 0
  }
  return logs
}

/** Ordered codes as halves: the sign was turned so that they run from the least to the greatest. */
const asHalf = (ordered: number): number => (ordered & 0x8000 ? ordered & 0x7fff : ~ordered & 0xffff)

/** Sixteen halves of a block, row by row; gives the bytes it took. */
function block(packed: Uint8Array, at: number, out: Uint16Array): number {
  const first = (packed[at]! << 8) | packed[at + 1]!
  if (packed[at + 2]! >= 13 << 2) {
    out.fill(asHalf(first))
    return 3
  }
  const shift = packed[at + 2]! >> 2
  const bias = 0x20 << shift
  /** The nth step of six bits, behind the first value and the shift. */
  const step = (n: number): number => {
    const bit = 22 + 6 * n
    const b = at + (bit >> 3)
    return (((packed[b]! << 8) | (packed[b + 1] ?? 0)) >> (10 - (bit & 7))) & 63
  }
  const value = new Int32Array(16)
  value[0] = first
  let n = 0
  // down the first column, then each row's neighbour to the right, column by column
  for (let row = 1; row < 4; row++) value[4 * row] = (value[4 * row - 4]! + (step(n++) << shift) - bias) & 0xffff
  for (let column = 1; column < 4; column++)
    for (let row = 0; row < 4; row++)
      value[4 * row + column] = (value[4 * row + column - 1]! + (step(n++) << shift) - bias) & 0xffff
  for (let i = 0; i < 16; i++) out[i] = asHalf(value[i]!)
  return 14
}

/** The file's lines, or null when the data ends early. */
export function unpackB44(packed: Uint8Array, { channels, width, lines }: ChunkShape): Uint8Array | null {
  const lineBytes = width * channels.reduce((sum, { type }) => sum + (type === 1 ? 2 : 4), 0)
  const raw = new Uint8Array(lineBytes * lines)
  const view = new DataView(raw.buffer)
  const values = new Uint16Array(16)
  let at = 0
  let left = 0
  for (const { type, linear } of channels) {
    const bytes = width * (type === 1 ? 2 : 4)
    if (type !== 1) {
      if (at + bytes * lines > packed.length) return null
      for (let y = 0; y < lines; y++, at += bytes) raw.set(packed.subarray(at, at + bytes), y * lineBytes + left)
      left += bytes
      continue
    }
    for (let y = 0; y < lines; y += 4) {
      for (let x = 0; x < width; x += 4) {
        if (at + 3 > packed.length || (packed[at + 2]! < 13 << 2 && at + 14 > packed.length)) return null
        at += block(packed, at, values)
        if (linear) for (let i = 0; i < 16; i++) values[i] = logTable()[values[i]!]!
        for (let v = 0; v < 4 && y + v < lines; v++)
          for (let u = 0; u < 4 && x + u < width; u++)
            view.setUint16((y + v) * lineBytes + left + 2 * (x + u), values[4 * v + u]!, true)
      }
    }
    left += bytes
  }
  return raw
}
