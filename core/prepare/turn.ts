/** Turning by any angle, on premultiplied values. */
import { cubicShares } from '../frame/kernels/terms'
import type { Kernels, SamplingPath } from '../frame/kernels/kernels'
import type { Picture } from './picture'

function directions(degrees: number): [cos: number, sin: number] {
  const angle = (degrees * Math.PI) / 180
  // of quarter turns exactly 0 or 1, so that each pixel comes from one
  const exact = (v: number): number => Math.round(v * 1e15) / 1e15
  return [exact(Math.cos(angle)), exact(Math.sin(angle))]
}

/** The size of a frame that holds all of the turned one; quarter turns keep theirs. */
export function turnedSize(width: number, height: number, degrees: number): { width: number; height: number } {
  const [c, s] = directions(degrees)
  return {
    width: Math.ceil(Math.abs(c) * width + Math.abs(s) * height),
    height: Math.ceil(Math.abs(s) * width + Math.abs(c) * height)
  }
}

/** From a place in the turned frame back to one in the picture. */
function wayBack(picture: Picture, degrees: number, width: number, height: number): SamplingPath {
  const [cos, sin] = directions(degrees)
  const [x, y] = [(1 - width) / 2, (1 - height) / 2]
  return {
    u: cos * x + sin * y + (picture.width - 1) / 2,
    v: cos * y - sin * x + (picture.height - 1) / 2,
    du: cos,
    dv: -sin
  }
}

/**
 * The same of premultiplied light without bounds: each value stays between the least and the most of the sixteen it is
 * made of, so that nothing rings beyond its neighbours.
 */
export function turnedLight(picture: Picture, degrees: number, width: number, height: number): Picture {
  const { u, v, du, dv } = wayBack(picture, degrees, width, height)
  const { width: w, height: h, rgba: from } = picture
  const rgba = new Float32Array(4 * width * height)
  for (let y = 0, o = 0; y < height; y++) {
    for (let x = 0; x < width; x++, o += 4) {
      const [px, py] = [u - dv * y + du * x, v + du * y + dv * x]
      const [left, top] = [Math.floor(px), Math.floor(py)]
      if (left < -2 || top < -2 || left > w || top > h) continue
      const [wx, wy] = [cubicShares(px - left), cubicShares(py - top)]
      for (let c = 0; c < 4; c++) {
        let [sum, least, most] = [0, Infinity, -Infinity]
        for (let m = 0; m < 4; m++) {
          const row = top - 1 + m
          for (let n = 0; n < 4; n++) {
            const column = left - 1 + n
            const inside = row >= 0 && row < h && column >= 0 && column < w
            const value = inside ? from[4 * (row * w + column) + c]! : 0
            sum += value * wy[m]! * wx[n]!
            if (value < least) least = value
            if (value > most) most = value
          }
        }
        rgba[o + c] = sum > most ? most : sum < least ? least : sum
      }
    }
  }
  return { width, height, rgba }
}

/**
 * The picture turned clockwise about its middle, in a frame of the given size with the same middle; beyond its rim is
 * clear.
 */
export function turned(picture: Picture, degrees: number, width: number, height: number, kernels: Kernels): Picture {
  const way = wayBack(picture, degrees, width, height)
  return { width, height, rgba: kernels.turn(picture.rgba, picture, { width, height }, way) }
}
