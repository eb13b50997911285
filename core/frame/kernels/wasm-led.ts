/** Binds the kernel that leads shared chroma by luma; see `tests/oracles/led.ts`, which defines it. */
import type { FrameSize, SharedChroma, Siting } from './kernels'
import { layPicture, takePicture, type PictureSamples } from './wasm-picture'
import { BEYOND, type Room } from './wasm-room'

/** As `Led` in assembly/led.ts numbers them. */
const NUMBER: Readonly<Record<Siting, number>> = { own: 0, repeated: 1, first: 2, middle: 3 }

/** See `Kernels.ledByLuma`. */
export function wasmLedByLuma(
  { exports, lay }: Room,
  samples: PictureSamples,
  { width, height, across, down }: FrameSize & SharedChroma
): Uint16Array | Float32Array {
  const ways = [NUMBER[across], NUMBER[down]] as const
  const floats = samples instanceof Float32Array
  const [asked, from, made, work] = lay(
    8 * 4,
    samples.byteLength + BEYOND,
    floats ? 0 : 2 * samples.length + BEYOND,
    exports.ledRoom(width, height, ...ways)
  ) as [number, number, number, number]
  const { buffer } = exports.memory
  const kind = layPicture(buffer, from, samples)
  const to = floats ? from : made
  new Uint32Array(buffer, asked, 8).set([from, kind, to, width, height, ...ways, work])
  exports.ledByLuma(asked)
  return takePicture(buffer, to, samples)
}
