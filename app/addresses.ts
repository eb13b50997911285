/** Where the bundler put the WASM files that page and workers load. */
import avifEncoder from '@jsquash/avif/codec/enc/avif_enc.wasm?url'
import webpDecoder from '@jsquash/webp/codec/dec/webp_dec.wasm?url'
import webpEncoder from '@jsquash/webp/codec/enc/webp_enc_simd.wasm?url'
import j2kDecoder from '@cornerstonejs/codec-openjpeg/decodewasm?url'
import jxlEncoder from '@jsquash/jxl/codec/enc/jxl_enc.wasm?url'
import shaper from 'harfbuzzjs/hb.wasm?url'
import jxlDecoder from 'jxl-oxide-wasm/module.wasm?url'
import vectors from 'canvaskit-wasm/bin/full/canvaskit.wasm?url'
import kernels from '~~/core/frame/kernels/build/kernels.wasm?url'
import type { Addresses } from '~~/platform/browser/host'

// the one WASM file of the PNG decoder's package
const pngFiles = Object.values(
  import.meta.glob<string>('../node_modules/@jsquash/png/codec/pkg/*.wasm', {
    query: '?url',
    import: 'default',
    eager: true
  })
)
const pngDecoder = pngFiles[0]!

const faces = {
  ...import.meta.glob<string>(
    '../node_modules/@fontsource/ibm-plex-{sans,mono}/files/ibm-plex-{sans,mono}-{latin,latin-ext,cyrillic,greek}-{400,600,700}-normal.woff',
    { query: '?url', import: 'default', eager: true }
  ),
  ...import.meta.glob<string>(
    '../node_modules/@fontsource/ibm-plex-sans-{hebrew,arabic,thai,devanagari}/files/*-{hebrew-hebrew,arabic-arabic,thai-thai,devanagari-devanagari}-{400,600,700}-normal.woff',
    { query: '?url', import: 'default', eager: true }
  ),
  ...import.meta.glob<string>('../node_modules/@fontsource/ibm-plex-sans-jp/files/*-400-normal.woff', {
    query: '?url',
    import: 'default',
    eager: true
  })
}
const fonts = Object.fromEntries(Object.entries(faces).map(([path, address]) => [path.split('/').pop()!, address]))

export const addresses: Addresses = {
  ...{ kernels, vectors, fonts },
  ...{ webpEncoder, webpDecoder, pngDecoder, jxlDecoder, jxlEncoder, j2kDecoder, avifEncoder, shaper }
}
