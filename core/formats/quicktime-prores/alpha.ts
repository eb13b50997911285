/** The alpha plane of a ProRes frame at its full depth (SMPTE RDD 36, 7.1.2): coded apart from colour, and without loss. */
import { unreadable } from '../../errors'
import { parseFrame, placeSlices, type ParsedFrame } from './frame'

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

/**
 * Alpha codes of a frame, one a pixel, scaled to 16 bits; null when the frame has none. Rejects interlaced frames and
 * damaged ones with an error that names `file` and `place`.
 */
export function decodeAlpha(data: Uint8Array, file: string, place: string, frame: ParsedFrame = parseFrame(data, file, place)): Uint16Array | null {
  if (!frame.alphaBits) return null
  if (frame.interlaced) throw unreadable(file, place, 'the frame is interlaced; its alpha is not read yet')
  const wide = frame.alphaBits === 16
  const { width, height } = frame
  const plane = new Uint16Array(width * height)
  const raster = new Uint16Array(2048)
  for (const { x, y, mbs, offset, size } of placeSlices(data, frame, file, place)) {
    const fail = (): Error => unreadable(file, place, `the alpha at pixel ${x}, ${y} is damaged`)
    const header = data[offset]! >> 3
    if (size < 8 || header < 8) throw fail()
    const colour = [2, 4, 6].reduce((sum, at) => sum + ((data[offset + at]! << 8) | data[offset + at + 1]!), header)
    if (colour >= size) throw fail()
    if (!decodeSlice(new BitReader(data, offset + colour, size - colour), raster, mbs * 256, wide)) throw fail()
    const columns = mbs * 16
    for (let row = 0; row < 16 && y + row < height; row++) {
      for (let c = 0; c < columns && x + c < width; c++) plane[(y + row) * width + x + c] = wide ? raster[row * columns + c]! : raster[row * columns + c]! * 257
    }
  }
  return plane
}
