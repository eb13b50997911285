/** Binds the kernel of VC-3; see `tests/oracles/vc3.ts`, which defines what its codes stand for. */
import type { Vc3Fault, Vc3Picture, Vc3Planes } from './coded'
import { BEYOND, type Room } from './wasm-room'

/** See `Kernels.vc3Planes`. */
export function wasmVc3Planes({ exports, lay }: Room, packet: Uint8Array, picture: Vc3Picture): Vc3Planes | Vc3Fault {
  const { across, lines, bits, whole, more, codes, weights } = picture
  const [lumaWidth, height] = [16 * across, 16 * lines.length]
  const chromaWidth = whole ? lumaWidth : lumaWidth / 2
  const [from, book, parts, luma, first, second] = lay(
    packet.length + BEYOND,
    codes.byteLength,
    weights.byteLength,
    2 * lumaWidth * height,
    2 * chromaWidth * height,
    2 * chromaWidth * height
  ) as [number, number, number, number, number, number]
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
  const plane = (at: number, width: number): Uint16Array => new Uint16Array(buffer, at, width * height).slice()
  return { planes: [plane(luma, lumaWidth), plane(first, chromaWidth), plane(second, chromaWidth)] }
}
