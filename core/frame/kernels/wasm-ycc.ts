/** Binds the kernels of Y'CbCr. */
import type { YccPlanes } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** Planes where they lie in memory, `stride` codes of luma a row; of half the columns where there is room to widen. */
export interface YccLaid {
  planes: readonly [number, number, number]
  planeSize: number
  stride: number
  width: number
  height: number
  bits: number
  /** Room for both chromas as wide as luma, of `yccRoom` each; null where they are. */
  wide: readonly [number, number] | null
  /** Alpha of 16 bits, or 0. */
  alpha: number
  to: number
}

/** Bytes of chroma as wide as luma. */
export const yccRoom = (planeSize: number): number => 2 * planeSize + BEYOND

/** RGBA of 16 bits at `to`, which has 32 bytes more than that takes. Planes are no longer what they were. */
export function laidToRgba({ exports }: Room, laid: YccLaid, { kr, kb }: { kr: number; kb: number }): void {
  const { planes, planeSize, stride, width, height, bits, wide, alpha: as, to } = laid
  const [ys, ...chroma] = planes
  const shift = 12 - bits
  if (shift) for (const plane of wide ? [ys] : planes) exports.yccDeepen(plane, planeSize, shift)
  const [us, vs] = wide ?? chroma
  if (wide)
    for (const [n, half] of chroma.entries())
      exports.yccWiden({ half, from: Math.ceil(stride / 2), width, height, shift, to: wide[n]!, stride })
  exports.yccToRgba({ ys, us, vs, as, stride, width, height, kr, kb, to })
}

/** See `Kernels.yccToRgba`. */
export function wasmYccToRgba(
  room: Room,
  { planes, stride, planeSize, width, height, bits = 12, half = false }: YccPlanes,
  alpha: Uint16Array | null,
  weights: { kr: number; kb: number }
): Uint16Array {
  const size = width * height * 8
  const chroma = half ? (planeSize / stride) * Math.ceil(stride / 2) : planeSize
  const colour = planes.subarray(0, planeSize + 2 * chroma)
  const wide = half ? yccRoom(planeSize) : 0
  const [from, as, blue, red, to] = room.lay(
    colour.byteLength + BEYOND,
    alpha?.byteLength ?? 0,
    wide,
    wide,
    size + 32
  ) as [number, number, number, number, number]
  const memory = room.exports.memory.buffer
  new Uint16Array(memory, from, colour.length).set(colour)
  if (alpha) new Uint16Array(memory, as, alpha.length).set(alpha)
  const laid: YccLaid = {
    planes: [from, from + 2 * planeSize, from + 2 * (planeSize + chroma)],
    planeSize,
    stride,
    width,
    height,
    bits,
    wide: half ? [blue, red] : null,
    alpha: alpha ? as : 0,
    to
  }
  laidToRgba(room, laid, weights)
  return new Uint16Array(room.take(to, size).buffer)
}
