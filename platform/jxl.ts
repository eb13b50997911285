/** JPEG XL by a decoder in Rust as WASM: its picture as PNG, at the depth that the file has. */
import type * as Jxl from 'jxl-oxide-wasm'
import type { JxlDecoder } from '../core/frame/host'

/** A decoder over the module that `load` brings. Rejects with a plain Error when a file is damaged. */
export function jxlDecoder(load: () => Promise<WebAssembly.Module>): JxlDecoder {
  let begun: Promise<typeof Jxl> | null = null
  return async (file, deep) => {
    begun ??= (async () => {
      const library = await import('jxl-oxide-wasm')
      await library.default({ module_or_path: await load() })
      return library
    })().catch((error: unknown) => {
      begun = null
      throw error
    })
    const { JxlImage } = await begun
    const image = new JxlImage()
    try {
      image.feedBytes(file)
      if (!image.tryInit()) throw new Error('it ends before its picture')
      // brought to sRGB it comes at 8 bits; as it is, at the file's depth
      image.forceSrgb = !deep
      // what was rendered is used up by this
      return image.render().encodeToPng()
    } catch (error) {
      // the library throws words
      throw error instanceof Error ? error : new Error(String(error))
    } finally {
      image.free()
    }
  }
}
