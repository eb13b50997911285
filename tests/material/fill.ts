/**
 * Clear pixels filled with the colour of the nearest one that is not: two sweeps of nearest places, enough for
 * material.
 */
import type { Plate } from './paint'

/** Straight colour for every pixel, RGBA; black where nothing is anywhere. */
export function nearestFill({ width, height, pixels }: Plate): Float32Array {
  const from = new Int32Array(width * height).fill(-1)
  for (let p = 0; p < from.length; p++) if (pixels[4 * p + 3]! > 0.002) from[p] = p
  const far = (p: number, q: number): number =>
    q < 0 ? Infinity : ((p % width) - (q % width)) ** 2 + (Math.floor(p / width) - Math.floor(q / width)) ** 2
  const take = (p: number, q: number): void => {
    if (far(p, from[q]!) < far(p, from[p]!)) from[p] = from[q]!
  }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      if (x > 0) take(p, p - 1)
      if (y > 0) take(p, p - width)
    }
    for (let x = width - 2; x >= 0; x--) take(y * width + x, y * width + x + 1)
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = width - 1; x >= 0; x--) {
      const p = y * width + x
      if (x < width - 1) take(p, p + 1)
      if (y < height - 1) take(p, p + width)
    }
    for (let x = 1; x < width; x++) take(y * width + x, y * width + x - 1)
  }
  const result = new Float32Array(pixels.length)
  for (let p = 0; p < from.length; p++) {
    const q = from[p]!
    if (q < 0) continue
    for (let c = 0; c < 3; c++) result[4 * p + c] = Math.min(1, pixels[4 * q + c]! / pixels[4 * q + 3]!)
    result[4 * p + 3] = pixels[4 * p + 3]!
  }
  return result
}
