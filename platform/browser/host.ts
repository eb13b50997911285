/** The core's host in a browser, on the page or in a worker: blobs, compression streams, kernels by their address. */
import type * as pngDecode from '@jsquash/png/decode.js'
import type * as webpDecode from '@jsquash/webp/decode.js'
import type * as webpEncode from '@jsquash/webp/encode.js'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { impossible, PourError, sentenceOf, unreachable } from '../../core/base/errors'
import { memoryReader, type ByteReader, type FileRef } from '../../core/base/files/file'
import { openZipped } from '../../core/base/files/zip'
import type { Hasher, Host, PngDecoder, WebpCodec } from '../../core/frame/host'
import type { Deflate } from '../../core/base/files/zip'
import { wasmKernels } from '../../core/frame/kernels/wasm'
import { browserModels } from './model'
import { browserFilms, browserPictures } from './decode'
import { avifEncoder } from '../avif'
import { j2kDecoder } from '../jpeg2000'
import { jxlDecoder, jxlEncoder } from '../jxl'
import { shaper } from '../shaper'
import { vectorPlayer } from '../vector'
import { browserVideo } from './video'

async function collect(stream: ReadableStream<Uint8Array>, size: number | null): Promise<Uint8Array> {
  const parts: Uint8Array[] = []
  let length = 0
  const reader = stream.getReader()
  for (;;) {
    const { done, value } = await reader.read()
    if (done) break
    parts.push(value)
    length += value.length
    if (size !== null && length > size) {
      await reader.cancel()
      throw new Error(`it unpacks to more than ${size} bytes`)
    }
  }
  const whole = new Uint8Array(length)
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}

function through(bytes: Uint8Array, transform: DecompressionStream): ReadableStream<Uint8Array> {
  const writer = transform.writable.getWriter()
  // a damaged stream fails on the readable side too, where it is reported
  writer.write(bytes as Uint8Array<ArrayBuffer>).catch(() => undefined)
  writer.close().catch(() => undefined)
  return transform.readable
}

export const browserDeflate: Deflate = {
  async inflate(bytes, size, form) {
    const inflated = await collect(
      through(bytes, new DecompressionStream(form === 'zlib' ? 'deflate' : 'deflate-raw')),
      size
    )
    if (inflated.length !== size) throw new Error(`it unpacks to ${inflated.length} bytes instead of ${size}`)
    return inflated
  }
}

/** The bytes at an address. Rejects as unreachable when the server is not there, or hands out something else. */
async function bytesAt(address: string): Promise<ArrayBuffer> {
  const response = await fetch(address).catch((error: unknown) => {
    throw unreachable(`Pour's server does not answer (${sentenceOf(error)})`)
  })
  if (!response.ok) throw unreachable(`Pour's server does not hand out ${address} (${response.status})`)
  return response.arrayBuffer()
}

/** The module at an address. */
const load = async (address: string): Promise<WebAssembly.Module> => WebAssembly.compile(await bytesAt(address))

/** Code that is loaded when first needed, and asked for again after it could not be had. */
function whenNeeded<T>(name: string, begin: () => Promise<T>): () => Promise<T> {
  let made: Promise<T> | null = null
  return () => {
    made ??= begin().catch((error: unknown) => {
      made = null
      throw error instanceof PourError ? error : unreachable(`${name} could not be loaded (${sentenceOf(error)})`)
    })
    return made
  }
}

/** libwebp as WASM, loaded when first needed from the addresses the interface's bundler gave it. */
function wasmWebp(addresses: { encoder: string; decoder: string }): WebpCodec {
  const encoder = whenNeeded<typeof webpEncode>('the WebP encoder', async () => {
    const module = await import('@jsquash/webp/encode.js')
    await module.init(await load(addresses.encoder))
    return module
  })
  const decoder = whenNeeded<typeof webpDecode>('the WebP decoder', async () => {
    const module = await import('@jsquash/webp/decode.js')
    await module.init(await load(addresses.decoder))
    return module
  })
  return {
    async encode(rgba, width, height, { coding, quality }) {
      const { default: encode } = await encoder()
      const image = new ImageData(new Uint8ClampedArray(rgba), width, height)
      const options =
        coding === 'lossless'
          ? { lossless: 1, exact: 1, near_lossless: 100 }
          : coding === 'near-lossless'
            ? { lossless: 1, exact: 1, near_lossless: quality }
            : { lossless: 0, quality, alpha_quality: 100, use_sharp_yuv: 1 }
      return new Uint8Array(await encode(image, { ...options, method: 4 }))
    },
    async decode(file) {
      const { default: decode } = await decoder()
      const image = await decode(new Uint8Array(file).buffer)
      return { width: image.width, height: image.height, rgba: new Uint8Array(image.data.buffer) }
    }
  }
}

