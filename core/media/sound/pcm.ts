/** Uncompressed samples between the ways files store them. */
import type { PcmLayout } from '../../source/sound'

/** Bits that samples of a layout are carried with: 8 become 16, which is exact. */
export const carriedBits = ({ bits }: Pick<PcmLayout, 'bits'>): 16 | 24 | 32 => (bits === 8 ? 16 : bits)

/**
 * Samples as they are stored, as signed little-endian codes of the carried bits. Whole samples only; a rest is left
 * out.
 */
export function carriedPcm(bytes: Uint8Array, layout: PcmLayout): Uint8Array {
  const { bits, bigEndian, unsigned } = layout
  if (bits === 8) {
    const out = new Uint8Array(2 * bytes.length)
    for (let i = 0; i < bytes.length; i++) out[2 * i + 1] = unsigned ? bytes[i]! ^ 0x80 : bytes[i]!
    return out
  }
  const width = bits / 8
  const out = bytes.slice(0, bytes.length - (bytes.length % width))
  return bigEndian ? turned(out, width) : out
}

/** The bytes of each code in the other order, in place. */
export function turned(bytes: Uint8Array, width: number): Uint8Array {
  for (let i = 0; i + width <= bytes.length; i += width)
    for (let low = i, high = i + width - 1; low < high; low++, high--) {
      const byte = bytes[low]!
      bytes[low] = bytes[high]!
      bytes[high] = byte
    }
  return bytes
}
