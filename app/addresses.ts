/** Where the bundler put the WASM files that page and workers load. */
import webpDecoder from '@jsquash/webp/codec/dec/webp_dec.wasm?url'
import webpEncoder from '@jsquash/webp/codec/enc/webp_enc_simd.wasm?url'
import kernels from '~~/core/kernels/build/kernels.wasm?url'
import type { Addresses } from '~~/platform/browser/host'

export const addresses: Addresses = { kernels, webpEncoder, webpDecoder }
