/**
 * Between RGBA and the planes a video codec takes: 8-bit limited-range Y'CbCr, and alpha as a luma plane of its own.
 */
import * as weights from '../../../frame/weights'
import type { FrameSize, Kernels } from '../../../frame/kernels/kernels'

/** Luma weights of red and blue, and the name WebCodecs and containers give the matrix. */
export interface VpxMatrix {
  name: 'bt709' | 'smpte170m'
  kr: number
  kb: number
}

const BT709: VpxMatrix = { name: 'bt709', ...weights.BT709 }
const BT601: VpxMatrix = { name: 'smpte170m', ...weights.BT601 }

/**
 * The matrix for a picture: the one that is named, else BT.601 up to 576 lines and BT.709 above, as players take films
 * that say nothing. Chromium's software player was measured to show flat BT.709 blue some codes off, and BT.601 within
 * two.
 */
export function matrixFor(height: number, named: string | null = null): VpxMatrix {
  if (named === 'bt709') return BT709
  if (named === 'smpte170m' || named === 'bt470bg') return BT601
  return height <= 576 ? BT601 : BT709
}

export interface PlaneShape {
  width: number
  height: number
}

const half = (n: number): number => (n + 1) >> 1

/** Whether chroma has a code for each square of four pixels, or for each pixel. */
export type Chroma = '4:2:0' | '4:4:4'

const chromaShape = ({ width, height }: PlaneShape, chroma: Chroma): [number, number] =>
  chroma === '4:4:4' ? [width, height] : [half(width), half(height)]

/** Bytes of a picture's three planes. */
export function planesSize(shape: PlaneShape, chroma: Chroma): number {
  const [width, height] = chromaShape(shape, chroma)
  return shape.width * shape.height + 2 * width * height
}

/** Bytes of an I420 picture. */
export const i420Size = (shape: PlaneShape): number => planesSize(shape, '4:2:0')

/** Side of the blocks in which clear pixels take the mean colour of the others: the codec's own transform size. */
const BLOCK = 16

/**
 * Colour as planes, then alpha as one plane of codes. Clear pixels of a block that has others take their mean colour,
 * so that coding leaves no dark rim; chroma is the mean of the pixels of its square that can be seen.
 */
export function toPlanes(
  rgba: Uint8Array,
  width: number,
  height: number,
  matrix: VpxMatrix = matrixFor(height),
  sampling: Chroma = '4:2:0'
): Uint8Array {
  const { kr, kb } = matrix
  const step = sampling === '4:4:4' ? 1 : 2
  const kg = 1 - kr - kb
  const colour = filled(rgba, width, height)
  const out = new Uint8Array(planesSize({ width, height }, sampling) + width * height)
  const chroma = width * height
  const [chromaWidth, chromaHeight] = chromaShape({ width, height }, sampling)
  const second = chroma + chromaWidth * chromaHeight
  const alphaAt = second + chromaWidth * chromaHeight
  for (let cy = 0; cy < chromaHeight; cy++) {
    for (let cx = 0; cx < chromaWidth; cx++) {
      let [r, g, b, n] = [0, 0, 0, 0]
      for (const weigh of [true, false]) {
        for (let y = step * cy; y < Math.min(height, step * (cy + 1)); y++) {
          for (let x = step * cx; x < Math.min(width, step * (cx + 1)); x++) {
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
      const luma = (kr * r + kg * g + kb * b) / n
      out[chroma + cy * chromaWidth + cx] = Math.floor(128 + (224 * (b / n - luma)) / (2 * (1 - kb) * 255) + 0.5)
      out[second + cy * chromaWidth + cx] = Math.floor(128 + (224 * (r / n - luma)) / (2 * (1 - kr) * 255) + 0.5)
    }
  }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      const c = chroma + Math.floor(y / step) * chromaWidth + Math.floor(x / step)
      out[p] = lumaFor(colour, 4 * p, [out[c]!, out[c + second - chroma]!], matrix)
      out[alphaAt + p] = rgba[4 * p + 3]!
    }
  }
  return out
}

/**
 * The luma code of a pixel whose chroma is rounded already: the one that keeps the worst of the three colours nearest,
 * within one code of the exact luma. Flat colours so come back within two codes instead of three.
 */
function lumaFor(colour: Uint8Array, i: number, [cb, cr]: readonly [number, number], { kr, kb }: VpxMatrix): number {
  const kg = 1 - kr - kb
  const [r, g, b] = [colour[i]!, colour[i + 1]!, colour[i + 2]!]
  const exact = 16 + (219 * (kr * r + kg * g + kb * b)) / 255
  const [u, v] = [((cb - 128) * 255) / 224, ((cr - 128) * 255) / 224]
  const [dr, db] = [2 * (1 - kr) * v, 2 * (1 - kb) * u]
  const wanted = [r - dr, g + (kr * dr + kb * db) / kg, b - db]
  const fair = 16 + (219 * (Math.min(...wanted) + Math.max(...wanted))) / 2 / 255
  return Math.floor(Math.max(exact - 1, Math.min(exact + 1, fair)) + 0.5)
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

/** RGBA of a picture's planes and, where there is one, the luma plane of its alpha. */
export function fromPlanes(
  colour: Uint8Array,
  alpha: Uint8Array | null,
  { width, height }: FrameSize,
  { kr, kb }: VpxMatrix,
  kernels: Kernels
): Uint8Array {
  const size = width * height
  // the length of the planes tells which they are
  const sampling: Chroma = colour.length >= 3 * size && size > 1 ? '4:4:4' : '4:2:0'
  const [chromaWidth, chromaHeight] = chromaShape({ width, height }, sampling)
  const chromaSize = chromaWidth * chromaHeight
  const shift = sampling === '4:4:4' ? 0 : 1
  // 8-bit limited range times 16 is 12-bit limited range
  const planes = new Uint16Array(3 * size)
  for (let y = 0; y < height; y++) {
    const row = (y >> shift) * chromaWidth
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      const c = size + row + (x >> shift)
      planes[p] = colour[p]! << 4
      planes[size + p] = colour[c]! << 4
      planes[2 * size + p] = colour[c + chromaSize]! << 4
    }
  }
  const wide = alpha ? kernels.widen(alpha.slice(0, size)) : null
  return kernels.narrow(kernels.yccToRgba({ planes, stride: width, planeSize: size, width, height }, wide, { kr, kb }))
}
