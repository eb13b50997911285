/**
 * PIZ of OpenEXR: values that occur are numbered, planes go through the wavelet, and the whole through Huffman coding.
 * Exact.
 *
 * u16 first and u16 last byte of the map of values that has bits, those bytes of the map (bit n of byte m stands for
 * value 8m + n; zero is never marked), u32 bytes of Huffman data, the data
 */
import { huffmanPack, huffmanUnpack } from './huffman'
import { waveletApart, waveletJoin } from './wavelet'

const MAP_BYTES = 8192

/** The block's shape: 16-bit values in each pixel of each channel (1 for half, 2 for float and uint), and its size. */
export interface PizShape {
  each: readonly number[]
  width: number
  lines: number
}

/** Moves between the file's lines (all channels of a line, then the next line) and planes of one channel each. */
function regroup(from: Uint16Array, { each, width, lines }: PizShape, toPlanes: boolean): Uint16Array {
  const to = new Uint16Array(from.length)
  let inLines = 0
  for (let y = 0; y < lines; y++) {
    let plane = 0
    for (const size of each) {
      const run = width * size
      const inPlanes = plane + y * run
      const [source, target] = toPlanes ? [inLines, inPlanes] : [inPlanes, inLines]
      to.set(from.subarray(source, source + run), target)
      plane += run * lines
      inLines += run
    }
  }
  return to
}

function transform(
  values: Uint16Array,
  { each, width, lines }: PizShape,
  most: number,
  work: typeof waveletApart
): void {
  let start = 0
  for (const size of each) {
    for (let n = 0; n < size; n++)
      work({ values, start: start + n, width, height: lines, step: size, line: width * size }, most)
    start += width * size * lines
  }
}

/** Values marked in the map, and zero before them, in order. */
function valuesOf(map: Uint8Array): Uint16Array {
  const values = [0]
  for (let value = 1; value < 65536; value++) if (map[value >> 3]! & (1 << (value & 7))) values.push(value)
  return Uint16Array.from(values)
}

/** `raw` as the file would hold it unpacked: little-endian. */
export function packPiz(raw: Uint8Array, shape: PizShape): Uint8Array {
  const values = regroup(new Uint16Array(raw.slice().buffer), shape, true)
  const map = new Uint8Array(MAP_BYTES)
  for (const value of values) map[value >> 3]! |= 1 << (value & 7)
  map[0]! &= ~1
  const first = map.findIndex(byte => byte !== 0)
  const last = map.findLastIndex(byte => byte !== 0)
  const occurring = valuesOf(map)
  const numbers = new Uint16Array(65536)
  occurring.forEach((value, n) => (numbers[value] = n))
  for (let i = 0; i < values.length; i++) values[i] = numbers[values[i]!]!
  transform(values, shape, occurring.length - 1, waveletApart)
  const packed = huffmanPack(values)
  const marked = first < 0 ? new Uint8Array(0) : map.subarray(first, last + 1)
  const out = new Uint8Array(8 + marked.length + packed.length)
  const view = new DataView(out.buffer)
  view.setUint16(0, first < 0 ? MAP_BYTES - 1 : first, true)
  view.setUint16(2, first < 0 ? 0 : last, true)
  out.set(marked, 4)
  view.setUint32(4 + marked.length, packed.length, true)
  out.set(packed, 8 + marked.length)
  return out
}

/** `size` bytes as the file would hold them unpacked, or null when the data is damaged. */
export function unpackPiz(packed: Uint8Array, size: number, shape: PizShape): Uint8Array | null {
  if (packed.length < 8) return null
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength)
  const [first, last] = [view.getUint16(0, true), view.getUint16(2, true)]
  const map = new Uint8Array(MAP_BYTES)
  let at = 4
  if (first <= last) {
    if (last >= MAP_BYTES || at + last - first + 5 > packed.length) return null
    map.set(packed.subarray(at, at + last - first + 1), first)
    at += last - first + 1
  }
  const length = view.getUint32(at, true)
  if (length > packed.length - at - 4) return null
  const values = huffmanUnpack(packed.subarray(at + 4, at + 4 + length), size / 2)
  if (!values) return null
  const occurring = valuesOf(map)
  transform(values, shape, occurring.length - 1, waveletJoin)
  for (let i = 0; i < values.length; i++) values[i] = occurring[values[i]!] ?? 0
  return new Uint8Array(regroup(values, shape, false).buffer)
}
