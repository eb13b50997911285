/** Filters of a plane at any radius, from those of whole ones. */
import type { Kernels } from './kernels/kernels'

/** Between two planes by `share` of the second. */
function mixed(a: Float32Array, b: Float32Array, share: number): Float32Array {
  const result = new Float32Array(a.length)
  for (let i = 0; i < result.length; i++) result[i] = a[i]! + (b[i]! - a[i]!) * share
  return result
}

/**
 * What a filter of whole radius gives at any: parts of a pixel lie between the two whole ones. Radius 0 is the plane
 * itself.
 */
export function between(plane: Float32Array, radius: number, filter: (radius: number) => Float32Array): Float32Array {
  const low = Math.floor(radius)
  const near = low === 0 ? plane : filter(low)
  return radius > low ? mixed(near, filter(low + 1), radius - low) : near
}

/**
 * Softens by about `radius` pixels: three boxes along each axis, which come to a bell of variance r (r + 1) for a whole
 * radius r, and lie between the two nearest for any other.
 */
export function soften(
  plane: Float32Array,
  width: number,
  height: number,
  radius: number,
  kernels: Kernels
): Float32Array {
  return between(plane, radius, whole => kernels.blur(plane, width, height, whole))
}
