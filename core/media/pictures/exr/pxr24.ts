/**
 * PXR24 of OpenEXR: zlib over differences of neighbours, the bytes of each line and channel apart; floats keep their
 * upper 24 bits.
 */
import type { ChunkShape } from './chunk'

/** `sorted` as inflated, made into the file's lines; null when it is too short. */
export function joinPxr24(sorted: Uint8Array, { channels, width, lines }: ChunkShape): Uint8Array | null {
  const stored = channels.map(({ type }) => (type === 1 ? 2 : type === 2 ? 3 : 4))
  if (sorted.length < width * lines * stored.reduce((sum, bytes) => sum + bytes, 0)) return null
  const raw = new DataView(
    new ArrayBuffer(width * lines * channels.reduce((sum, { type }) => sum + (type === 1 ? 2 : 4), 0))
  )
  let [from, to] = [0, 0]
  for (let y = 0; y < lines; y++) {
    for (const [n, { type }] of channels.entries()) {
      const bytes = stored[n]!
      let value = 0
      for (let x = 0; x < width; x++) {
        let step = 0
        for (let b = 0; b < bytes; b++) step = (step << 8) | sorted[from + b * width + x]!
        // floats leave out their lowest byte
        value = (value + (type === 2 ? step << 8 : step)) | 0
        if (type === 1) raw.setUint16(to, value & 65535, true)
        else raw.setUint32(to, value >>> 0, true)
        to += type === 1 ? 2 : 4
      }
      from += bytes * width
    }
  }
  return new Uint8Array(raw.buffer)
}
