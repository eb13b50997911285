/** Binds the kernel of VC-3; see `tests/oracles/vc3.ts`, which defines what its codes stand for. */
import type { Vc3Fault, Vc3Picture } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'
import { laidToRgba, yccRoom } from './wasm-ycc'

interface Laid {
  planes: readonly [number, number, number]
  /** Codes of a plane of luma. */
  planeSize: number
  /** For chroma as wide as luma. */
  wide: readonly [number, number]
  to: number
}

/** Decodes a picture to planes of whole macroblocks, with room behind them for RGBA of so many pixels. */
function decode({ exports, lay }: Room, packet: Uint8Array, picture: Vc3Picture, pixels: number): Laid | Vc3Fault {
  const { across, lines, bits, whole, more, codes, weights } = picture
  const [lumaWidth, height] = [16 * across, 16 * lines.length]
  const chromaWidth = whole ? lumaWidth : lumaWidth / 2
  const widened = whole ? 0 : yccRoom(lumaWidth * height)
  const [from, book, parts, luma, first, second, blue, red, to] = lay(
    packet.length + BEYOND,
    codes.byteLength,
    weights.byteLength,
    2 * lumaWidth * height + BEYOND,
    2 * chromaWidth * height + BEYOND,
    2 * chromaWidth * height + BEYOND,
    widened,
    widened,
    8 * pixels + BEYOND
  ) as [number, number, number, number, number, number, number, number, number]
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
  return { planes: [luma, first, second], planeSize: lumaWidth * height, wide: [blue, red], to }
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
  const { planes, planeSize, wide, to } = found
  const { across, bits, whole, luma } = picture
  const stride = 16 * across
  const [green, blue, red] = planes
  if (luma)
    laidToRgba(room, { planes, planeSize, stride, width, height, bits, wide: whole ? null : wide, alpha: 0, to }, luma)
  else room.exports.vc3Join({ green, blue, red, stride, width, height, bits, to })
  return new Uint16Array(room.take(to, 8 * width * height).buffer)
}
