/** Turning by any angle, on premultiplied values. */
import type { Kernels } from '../kernels/kernels'
import type { Picture } from './picture'

function directions(degrees: number): [cos: number, sin: number] {
  const angle = (degrees * Math.PI) / 180
  return [Math.cos(angle), Math.sin(angle)]
}

/** The size of a frame that holds all of the turned one; quarter turns keep theirs. */
export function turnedSize(width: number, height: number, degrees: number): { width: number; height: number } {
  const [c, s] = directions(degrees)
  // a hair less, so that a quarter turn does not grow by what rounding leaves
  return { width: Math.max(1, Math.ceil(Math.abs(c) * width + Math.abs(s) * height - 1e-6)), height: Math.max(1, Math.ceil(Math.abs(s) * width + Math.abs(c) * height - 1e-6)) }
}

/** The picture turned clockwise about its middle, in a frame of the given size with the same middle; beyond its rim is clear. */
export function turned(picture: Picture, degrees: number, width: number, height: number, kernels: Kernels): Picture {
  const [cos, sin] = directions(degrees)
  const [x, y] = [(1 - width) / 2, (1 - height) / 2]
  // from a place in the turned frame back to one in the picture
  const way = { u: cos * x + sin * y + (picture.width - 1) / 2, v: cos * y - sin * x + (picture.height - 1) / 2, du: cos, dv: -sin }
  return { width, height, rgba: kernels.turn(picture.rgba, picture.width, picture.height, width, height, way) }
}
