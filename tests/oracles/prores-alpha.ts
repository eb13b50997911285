/** The plain twin of the kernel that decodes ProRes alpha (SMPTE RDD 36, 7.1.2). */
import type { AlphaSlice } from '../../core/frame/kernels/kernels'

class BitReader {
  private at = 0

  constructor(
    private readonly bytes: Uint8Array,
    private readonly from: number,
    private readonly length: number
  ) {}

  get left(): number {
    return this.length * 8 - this.at
  }

  /** The next `count` bits, up to 24; zeros beyond the end. */
  read(count: number): number {
    const byte = this.from + (this.at >> 3)
    const end = this.from + this.length
    const take = (i: number): number => (byte + i < end ? this.bytes[byte + i]! : 0)
    const word = ((take(0) << 24) | (take(1) << 16) | (take(2) << 8) | take(3)) >>> 0
    const value = (word << (this.at & 7)) >>> (32 - count)
    this.at += count
    return value
  }
}

/** Alpha of one slice into `out`, one raster of 16 rows. False when the code ends early or holds too much. */
function decodeSlice(bits: BitReader, out: Uint16Array, count: number, wide: boolean): boolean {
  const mask = wide ? 65535 : 255
  let alpha = mask
  let i = 0
  while (i < count) {
    if (bits.left <= 0) return false
    if (bits.read(1)) alpha = (alpha + bits.read(wide ? 16 : 8)) & mask
    else {
      const code = bits.read(wide ? 7 : 4)
      const size = (code + 2) >> 1
      alpha = (alpha + (code & 1 ? -size : size)) & mask
    }
    out[i++] = alpha
    if (bits.read(1)) continue
    const run = bits.read(4) || bits.read(11)
    if (i + run > count) return false
    out.fill(alpha, i, i + run)
    i += run
  }
  return true
}

/** See `Kernels.proresAlpha`. */
export function proresAlpha(
  data: Uint8Array,
  slices: readonly AlphaSlice[],
  width: number,
  height: number,
  bits: 8 | 16
): Uint16Array | number {
  const plane = new Uint16Array(width * height)
  const raster = new Uint16Array(2048)
  const scale = bits === 16 ? 1 : 257
  for (const [n, { x, y, mbs, offset, size }] of slices.entries()) {
    if (!decodeSlice(new BitReader(data, offset, size), raster, mbs * 256, bits === 16)) return n
    const columns = mbs * 16
    for (let row = 0; row < 16 && y + row < height; row++) {
      for (let c = 0; c < columns && x + c < width; c++)
        plane[(y + row) * width + x + c] = raster[row * columns + c]! * scale
    }
  }
  return plane
}

export function readingsApart(ours: Uint16Array, theirs: Uint16Array, most: number): number {
  return ours.findIndex((alpha, i) => Math.abs(alpha - ((16 * theirs[i]!) & 65535)) > most)
}
