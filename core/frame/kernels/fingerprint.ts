/**
 * A fingerprint of samples: 128 bits as 32 hexadecimal digits. Four lanes of 32 bits, each mixing every fourth word of
 * the bytes as MurmurHash3 does; equal samples have equal fingerprints, and others do with a chance that nobody meets.
 * It guards against mistakes, not against somebody who wants two pictures to share one.
 */

export const LANES = 4
export const BLOCK_BYTES = 4 * LANES
export const C1 = 0xcc9e2d51
export const C2 = 0x1b873593
const SEEDS = [0x243f6a88, 0x85a308d3, 0x13198a2e, 0x03707344]

/** The lanes of a fingerprint of which nothing has been counted yet. */
export const freshLanes = (): Uint32Array => Uint32Array.from(SEEDS)

const rotate = (value: number, by: number): number => (value << by) | (value >>> (32 - by))

/** Mixes whole blocks of words into the lanes. */
export function mixBlocks(words: Uint32Array, lanes: Uint32Array): void {
  for (let i = 0; i < words.length; i++) {
    const lane = i % LANES
    const k = Math.imul(rotate(Math.imul(words[i]!, C1), 15), C2)
    lanes[lane] = Math.imul(rotate(lanes[lane]! ^ k, 13), 5) + 0xe6546b64
  }
}

/** The last bytes that fill no block, with zeros behind them. */
export function lastBlock(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const block = new Uint8Array(BLOCK_BYTES)
  block.set(bytes.subarray(bytes.length - (bytes.length % BLOCK_BYTES)))
  return block
}

/** Lanes that have taken every block, and the count of all bytes, as digits. */
export function digitsOf(lanes: Uint32Array, length: number): string {
  let sum = length | 0
  return [...lanes]
    .map(lane => {
      // each lane also takes the one before, so that all digits depend on the length
      let h = lane ^ sum
      h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
      h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
      sum = h ^ (h >>> 16)
      return (sum >>> 0).toString(16).padStart(8, '0')
    })
    .join('')
}

/** The plain twin of the kernel. */
export function fingerprint(samples: Uint8Array | Uint16Array | Float32Array): string {
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
  const lanes = freshLanes()
  const whole = bytes.length - (bytes.length % BLOCK_BYTES)
  mixBlocks(new Uint32Array(bytes.slice(0, whole).buffer), lanes)
  if (whole < bytes.length) mixBlocks(new Uint32Array(lastBlock(bytes).buffer), lanes)
  return digitsOf(lanes, bytes.length)
}
