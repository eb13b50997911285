/** How pictures of codes or floats lie in the kernels' memory, for those that take either. */

export type PictureSamples = Uint8Array | Uint16Array | Float32Array

/** Puts samples at a place; gives their kind as the kernels number them: codes of 8 bits 0, of 16 bits 1, floats 2. */
export function layPicture(buffer: ArrayBuffer, at: number, samples: PictureSamples): 0 | 1 | 2 {
  new Uint8Array(buffer, at, samples.byteLength).set(
    new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
  )
  return samples instanceof Uint8Array ? 0 : samples instanceof Uint16Array ? 1 : 2
}

/** What was made of samples: floats back in their place, codes as fresh ones of 16 bits. */
export function takePicture<T extends PictureSamples>(
  buffer: ArrayBuffer,
  at: number,
  samples: T
): Uint16Array | Float32Array {
  if (!(samples instanceof Float32Array)) return new Uint16Array(buffer, at, samples.length).slice()
  samples.set(new Float32Array(buffer, at, samples.length))
  return samples
}
