/** Turning by any angle, on premultiplied values. */
import type { Kernels } from '../kernels/kernels'
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

/**
 * The picture turned clockwise about its middle, in a frame of the given size with the same middle; beyond its rim is
 * clear.
 */
export function turned(picture: Picture, degrees: number, width: number, height: number, kernels: Kernels): Picture {
  const [cos, sin] = directions(degrees)
  const [x, y] = [(1 - width) / 2, (1 - height) / 2]
  // from a place in the turned frame back to one in the picture
  const way = {
    u: cos * x + sin * y + (picture.width - 1) / 2,
    v: cos * y - sin * x + (picture.height - 1) / 2,
    du: cos,
    dv: -sin
  }
  return { width, height, rgba: kernels.turn(picture.rgba, picture.width, picture.height, width, height, way) }
}
