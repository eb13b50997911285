/** JPEG 2000 by a library's decoder as WASM: its samples as they are coded, no colour changed. */
import type { J2kDecoder } from '../core/frame/host'

interface Library {
  J2KDecoder: new () => {
    getEncodedBuffer(bytes: number): Uint8Array
    getDecodedBuffer(): Uint8Array
    decode(): void
    getFrameInfo(): {
      width: number
      height: number
      bitsPerSample: number
      componentCount: number
    }
    delete(): void
  }
}

/** A decoder over the module that `load` brings. Rejects with a plain Error when a codestream is damaged. */
export function j2kDecoder(load: () => Promise<ArrayBuffer>): J2kDecoder {
  let begun: Promise<Library> | null = null
  return async codestream => {
    begun ??= (async () => {
      const [{ default: begin }, wasmBinary] = await Promise.all([
        import('@cornerstonejs/codec-openjpeg/decodewasmjs'),
        load()
      ])
      // what the library says of a damaged file it says by failing
      return (await begin({ wasmBinary, print: () => undefined, printErr: () => undefined })) as Library
    })().catch((error: unknown) => {
      begun = null
      throw error
    })
    const decoder = new (await begun).J2KDecoder()
    try {
      decoder.getEncodedBuffer(codestream.length).set(codestream)
      decoder.decode()
      const { width, height, bitsPerSample: bits, componentCount: components } = decoder.getFrameInfo()
      // a copy: what the decoder holds is gone with it
      const bytes = decoder.getDecodedBuffer().slice()
      const samples = bits <= 8 ? bytes : new Uint16Array(bytes.buffer)
      if (samples.length !== width * height * components) throw new Error('its picture ends early')
      return { width, height, components, bits, samples }
    } catch (error) {
      // the library throws numbers
      throw error instanceof Error ? error : new Error('its picture does not decode')
    } finally {
      decoder.delete()
    }
  }
}
