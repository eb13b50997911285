/** Filters of one channel. */
import type { Kernels } from '../frame/kernels/kernels'

/** Between two planes by `share` of the second. */
function mixed(a: Float32Array, b: Float32Array, share: number): Float32Array {
  const result = new Float32Array(a.length)
  for (let i = 0; i < result.length; i++) result[i] = a[i]! + (b[i]! - a[i]!) * share
  return result
}

function complement(plane: Float32Array): Float32Array {
  const result = new Float32Array(plane.length)
  for (let i = 0; i < result.length; i++) result[i] = 1 - plane[i]!
  return result
}

/**
 * What a filter of whole radius gives at any: parts of a pixel lie between the two whole ones. Radius 0 is the plane
 * itself.
 */
function between(plane: Float32Array, radius: number, filter: (radius: number) => Float32Array): Float32Array {
  const low = Math.floor(radius)
  const near = low === 0 ? plane : filter(low)
  return radius > low ? mixed(near, filter(low + 1), radius - low) : near
}

/** Softens by about `radius` pixels. */
export function soften(
  plane: Float32Array,
  width: number,
  height: number,
  radius: number,
  kernels: Kernels
): Float32Array {
  return between(plane, radius, whole => kernels.blur(plane, width, height, whole))
}

/** Grown by `by` pixels, or shrunk where it is negative. */
export function grow(plane: Float32Array, width: number, height: number, by: number, kernels: Kernels): Float32Array {
  if (by >= 0) return between(plane, by, whole => kernels.largest(plane, width, height, whole))
  const rest = complement(plane)
  return complement(between(rest, -by, whole => kernels.largest(rest, width, height, whole)))
}
