/** Where an element stands: its place, scale and turn, and how much wider and taller it is, as one transform. */
import { combined, placing, type Affine } from '../raster/line'
import type { ElementBase } from './element'

/** Values that place an element, at rest or at a moment. */
export interface Places {
  x: number
  y: number
  scale: number
  rotation: number
  wide?: number | undefined
  tall?: number | undefined
}

/** Whether an element is neither stretched nor scaled and turned about anything but its place. */
export const isPlain = ({ wide = 1, tall = 1 }: Places, { about }: Pick<ElementBase, 'about'>): boolean =>
  wide === 1 && tall === 1 && !about

/** Stretched and scaled, then turned, then moved. */
const laidAt = ({ x, y, scale, rotation, wide = 1, tall = 1 }: Places): Affine =>
  combined(placing(x, y, scale, rotation), { a: wide, b: 0, c: 0, d: tall, e: 0, f: 0 })

/** From an element's coordinates into those it lies in, by its values at a moment; its own are those at rest. */
export function standing(values: Places, element: ElementBase): Affine {
  if (isPlain(values, element)) return placing(values.x, values.y, values.scale, values.rotation)
  const at = laidAt(values)
  const { about } = element
  if (!about) return at
  const rest = laidAt(element)
  // what it scales and turns about stays where it is at rest
  return {
    ...at,
    e: at.e + (rest.a - at.a) * about.x + (rest.c - at.c) * about.y,
    f: at.f + (rest.b - at.b) * about.x + (rest.d - at.d) * about.y
  }
}

/** Where an element stands at rest. */
export const atRest = (element: ElementBase): Affine => standing(element, element)
