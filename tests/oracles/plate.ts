/** A screen's plate drawn whole, as the twins take it. */
import type { ScreenPlate } from '../../core/frame/kernels/kernels'
import { plateRows } from '../../core/frame/kernels/plate'

/** The whole of it. */
export function wholePlate(plate: ScreenPlate, width: number, height: number): Float32Array {
  if ('rgba' in plate) return plate.rgba
  const whole = new Float32Array(4 * width * height)
  const draw = plateRows(plate, width, height)
  for (let y = 0; y < height; y++) draw(y, whole.subarray(4 * y * width, 4 * (y + 1) * width))
  return whole
}
