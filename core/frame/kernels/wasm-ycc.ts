/** Binds the kernels of Y'CbCr. */
import type { YccPlanes } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** See `Kernels.yccToRgba`. */
export function wasmYccToRgba(
  { exports, lay, take }: Room,
  { planes, stride, planeSize, width, height, bits = 12, half = false }: YccPlanes,
  alpha: Uint16Array | null,
  { kr, kb }: { kr: number; kb: number }
): Uint16Array {
  const size = width * height * 8
  const row = half ? Math.ceil(stride / 2) : stride
  const chroma = half ? (planeSize / stride) * row : planeSize
  const colour = planes.subarray(0, planeSize + 2 * chroma)
  const wide = half ? 2 * planeSize + BEYOND : 0
  const [from, as, blue, red, to] = lay(colour.byteLength + BEYOND, alpha?.byteLength ?? 0, wide, wide, size + 32) as [
    number,
    number,
    number,
    number,
    number
  ]
  const memory = exports.memory.buffer
  new Uint16Array(memory, from, colour.length).set(colour)
  if (alpha) new Uint16Array(memory, as, alpha.length).set(alpha)
  const [first, second] = [from + 2 * planeSize, from + 2 * (planeSize + chroma)]
  const shift = 12 - bits
  if (shift) exports.yccDeepen(from, half ? planeSize : colour.length, shift)
  if (half)
    for (const [given, whole] of [
      [first, blue],
      [second, red]
    ] as const)
      exports.yccWiden({ half: given, from: row, width, height, shift, to: whole, stride })
  exports.yccToRgba({
    ys: from,
    us: half ? blue : first,
    vs: half ? red : second,
    as: alpha ? as : 0,
    stride,
    width,
    height,
    kr,
    kb,
    to
  })
  return new Uint16Array(take(to, size).buffer)
}
