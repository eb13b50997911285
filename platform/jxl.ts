/** JPEG XL by its own library as WASM: RGBA, straight, 8 bits. */
import type * as jxlDecode from '@jsquash/jxl/decode.js'
import type { PictureDecoder } from '../core/host'

type Decoded = Awaited<ReturnType<PictureDecoder['decode']>>

/** A decoder over the module that `load` brings. Rejects with a plain Error when a file is damaged. */
export function jxlDecoder(load: () => Promise<WebAssembly.Module>): (file: Uint8Array) => Promise<Decoded> {
  let begun: Promise<typeof jxlDecode> | null = null
  return async file => {
    begun ??= (async () => {
      const library = await import('@jsquash/jxl/decode.js')
      await library.init(await load())
      return library
    })().catch((error: unknown) => {
      begun = null
      throw error
    })
    const { default: decode } = await begun
    const { width, height, data } = await decode(new Uint8Array(file).buffer)
    return { width, height, rgba: new Uint8Array(data.buffer, data.byteOffset, data.byteLength) }
  }
}
