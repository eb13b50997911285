/** Codes of 16 bits from what was drawn in floating point. */
import { STRAIGHT, type Frame } from './frame'

/** Where drawn pixels lie in the picture: whole pixels, right and bottom excluded. */
export interface Drawn {
  left: number
  top: number
  right: number
  bottom: number
  /** Premultiplied RGBA. */
  pixels: Float32Array
}

/** The nearest code; of what is no number, none. */
const codeOf = (value: number): number => (value > 0 ? (value < 65535 ? (value + 0.5) | 0 : 65535) : 0)

/**
 * The picture of so many pixels, of which all is clear but what was drawn. Colour is divided before it is rounded,
 * once; what would round to no alpha holds no colour either.
 */
export function straightCodes({ left, top, right, bottom, pixels }: Drawn, width: number, height: number): Frame {
  const samples = new Uint16Array(4 * width * height)
  let from = 0
  for (let y = top; y < bottom; y++) {
    let to = 4 * (y * width + left)
    for (let x = left; x < right; x++, from += 4, to += 4) {
      const alpha = pixels[from + 3]!
      if (alpha === 0) continue
      // a player's floats may be no numbers
      const code = codeOf(alpha * 65535)
      if (code === 0) continue
      samples[to + 3] = code
      const scale = 65535 / alpha
      samples[to] = codeOf(pixels[from]! * scale)
      samples[to + 1] = codeOf(pixels[from + 1]! * scale)
      samples[to + 2] = codeOf(pixels[from + 2]! * scale)
    }
  }
  return { width, height, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

/**
 * The same as premultiplied codes on black, for pictures with light that alpha does not cover: brighter than white is
 * white.
 */
export function premultipliedCodes({ left, top, right, bottom, pixels }: Drawn, width: number, height: number): Frame {
  const samples = new Uint16Array(4 * width * height)
  let from = 0
  for (let y = top; y < bottom; y++) {
    let to = 4 * (y * width + left)
    for (let x = left; x < right; x++, from += 4, to += 4)
      for (let c = 0; c < 4; c++) samples[to + c] = codeOf(pixels[from + c]! * 65535)
  }
  const alpha = { mode: 'premultiplied', matte: '#000000' } as const
  return { width, height, depth: 16, samples, alpha, transfer: 'srgb' }
}
