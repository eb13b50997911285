/** Bitmaps as AVI holds them: B G R or B G R A, rows padded to four bytes, from the bottom or the top. */
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'

export interface BitmapShape {
  width: number
  height: number
  bits: 24 | 32
  bottomUp: boolean
}

const strideOf = (width: number, bits: number): number => ((width * bits + 31) >> 5) * 4

/** Bytes of a bitmap whose rows are padded to four bytes. */
export const bitmapSize = (width: number, height: number, bits: 24 | 32): number => strideOf(width, bits) * height

/** The picture of a bitmap of at least its size. */
export function unpackBitmap(data: Uint8Array, { width, height, bits, bottomUp }: BitmapShape): Frame {
  const samples = new Uint8Array(width * height * 4)
  const stride = strideOf(width, bits)
  const words = new Uint32Array(samples.buffer)
  for (let y = 0; y < height; y++) {
    let from = (bottomUp ? height - 1 - y : y) * stride
    const row = y * width
    if (bits === 32)
      for (let x = 0; x < width; x++, from += 4)
        // R G B A of a little-endian word
        words[row + x] = data[from + 2]! | (data[from + 1]! << 8) | (data[from]! << 16) | (data[from + 3]! << 24)
    else
      for (let x = 0; x < width; x++, from += 3)
        words[row + x] = data[from + 2]! | (data[from + 1]! << 8) | (data[from]! << 16) | 0xff000000
  }
  return { width, height, depth: 8, samples, alpha: bits === 32 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}

/** A picture as a bitmap from the bottom: 32 bits a pixel, or 24 where it has no alpha. */
export function packedBitmap({ samples, width, height, alpha }: Frame): Uint8Array {
  const bits = alpha.mode === 'none' ? 24 : 32
  const stride = strideOf(width, bits)
  const out = new Uint8Array(stride * height)
  const pixel = bits / 8
  for (let y = 0; y < height; y++) {
    let to = (height - 1 - y) * stride
    for (let i = 4 * y * width; i < 4 * (y + 1) * width; i += 4, to += pixel) {
      out[to] = samples[i + 2]!
      out[to + 1] = samples[i + 1]!
      out[to + 2] = samples[i]!
      if (bits === 32) out[to + 3] = samples[i + 3]!
    }
  }
  return out
}
