/** All that an examination takes of a frame's pixels; the plain twin. */
import { fingerprint } from '../../core/frame/kernels/fingerprint'
import type { ExamineHow, Examined } from '../../core/frame/kernels/kernels'
import { look } from './compare'
import { alphaPlane } from './plane'
import { triples } from './triples'

/** See `Kernels.examine`. */
export function examine(samples: Uint8Array | Uint16Array, { width, height, same, alpha }: ExamineHow): Examined {
  const codes = samples instanceof Uint8Array ? Uint16Array.from(samples, code => code * 257) : samples
  let counted = 0
  for (let i = 0; i < codes.length; i += 4) if (same.every((code, c) => codes[i + c] === code)) counted++
  return {
    counts: look(codes),
    same: counted,
    fingerprint: fingerprint(samples),
    alpha: alpha ? { triples: triples(codes, width, height, null), plane: alphaPlane(codes, width, height) } : null
  }
}