/** The png crate as WASM, loaded when first needed. */
function wasmPng(address: string): PngDecoder {
  const decoder = whenNeeded<typeof pngDecode>('the PNG decoder', async () => {
    const module = await import('@jsquash/png/decode.js')
    await module.init(await load(address))
    return module
  })
  return {
    name: 'the png crate',
    async decode(file, depth) {
      const { decode } = await decoder()
      const bytes = new Uint8Array(file).buffer
      if (depth === 8) {
        const { width, height, data } = await decode(bytes)
        return { width, height, samples: new Uint8Array(data.buffer) }
      }
      const image = await decode(bytes, { bitDepth: 16 })
      // its samples are a view of the module's memory, which is given back by hand and may move: they are copied out
      // first
      const { width, height } = image
      const samples = image.data.slice()
      image.free()
      return { width, height, samples }
    }
  }
}

export interface Addresses {
  kernels: string
  webpEncoder: string
  webpDecoder: string
  avifEncoder: string
  pngDecoder: string
  jxlDecoder: string
  jxlEncoder: string
  j2kDecoder: string
  shaper: string
  vectors: string
  /** Files of type faces, by name. */
  fonts: Readonly<Record<string, string>>
}

/**
 * The browser's own SHA-256 takes all bytes at once and is ten times as fast; beyond so many, pieces go through a
 * library's.
 */
const SUMMED_AT_ONCE = 256 * 2 ** 20

function browserSha256(total: number): Hasher {
  // an address other than this machine's own may be without it
  if (total > SUMMED_AT_ONCE || !isSecureContext) {
    const hash = sha256.create()
    return { update: bytes => void hash.update(bytes), end: () => Promise.resolve(bytesToHex(hash.digest())) }
  }
  const all = new Uint8Array(total)
  let at = 0
  return {
    update(bytes) {
      all.set(bytes, at)
      at += bytes.length
    },
    end: async () => bytesToHex(new Uint8Array(await crypto.subtle.digest('SHA-256', all.subarray(0, at))))
  }
}

function blobReader(name: string, blob: Blob): ByteReader {
  return {
    name,
    size: blob.size,
    async read(offset, length) {
      try {
        return new Uint8Array(await blob.slice(offset, Math.min(blob.size, offset + length)).arrayBuffer())
      } catch {
        // the browser only keeps a path to files that were chosen; they may have moved since
        throw unreachable(
          'the browser can no longer read this file; it was moved, changed or removed since it was brought in',
          name
        )
      }
    },
    close: () => Promise.resolve()
  }
}

/** A host over WASM files at the given addresses. */
export async function browserHost(addresses: Addresses): Promise<Host> {
  const kernels = await wasmKernels(await load(addresses.kernels))
  const host: Host = {
    kernels,
    deflate: browserDeflate,
    video: browserVideo,
    films: browserFilms,
    models: browserModels,
    pictures: browserPictures,
    jxl: jxlDecoder(() => load(addresses.jxlDecoder)),
    jxlEncoder: jxlEncoder(() => load(addresses.jxlEncoder)),
    j2k: j2kDecoder(() => bytesAt(addresses.j2kDecoder)),
    avif: avifEncoder(() => load(addresses.avifEncoder)),
    sha256: browserSha256,
    png: wasmPng(addresses.pngDecoder),
    vectors: vectorPlayer(async () => {
      const { default: begin } = await import('canvaskit-wasm/full')
      return begin({ locateFile: () => addresses.vectors })
    }),
    shaper: shaper({
      code: () => import('harfbuzzjs/hb.js'),
      module: () => load(addresses.shaper)
    }),
    async font(name) {
      const address = addresses.fonts[name]
      const response = address ? await fetch(address).catch(() => null) : null
      if (!response?.ok) throw unreachable(`Pour's server does not hand out the type face ${name}`)
      return response.arrayBuffer()
    },
    webp: wasmWebp({ encoder: addresses.webpEncoder, decoder: addresses.webpDecoder }),
    async stamp(file) {
      if (file.kind !== 'blob') return String(file.size)
      // bytes in the browser's store do not change, but they may be gone; a file outside it has a date
      await (await host.openFile(file)).read(0, 1)
      const { blob } = file
      return `${blob.size} ${blob instanceof File ? blob.lastModified : ''}`
    },
    async openFile(file: FileRef): Promise<ByteReader> {
      if (file.kind === 'blob') return blobReader(file.path, file.blob)
      if (file.kind === 'bytes') return memoryReader(file.path, file.bytes)
      if (file.kind === 'zipped') return openZipped(file, await host.openFile(file.archive), browserDeflate)
      throw impossible(`${file.path} lies on a disk that a browser cannot read`)
    }
  }
  return host
}
