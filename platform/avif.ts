/** AVIF by an encoder as WASM: the same bytes in the browser and on Node. */
import type { AVIFModule } from '@jsquash/avif/codec/enc/avif_enc.js'
import type { AvifEncoder } from '../core/frame/host'
import { beginOnce } from './begin-wasm'

/** What is not asked: no denoising, no tiles, colour at every pixel. */
const STILL = {
  denoiseLevel: 0,
  tileColsLog2: 0,
  tileRowsLog2: 0,
  subsample: 3,
  chromaDeltaQ: false,
  sharpness: 0,
  tune: 0,
  enableSharpYUV: false,
  bitDepth: 8
} as const

/** An encoder over the module that `load` brings. Rejects with a plain Error where it gives nothing. */
export function avifEncoder(load: () => Promise<WebAssembly.Module>): AvifEncoder {
  const begun = beginOnce<AVIFModule>(() => import('@jsquash/avif/codec/enc/avif_enc.js'), load)
  return async (rgba, width, height, { quality, effort }) => {
    const encoder = await begun()
    // colour of the best quality at every pixel is coded without loss, and alpha of that quality always is
    const given = { ...STILL, quality: quality ?? 100, qualityAlpha: 100, speed: effort === 'small' ? 6 : 8 }
    const file = encoder.encode(new Uint8Array(rgba), width, height, given)
    if (!file) throw new Error('the AVIF encoder gave nothing')
    return file.slice()
  }
}
