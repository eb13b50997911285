/** Binds the kernels that take colour apart into foreground and background. All change the pixels they are given. */
import type { Triple } from '../../base/colour'
import type { ChromaHow, FrameSize, ScreenPlate } from './kernels'
import { waysFrom } from './terms'
import { BEYOND, type Room } from './wasm-room'

/** Lays the pixels into scratch memory, with `more` behind them, and takes them back as `run` leaves them. */
function inPlace(
  { exports, lay }: Room,
  rgba: Float32Array,
  more: readonly ArrayLike<number>[],
  run: (at: number, ...more: number[]) => void
): void {
  const [at, ...places] = lay(rgba.byteLength + BEYOND, ...more.map(values => 4 * values.length + BEYOND)) as [
    number,
    ...number[]
  ]
  const { buffer } = exports.memory
  const laid = new Float32Array(buffer, at, rgba.length)
  laid.set(rgba)
  for (const [n, values] of more.entries()) new Float32Array(buffer, places[n], values.length).set(values)
  run(at, ...places)
  rgba.set(laid)
}

/** See `Kernels.takeOut`. */
export function wasmTakeOut(room: Room, rgba: Float32Array, [r, g, b]: Triple): void {
  inPlace(room, rgba, [], at => room.exports.takeOut(at, rgba.length / 4, r, g, b))
}

/** See `Kernels.takeBackground`. */
export function wasmTakeBackground(room: Room, rgba: Float32Array, background: Triple, solid: number): void {
  const { up, down } = waysFrom(background, solid)
  const [r, g, b] = background
  inPlace(
    room,
    rgba,
    [
      [...up, 0],
      [...down, 0]
    ],
    (at, upAt, downAt) => room.exports.takeBackground({ at, n: rgba.length / 4, r, g, b, up: upAt!, down: downAt! })
  )
}

/** See `Kernels.chromaKey`. */
export function wasmChromaKey(
  room: Room,
  rgba: Float32Array,
  plate: Float32Array,
  { low, high, across, spill, lean, channel }: ChromaHow
): void {
  inPlace(room, rgba, [plate], (at, plateAt) =>
    room.exports.chromaKey({ at, plate: plateAt!, n: rgba.length / 4, low, high, across, spill, lean, channel })
  )
}

/** Bytes that the terms of a screen's surfaces take. */
export const SURFACES = 8 * 18

/** Lays a screen's colour where the kernels look for it; gives the place of its pixels, 0 where surfaces say it. */
export function layPlate(buffer: ArrayBuffer, plate: ScreenPlate, pixels: number, surfaces: number): number {
  new Float64Array(buffer, surfaces, 18).set('surfaces' in plate ? plate.surfaces.flat() : new Float64Array(18))
  if (!('rgba' in plate)) return 0
  new Float32Array(buffer, pixels, plate.rgba.length).set(plate.rgba)
  return pixels
}

/** See `Kernels.keyHue`. */
export function wasmKeyHue(
  { exports, lay }: Room,
  codes: Uint8Array | Uint16Array,
  plate: ScreenPlate,
  { width, height }: FrameSize,
  { low, high, across, spill, lean, channel }: ChromaHow
): Uint16Array {
  const given = 'rgba' in plate ? plate.rgba : null
  const [from, to, beneath, surfaces, row, under] = lay(
    codes.byteLength + BEYOND,
    2 * codes.length + BEYOND,
    given ? given.byteLength + BEYOND : 0,
    SURFACES,
    16 * width + BEYOND,
    16 * width + BEYOND
  ) as [number, number, number, number, number, number]
  const { buffer } = exports.memory
  const wide = codes instanceof Uint16Array ? 1 : 0
  const Codes = wide ? Uint16Array : Uint8Array
  new Codes(buffer, from, codes.length).set(codes)
  const screen = layPlate(buffer, plate, beneath, surfaces)
  const places = { from, wide, plate: screen, surfaces, width, height, to, row, under }
  exports.keyHue({ ...places, low, high, across, spill, lean, channel })
  return new Uint16Array(buffer, to, codes.length).slice()
}

/** See `Kernels.dither8`. */
export function wasmDither8(room: Room, rgba: Float32Array, first: number): void {
  inPlace(room, rgba, [], at => room.exports.dither8(at, rgba.length, first))
}
