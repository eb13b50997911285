/** JPEG XL by a decoder in Rust as WASM, its picture as PNG at the file's depth; written by another's encoder. */
import type * as Jxl from 'jxl-oxide-wasm'
import type { JXLModule } from '@jsquash/jxl/codec/enc/jxl_enc.js'
import type { JxlDecoder, JxlEncoder } from '../core/frame/host'
import { beginOnce } from './begin-wasm'

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

/** What is not asked of the encoder. */
const STILL = {
  progressive: false,
  epf: -1,
  lossyPalette: false,
  decodingSpeedTier: 0,
  photonNoiseIso: 0,
  lossyModular: false
} as const

/** An encoder over the module that `load` brings. Rejects with a plain Error where it gives nothing. */
export function jxlEncoder(load: () => Promise<WebAssembly.Module>): JxlEncoder {
  const begun = beginOnce<JXLModule>(() => import('@jsquash/jxl/codec/enc/jxl_enc.js'), load)
  return async (rgba, width, height, quality) => {
    const given = { ...STILL, lossless: quality === null, quality: quality ?? 100, effort: quality === null ? 3 : 4 }
    const file = (await begun()).encode(new Uint8Array(rgba), width, height, given)
    if (!file) throw new Error('the JPEG XL encoder gave nothing')
    return file.slice()
  }
}
