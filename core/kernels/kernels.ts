/**
 * The hot loops, as the rest of the core sees them. `plainKernels` (TypeScript) and the WASM build promise the same
 * codes to the last bit; tests hold one against the other.
 */
import type { Triple } from '../colour'

export interface Kernels {
  readonly name: 'plain' | 'wasm'
  /** Straight to premultiplied on `matte` (codes of the depth): round((c*a + m*(full-a)) / full). Alpha is copied. Returns new samples. */
  premultiply8(samples: Uint8Array, matte: Triple): Uint8Array
  premultiply16(samples: Uint16Array, matte: Triple): Uint16Array
  /** Premultiplied on `matte` back to straight: round((c*full - m*(full-a)) / a), clamped; black where alpha is 0. */
  unpremultiply8(samples: Uint8Array, matte: Triple): Uint8Array
  unpremultiply16(samples: Uint16Array, matte: Triple): Uint16Array
  /**
   * PNG filtering (ISO/IEC 15948, clause 9): `rows` are `height` rows of `stride` bytes; returns `height` rows of
   * `stride + 1` bytes, each led by the filter type with the least sum of absolute differences.
   */
  pngFilter(rows: Uint8Array, stride: number, height: number, pixelBytes: number): Uint8Array
  /** Undoes filtering. Returns null if a row names a filter type above 4. */
  pngUnfilter(filtered: Uint8Array, stride: number, height: number, pixelBytes: number): Uint8Array | null
}
