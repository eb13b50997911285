/** Binds the kernel that lets triples of pixels vote. */
import type { Triples } from './kernels'
import type { Room } from './wasm-room'

/** Bytes that the kernel works in. */
export const triplesRoom = (width: number, height: number): number =>
  2 * (width + 40) + 2 * (width + 8) * ((height >> 1) + 1) + 64

/** See `Kernels.triples`. */
export function wasmTriples(
  { exports, lay }: Room,
  { samples, width, height, marks }: { samples: Uint16Array; width: number; height: number; marks: Uint8Array | null }
): Triples {
  const pixels = width * height
  const [from, plane, out, intercepts, bins, marked, work] = lay(
    samples.byteLength + 64,
    2 * pixels + 64,
    128,
    3072,
    3072,
    marks ? pixels : 0,
    triplesRoom(width, height)
  ) as [number, number, number, number, number, number, number]
  const { buffer } = exports.memory
  new Uint16Array(buffer, from, samples.length).set(samples)
  for (const [at, length] of [
    [out, 128],
    [intercepts, 3072],
    [bins, 3072],
    [marked, marks ? pixels : 0]
  ] as const)
    new Uint8Array(buffer, at, length).fill(0)
  exports.alphaOf(from, plane, pixels)
  exports.triples({
    from,
    plane,
    width,
    height,
    top: 0,
    bottom: height,
    out,
    intercepts,
    bins,
    marks: marks ? marked : 0,
    work,
    narrow: 0
  })
  marks?.set(new Uint8Array(buffer, marked, pixels))
  return triplesFrom(buffer, out, intercepts)
}

/** What the kernel counted, from its places in memory. */
export function triplesFrom(buffer: ArrayBuffer, out: number, intercepts: number): Triples {
  const n = [...new Int32Array(buffer, out, 25)] as number[]
  const at = (place: number): number => n[place]!
  return {
    straight: at(0),
    premultiplied: at(1),
    twice: at(2),
    rims: [at(3), at(4)],
    slopes: { matte: [at(5), at(6)], black: [at(7), at(8)], white: [at(9), at(10)] },
    intercepts: new Uint32Array(buffer.slice(intercepts, intercepts + 3072)),
    above: at(11),
    below: at(12),
    clear: at(13),
    matte: [at(14), at(15), at(16)],
    deep: at(17),
    deepAbove: at(18),
    deepBelow: at(19),
    alike: at(20),
    clearOff: at(21),
    torn: at(22),
    joined: at(23),
    asked: at(24)
  }
}
