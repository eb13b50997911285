/** Filters of one channel. */
import type { Kernels } from '../frame/kernels/kernels'
import { between } from '../frame/soften'

function complement(plane: Float32Array): Float32Array {
  const result = new Float32Array(plane.length)
  for (let i = 0; i < result.length; i++) result[i] = 1 - plane[i]!
  return result
}

/** Grown by `by` pixels, or shrunk where it is negative. */
export function grow(plane: Float32Array, width: number, height: number, by: number, kernels: Kernels): Float32Array {
  if (by >= 0) return between(plane, by, whole => kernels.largest(plane, width, height, whole))
  const rest = complement(plane)
  return complement(between(rest, -by, whole => kernels.largest(rest, width, height, whole)))
}
