/** A screen's colour over a picture, row by row. */
import type { ScreenPlate, Surface } from './kernels'
import { clamp01 } from './pixel'

/** Start, slope and bend of a surface along the row at `v`. */
function alongRow(s: Surface, v: number): [number, number, number] {
  return [s[0] + s[2] * v + s[5] * v * v, s[1] + s[4] * v, s[3]]
}

/** Gives what writes the screen's colour along row `y` into `row`: four floats a pixel, of which three count. */
export function plateRows(plate: ScreenPlate, width: number, height: number): (y: number, row: Float32Array) => void {
  if ('rgba' in plate) return (y, row) => row.set(plate.rgba.subarray(4 * y * width, 4 * (y + 1) * width))
  const [red, green, blue] = plate.surfaces
  const per = 1 / width
  return (y, row) => {
    const v = y / height
    const [r0, r1, r2] = alongRow(red, v)
    const [g0, g1, g2] = alongRow(green, v)
    const [b0, b1, b2] = alongRow(blue, v)
    for (let x = 0, o = 0; x < width; x++, o += 4) {
      const u = x * per
      row[o] = clamp01(r0 + u * (r1 + u * r2))
      row[o + 1] = clamp01(g0 + u * (g1 + u * g2))
      row[o + 2] = clamp01(b0 + u * (b1 + u * b2))
    }
  }
}
