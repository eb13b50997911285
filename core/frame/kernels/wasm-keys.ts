/** Binds the kernels that take colour apart into foreground and background. All change the pixels they are given. */
import type { Triple } from '../../base/colour'
import type { ChromaHow, Extent, ScreenPlate } from './kernels'
import { waysFrom } from './plain-keys'

export interface KeyExports {
  memory: WebAssembly.Memory
  takeOut(at: number, pixels: number, r: number, g: number, b: number): void
  takeBackground(at: number, pixels: number, r: number, g: number, b: number, up: number, down: number): void
  chromaKey(
    at: number,
    plate: number,
    pixels: number,
    low: number,
    high: number,
    across: number,
    spill: number,
    lean: number,
    channel: number
  ): void
  keyHue(
    from: number,
    wide: number,
    plate: number,
    surfaces: number,
    width: number,
    height: number,
    to: number,
    row: number,
    under: number,
    low: number,
    high: number,
    across: number,
    spill: number,
    lean: number,
    channel: number
  ): void
  dither8(at: number, samples: number, first: number): void
}

type Lay = (...sizes: number[]) => number[]

/** Room for the vectors that a kernel reads and writes beyond the end. */
const BEYOND = 64

/** Lays the pixels into scratch memory, with `more` behind them, and takes them back as `run` leaves them. */
function inPlace(
  exports: KeyExports,
  lay: Lay,
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
export function wasmTakeOut(exports: KeyExports, lay: Lay, rgba: Float32Array, [r, g, b]: Triple): void {
  inPlace(exports, lay, rgba, [], at => exports.takeOut(at, rgba.length / 4, r, g, b))
}

/** See `Kernels.takeBackground`. */
export function wasmTakeBackground(
  exports: KeyExports,
  lay: Lay,
  rgba: Float32Array,
  background: Triple,
  solid: number
): void {
  const { up, down } = waysFrom(background, solid)
  inPlace(
    exports,
    lay,
    rgba,
    [
      [...up, 0],
      [...down, 0]
    ],
    (at, upAt, downAt) =>
      exports.takeBackground(at, rgba.length / 4, ...(background as [number, number, number]), upAt!, downAt!)
  )
}

/** See `Kernels.chromaKey`. */
export function wasmChromaKey(
  exports: KeyExports,
  lay: Lay,
  rgba: Float32Array,
  plate: Float32Array,
  { low, high, across, spill, lean, channel }: ChromaHow
): void {
  inPlace(exports, lay, rgba, [plate], (at, plateAt) =>
    exports.chromaKey(at, plateAt!, rgba.length / 4, low, high, across, spill, lean, channel)
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
  exports: KeyExports,
  lay: Lay,
  codes: Uint8Array | Uint16Array,
  plate: ScreenPlate,
  { width, height }: Extent,
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
  const places = [from, wide, screen, surfaces, width, height, to, row, under] as const
  exports.keyHue(...places, low, high, across, spill, lean, channel)
  return new Uint16Array(buffer, to, codes.length).slice()
}

/** See `Kernels.dither8`. */
export function wasmDither8(exports: KeyExports, lay: Lay, rgba: Float32Array, first: number): void {
  inPlace(exports, lay, rgba, [], at => exports.dither8(at, rgba.length, first))
}
