/** What planes of luma and chroma, or of grey, are in RGBA: to the nearest code, whatever their bits. */

export interface PlanarPicture {
  width: number
  height: number
  /** Of a sample, 8 to 16. */
  bits: number
  /** Luma, Cb, Cr; or grey alone. */
  planes: readonly ArrayLike<number>[]
  /** Chroma has a sample for each 2^n pixels, across and down, and so many a row. Null for grey. */
  chroma: { across: number; down: number; stride: number } | null
  alpha: ArrayLike<number> | null
}

/** How luma was made, and whether codes take their whole range; else they are limited (ITU-R BT.601 and after). */
export interface PlanarColour {
  kr: number
  kb: number
  full: boolean
}

/** The share of full that each code of luma stands for, and of chroma, from -0.5 to 0.5. */
function scalesOf(bits: number, full: boolean): { luma: Float64Array; chroma: Float64Array } {
  const codes = 2 ** bits
  const unit = 2 ** (bits - 8)
  const most = codes - 1
  return {
    luma: Float64Array.from({ length: codes }, (_, code) => (full ? code / most : (code / unit - 16) / 219)),
    chroma: Float64Array.from({ length: codes }, (_, code) => (code - 128 * unit) / (full ? most : 224 * unit))
  }
}

/**
 * RGBA of 8 bits where the planes have 8, else of 16. Grey and alpha take their whole range. Chroma of fewer samples
 * stands for all pixels it covers.
 */
export function rgbaOfPlanes(
  { width, height, bits, planes, chroma, alpha }: PlanarPicture,
  { kr, kb, full }: PlanarColour
): Uint8Array | Uint16Array {
  const most = bits === 8 ? 255 : 65535
  const samples = bits === 8 ? new Uint8Array(4 * width * height) : new Uint16Array(4 * width * height)
  const share = most / (2 ** bits - 1)
  const put = (at: number, value: number): void => {
    samples[at] = value <= 0 ? 0 : value >= 1 ? most : Math.floor(value * most + 0.5)
  }
  const kg = 1 - kr - kb
  const scales = scalesOf(bits, full)
  const [first, second, third] = planes as [ArrayLike<number>, ArrayLike<number>, ArrayLike<number>]
  for (let y = 0, n = 0; y < height; y++)
    for (let x = 0; x < width; x++, n++) {
      const at = 4 * n
      samples[at + 3] = alpha ? Math.floor(alpha[n]! * share + 0.5) : most
      if (!chroma) {
        samples.fill(Math.floor(first[n]! * share + 0.5), at, at + 3)
        continue
      }
      const c = (y >> chroma.down) * chroma.stride + (x >> chroma.across)
      const luma = scales.luma[first[n]!]!
      const red = luma + 2 * (1 - kr) * scales.chroma[third[c]!]!
      const blue = luma + 2 * (1 - kb) * scales.chroma[second[c]!]!
      put(at, red)
      put(at + 1, (luma - kr * red - kb * blue) / kg)
      put(at + 2, blue)
    }
  return samples
}
