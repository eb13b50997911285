/** Binds the kernel of VC-3; see `tests/oracles/vc3.ts`, which defines what its codes stand for. */
import type { Vc3Fault, Vc3Picture } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** Planes of a picture where they lie in memory; what comes after them is good until it is laid out anew. */
interface Laid {
  planes: readonly [number, number, number]
  /** For RGBA of so many pixels, where that was asked. */
  to: number
}

function decode({ exports, lay }: Room, packet: Uint8Array, picture: Vc3Picture, pixels: number): Laid | Vc3Fault {
  const { across, lines, bits, whole, more, codes, weights } = picture
  const [lumaWidth, height] = [16 * across, 16 * lines.length]
  const chromaWidth = whole ? lumaWidth : lumaWidth / 2
  const [from, book, parts, luma, first, second, to] = lay(
    packet.length + BEYOND,
    codes.byteLength,
    weights.byteLength,
    2 * lumaWidth * height,
    2 * chromaWidth * height,
    2 * chromaWidth * height,
    pixels ? 8 * pixels + BEYOND : 0
  ) as [number, number, number, number, number, number, number]
  const { buffer } = exports.memory
  const memory = new Uint8Array(buffer)
  memory.set(packet, from)
  memory.set(new Uint8Array(codes.buffer, codes.byteOffset, codes.byteLength), book)
  memory.set(new Uint8Array(weights.buffer, weights.byteOffset, weights.byteLength), parts)
  for (const [line, { at, bytes }] of lines.entries()) {
    const [down, downChroma] = [32 * lumaWidth * line, 32 * chromaWidth * line]
    const wrong = exports.vc3Line({
      from: from + at,
      bytes,
      across,
      bits,
      whole: whole ? 1 : 0,
      more,
      codes: book,
      weights: parts,
      luma: luma + down,
      first: first + downChroma,
      second: second + downChroma,
      lumaStride: 2 * lumaWidth,
      chromaStride: 2 * chromaWidth
    })
    if (wrong) return { line, fault: wrong === 1 ? 'ends-early' : 'too-far' }
  }
  return { planes: [luma, first, second], to }
}

/** See `Kernels.vc3Planes`. */
export function wasmVc3Planes(room: Room, packet: Uint8Array, picture: Vc3Picture): Uint16Array | Vc3Fault {
  const { across, lines, whole } = picture
  const found = decode(room, packet, picture, 0)
  if ('fault' in found) return found
  const sizes = found.planes.map((_, n) => 512 * across * lines.length * (n && !whole ? 0.5 : 1))
  const all = new Uint16Array(sizes.reduce((sum, bytes) => sum + bytes / 2, 0))
  let at = 0
  for (const [n, plane] of found.planes.entries()) {
    all.set(new Uint16Array(room.exports.memory.buffer, plane, sizes[n]! / 2), at)
    at += sizes[n]! / 2
  }
  return all
}

/** See `Kernels.vc3Rgba`. */
export function wasmVc3Rgba(
  room: Room,
  packet: Uint8Array,
  picture: Vc3Picture,
  { width, height }: FrameSize
): Uint16Array | Vc3Fault {
  const found = decode(room, packet, picture, width * height)
  if ('fault' in found) return found
  const [green, blue, red] = found.planes
  const { across, bits } = picture
  room.exports.vc3Join({ green, blue, red, stride: 16 * across, width, height, bits, to: found.to })
  return new Uint16Array(room.take(found.to, 8 * width * height).buffer)
}
