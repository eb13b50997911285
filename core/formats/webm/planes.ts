/** Between RGBA and the planes a video codec takes: 8-bit limited-range BT.709 Y'CbCr 4:2:0, and alpha as a luma plane of its own. */
import type { Kernels } from '../../kernels/kernels'

const KR = 0.2126
const KB = 0.0722
const KG = 1 - KR - KB

export interface PlaneShape {
  width: number
  height: number
}

const half = (n: number): number => (n + 1) >> 1

/** Bytes of an I420 picture. */
export function i420Size({ width, height }: PlaneShape): number {
  return width * height + 2 * half(width) * half(height)
}

/** Side of the blocks in which clear pixels take the mean colour of the others: the codec's own transform size. */
const BLOCK = 16

/**
 * Colour as I420, then alpha as one plane of codes. Clear pixels of a block that has others take their mean colour, so that coding
 * leaves no dark rim; chroma is the mean of the pixels of its square that can be seen.
 */
export function toPlanes(rgba: Uint8Array, width: number, height: number): Uint8Array {
  const colour = filled(rgba, width, height)
  const out = new Uint8Array(i420Size({ width, height }) + width * height)
  const chroma = width * height
  const chromaWidth = half(width)
  const second = chroma + chromaWidth * half(height)
  const alphaAt = second + chromaWidth * half(height)
  for (let p = 0, i = 0; p < width * height; p++, i += 4) {
    const y = (KR * colour[i]! + KG * colour[i + 1]! + KB * colour[i + 2]!) / 255
    out[p] = Math.floor(16 + 219 * y + 0.5)
    out[alphaAt + p] = rgba[i + 3]!
  }
  for (let cy = 0; cy < half(height); cy++) {
    for (let cx = 0; cx < chromaWidth; cx++) {
      let [r, g, b, n] = [0, 0, 0, 0]
      for (const weigh of [true, false]) {
        for (let y = 2 * cy; y < Math.min(height, 2 * cy + 2); y++) {
          for (let x = 2 * cx; x < Math.min(width, 2 * cx + 2); x++) {
            const i = 4 * (y * width + x)
            const weight = weigh ? rgba[i + 3]! : 1
            r += colour[i]! * weight
            g += colour[i + 1]! * weight
            b += colour[i + 2]! * weight
            n += weight
          }
        }
        if (n > 0) break
      }
      const luma = (KR * r + KG * g + KB * b) / n
      out[chroma + cy * chromaWidth + cx] = Math.floor(128 + (224 * (b / n - luma)) / (2 * (1 - KB) * 255) + 0.5)
      out[second + cy * chromaWidth + cx] = Math.floor(128 + (224 * (r / n - luma)) / (2 * (1 - KR) * 255) + 0.5)
    }
  }
  return out
}

function filled(rgba: Uint8Array, width: number, height: number): Uint8Array {
  const out = rgba.slice()
  for (let top = 0; top < height; top += BLOCK) {
    for (let left = 0; left < width; left += BLOCK) {
      const [bottom, right] = [Math.min(height, top + BLOCK), Math.min(width, left + BLOCK)]
      let [r, g, b, seen, clear] = [0, 0, 0, 0, 0]
      for (let y = top; y < bottom; y++) {
        for (let i = 4 * (y * width + left); i < 4 * (y * width + right); i += 4) {
          if (rgba[i + 3] === 0) clear++
          else {
            seen++
            r += rgba[i]!
            g += rgba[i + 1]!
            b += rgba[i + 2]!
          }
        }
      }
      if (!clear || !seen) continue
      for (let y = top; y < bottom; y++) {
        for (let i = 4 * (y * width + left); i < 4 * (y * width + right); i += 4) {
          if (rgba[i + 3] !== 0) continue
          out[i] = r / seen
          out[i + 1] = g / seen
          out[i + 2] = b / seen
        }
      }
    }
  }
  return out
}

/** RGBA of an I420 picture and, where there is one, the luma plane of its alpha. */
export function fromPlanes(colour: Uint8Array, alpha: Uint8Array | null, width: number, height: number, kernels: Kernels): Uint8Array {
  const size = width * height
  const chromaWidth = half(width)
  const chromaSize = chromaWidth * half(height)
  // 8-bit limited range times 16 is 12-bit limited range
  const planes = new Uint16Array(3 * size)
  for (let y = 0; y < height; y++) {
    const row = (y >> 1) * chromaWidth
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      const c = size + row + (x >> 1)
      planes[p] = colour[p]! << 4
      planes[size + p] = colour[c]! << 4
      planes[2 * size + p] = colour[c + chromaSize]! << 4
    }
  }
  const wide = alpha ? kernels.widen(alpha.slice(0, size)) : null
  return kernels.narrow(kernels.yccToRgba({ planes, stride: width, planeSize: size, width, height }, wide, { kr: KR, kb: KB }))
}
