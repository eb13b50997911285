/** Binds the kernels that filter a plane and weigh pixels. */
import type { FrameSize, Taps } from './kernels'
import { discReach } from './terms'
import type { Room } from './wasm-room'

/** Rows that hold anything but zero, as first and end; both 0 where there is nothing. */
function usedRows(plane: Float32Array, width: number, height: number): [first: number, end: number] {
  let first = 0
  while (first < plane.length && plane[first] === 0) first++
  if (first === plane.length) return [0, 0]
  let last = plane.length - 1
  while (plane[last] === 0) last--
  return [Math.floor(first / width), Math.min(height, Math.floor(last / width) + 1)]
}

/** See `Kernels.blur`. Only the rows that anything reaches are gone through. */
export function wasmBlur(
  { exports, lay }: Room,
  plane: Float32Array,
  width: number,
  height: number,
  radius: number
): Float32Array {
  const result = new Float32Array(plane.length)
  const [used, usedEnd] = usedRows(plane, width, height)
  if (usedEnd === 0) return result
  const [top, end] = [Math.max(0, used - 3 * radius), Math.min(height, usedEnd + 3 * radius)]
  const rows = end - top
  const size = 4 * width * rows
  const [a, b, sums] = lay(size, size, 8 * (width + 2)) as [number, number, number]
  new Float32Array(exports.memory.buffer, a, width * rows).set(plane.subarray(top * width, end * width))
  exports.boxAcross(a, b, width, rows, radius)
  exports.boxAcross(b, a, width, rows, radius)
  exports.boxAcross(a, b, width, rows, radius)
  exports.boxDown({ from: b, to: a, width, height: rows, radius, sums })
  exports.boxDown({ from: a, to: b, width, height: rows, radius, sums })
  exports.boxDown({ from: b, to: a, width, height: rows, radius, sums })
  result.set(new Float32Array(exports.memory.buffer, a, width * rows), top * width)
  return result
}

/** See `Kernels.largest`. */
export function wasmLargest(
  { exports, lay }: Room,
  plane: Float32Array,
  width: number,
  height: number,
  radius: number
): Float32Array {
  const size = 4 * plane.length
  const [from, across, to, row] = lay(size, size, size, 4 * (width + 2 * radius + 8)) as [
    number,
    number,
    number,
    number
  ]
  const { buffer } = exports.memory
  new Float32Array(buffer, from, plane.length).set(plane)
  new Float32Array(buffer, to, plane.length).fill(0)
  let reach = -1
  for (let dy = 0; dy <= radius; dy++) {
    if (discReach(radius, dy) !== reach) {
      reach = discReach(radius, dy)
      exports.largestAcross({ from, to: across, width, height, reach, row })
    }
    const skip = dy * width
    if (skip >= plane.length) break
    exports.raise(to, across + 4 * skip, plane.length - skip)
    if (dy > 0) exports.raise(to + 4 * skip, across, plane.length - skip)
  }
  return new Float32Array(buffer.slice(to, to + size))
}

/** Rows that are weighed together. */
const BAND = 32

/** See `Kernels.resample`. Goes in bands, so that scratch memory does not grow with the picture. */
export function wasmResample(
  { exports, lay }: Room,
  rgba: Float32Array,
  { width, height }: FrameSize,
  across: Taps,
  down: Taps
): Float32Array {
  const [w, h] = [across.first.length, down.first.length]
  const narrow = new Float32Array(4 * w * height)
  {
    const [from, to, first, shares] = lay(
      16 * width * BAND,
      16 * w * BAND,
      across.first.byteLength,
      across.shares.byteLength
    ) as [number, number, number, number]
    const { buffer } = exports.memory
    new Int32Array(buffer, first, w).set(across.first)
    new Float32Array(buffer, shares, across.shares.length).set(across.shares)
    const [input, output] = [
      new Float32Array(buffer, from, 4 * width * BAND),
      new Float32Array(buffer, to, 4 * w * BAND)
    ]
    for (let y = 0; y < height; y += BAND) {
      const rows = Math.min(BAND, height - y)
      input.set(rgba.subarray(4 * y * width, 4 * (y + rows) * width))
      exports.weighAcross({ from, to, width, height: rows, places: w, first, shares, taps: across.count })
      narrow.set(output.subarray(0, 4 * w * rows), 4 * y * w)
    }
  }
  const result = new Float32Array(4 * w * h)
  const rowBytes = 16 * w
  // the rows that one band of the result is made from, each kept in the place of its number
  const kept = down.count + Math.ceil((BAND * height) / h) + 2
  const [from, to, list, shares] = lay(rowBytes * kept, rowBytes, 4 * down.count, down.shares.byteLength) as [
    number,
    number,
    number,
    number
  ]
  const { buffer } = exports.memory
  new Float32Array(buffer, shares, down.shares.length).set(down.shares)
  const [input, output, rows] = [
    new Float32Array(buffer, from, 4 * w * kept),
    new Float32Array(buffer, to, 4 * w),
    new Uint32Array(buffer, list, down.count)
  ]
  const holds = new Int32Array(kept).fill(-1)
  for (let n = 0; n < h; n++) {
    for (let k = 0; k < down.count; k++) {
      const y = Math.max(0, Math.min(height - 1, down.first[n]! + k))
      const slot = y % kept
      if (holds[slot] !== y) {
        input.set(narrow.subarray(4 * y * w, 4 * (y + 1) * w), 4 * slot * w)
        holds[slot] = y
      }
      rows[k] = from + slot * rowBytes
    }
    exports.weighRow(list, shares + 4 * n * down.count, down.count, w, to)
    result.set(output, 4 * n * w)
  }
  return result
}
