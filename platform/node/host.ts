/** The core's host on Node: files on disk, zlib, kernels from the built WASM file. */
import type { CanvasKit } from 'canvaskit-wasm'
import { createRequire } from 'node:module'
import path from 'node:path'
import { avifEncoder } from '../avif'
import { j2kDecoder } from '../jpeg2000'
import { jxlDecoder, jxlEncoder } from '../jxl'
import { shaper } from '../shaper'
import { vectorPlayer } from '../vector'
import { open, readFile, stat } from 'node:fs/promises'
import { createHash } from 'node:crypto'
import zlib from 'node:zlib'
import { promisify } from 'node:util'
import { unreachable } from '../../core/base/errors'
import { memoryReader, type ByteReader, type FileRef } from '../../core/base/files/file'
import { openZipped } from '../../core/base/files/zip'
import { MAX_PIXELS } from '../../core/frame/frame'
import type { Host, PictureDecoder, PngDecoder, WebpCodec } from '../../core/frame/host'
import type { Deflate } from '../../core/base/files/zip'
import type { Kernels } from '../../core/frame/kernels/kernels'
import { familyOf } from '../../core/draw/type/faces'
import { wasmKernels } from '../../core/frame/kernels/wasm'
import { nodeVideo } from './video'

const inflateAsync = promisify<zlib.InputType, zlib.ZlibOptions, Buffer>(zlib.inflate)
const inflateRawAsync = promisify<zlib.InputType, zlib.ZlibOptions, Buffer>(zlib.inflateRaw)

/** Small Buffers share one slab; a result must own its bytes, because it may travel to another thread. */
function owned(buffer: Buffer): Uint8Array {
  return buffer.byteLength === buffer.buffer.byteLength ? new Uint8Array(buffer.buffer) : new Uint8Array(buffer)
}

export const nodeDeflate: Deflate = {
  async inflate(bytes, size, form) {
    const inflated = await (form === 'zlib' ? inflateAsync : inflateRawAsync)(bytes, {
      maxOutputLength: Math.max(1, size),
      chunkSize: Math.max(64, size)
    })
    if (inflated.length !== size) throw new Error(`it unpacks to ${inflated.length} bytes instead of ${size}`)
    return owned(inflated)
  }
}

/** libwebp through sharp. One thread each: the pool has a worker for every processor already. */
const nodeWebp: WebpCodec = {
  async encode(rgba, width, height, { coding, quality }) {
    const { default: sharp } = await import('sharp')
    sharp.concurrency(1)
    const image = sharp(Buffer.from(rgba.buffer, rgba.byteOffset, rgba.length), { raw: { width, height, channels: 4 } })
    const options =
      coding === 'lossless'
        ? { lossless: true, exact: true, effort: 4 }
        : coding === 'near-lossless'
          ? { nearLossless: true, quality, exact: true, effort: 4 }
          : { quality, alphaQuality: 100, exact: false, effort: 4, smartSubsample: true }
    return owned(await image.webp(options).toBuffer())
  },
  async decode(file) {
    const { default: sharp } = await import('sharp')
    sharp.concurrency(1)
    const { data, info } = await sharp(file, { limitInputPixels: MAX_PIXELS })
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    return { width: info.width, height: info.height, rgba: owned(data) }
  }
}

const nodeJxl = jxlDecoder(async () => {
  const place = path.dirname(createRequire(import.meta.url).resolve('jxl-oxide-wasm/package.json'))
  return WebAssembly.compile(await readFile(path.join(place, 'jxl_oxide_wasm_bg.wasm')))
})

/** A module that lies in an installed package. */
const moduleOf = (name: string) => async (): Promise<WebAssembly.Module> =>
  WebAssembly.compile(await readFile(createRequire(import.meta.url).resolve(name)))

const nodeAvif = avifEncoder(moduleOf('@jsquash/avif/codec/enc/avif_enc.wasm'))
const nodeJxlEncoder = jxlEncoder(moduleOf('@jsquash/jxl/codec/enc/jxl_enc.wasm'))

/** A library that looks for itself beside its own file, from its package. */
const required = <T>(name: string): Promise<{ default: T }> =>
  Promise.resolve({ default: createRequire(import.meta.url)(name) as T })

const nodeShaper = shaper({
  code: () => required('harfbuzzjs/hb.js'),
  module: moduleOf('harfbuzzjs/hb.wasm')
})

const nodeJ2k = j2kDecoder(async () => {
  const place = createRequire(import.meta.url).resolve('@cornerstonejs/codec-openjpeg/decodewasm')
  return new Uint8Array(await readFile(place)).buffer
})

/** JPEG and AVIF through sharp, without turning by metadata, as the browser's decoder leaves them. */
const nodePictures: PictureDecoder = {
  async decode(file) {
    const { default: sharp } = await import('sharp')
    sharp.concurrency(1)
    const { data, info } = await sharp(file, { limitInputPixels: MAX_PIXELS, failOn: 'error' })
      .toColourspace('srgb')
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    return { width: info.width, height: info.height, rgba: owned(data) }
  }
}

/** PNG through sharp, code for code: nothing is converted by what the file says of its colour. */
const nodePng: PngDecoder = {
  name: 'libvips',
  async decode(file, depth) {
    const { default: sharp } = await import('sharp')
    sharp.concurrency(1)
    const image = sharp(file, { limitInputPixels: MAX_PIXELS, failOn: 'error', ignoreIcc: true })
    const { data, info } = await (depth === 16 ? image.toColourspace('rgb16') : image)
      .ensureAlpha()
      .raw({ depth: depth === 16 ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true })
    const bytes = owned(data)
    return { width: info.width, height: info.height, samples: depth === 16 ? new Uint16Array(bytes.buffer) : bytes }
  }
}

/** The codecs that this machine has. */
export const nodeCodecs: Pick<Host, 'webp' | 'avif' | 'pictures' | 'jxl' | 'jxlEncoder' | 'j2k' | 'video'> = {
  webp: nodeWebp,
  avif: nodeAvif,
  pictures: nodePictures,
  jxl: nodeJxl,
  jxlEncoder: nodeJxlEncoder,
  j2k: nodeJ2k,
  video: nodeVideo
}

async function diskReader(path: string, location: string): Promise<ByteReader> {
  const handle = await open(location, 'r').catch((error: unknown) => {
    const { code } = error as NodeJS.ErrnoException
    throw unreachable(`the file cannot be opened (${code ?? String(error)})`, path)
  })
  const { size } = await handle.stat()
  return {
    name: path,
    size,
    async read(offset, length) {
      const wanted = Math.max(0, Math.min(length, size - offset))
      const bytes = new Uint8Array(wanted)
      let at = 0
      while (at < wanted) {
        const { bytesRead } = await handle.read(bytes, at, wanted - at, offset + at)
        if (bytesRead === 0) break
        at += bytesRead
      }
      return bytes.subarray(0, at)
    },
    close: () => handle.close()
  }
}

/** The library that plays vector animations, from its package. */
async function nodeVectors(): Promise<CanvasKit> {
  const require = createRequire(import.meta.url)
  const begin = require('canvaskit-wasm/full') as (how: { locateFile(): string }) => Promise<CanvasKit>
  return begin({ locateFile: () => require.resolve('canvaskit-wasm/bin/full/canvaskit.wasm') })
}

/** A type face's file, from the package that it ships in. */
async function nodeFont(name: string): Promise<ArrayBuffer> {
  const file = createRequire(import.meta.url).resolve(`@fontsource/${familyOf(name)}/files/${name}`)
  return new Uint8Array(await readFile(file)).buffer
}

/** A host over the kernels file at `kernelsPath`. */
export async function nodeHost(kernelsPath: string): Promise<Host> {
  return hostWith(await wasmKernels(await WebAssembly.compile(await readFile(kernelsPath))))
}

/** The same over kernels that are at hand already. */
export function hostWith(kernels: Kernels): Host {
  const host: Host = {
    kernels,
    deflate: nodeDeflate,
    ...nodeCodecs,
    png: nodePng,
    font: nodeFont,
    shaper: nodeShaper,
    vectors: vectorPlayer(nodeVectors),
    sha256() {
      const hash = createHash('sha256')
      return { update: bytes => void hash.update(bytes), end: () => Promise.resolve(hash.digest('hex')) }
    },
    async stamp(file) {
      if (file.kind !== 'disk') return String(file.size)
      const at = await stat(file.location, { bigint: true }).catch((error: unknown) => {
        throw unreachable(`the file is gone (${(error as NodeJS.ErrnoException).code ?? String(error)})`, file.path)
      })
      return `${at.dev} ${at.ino} ${at.size} ${at.mtimeNs} ${at.ctimeNs}`
    },
    async openFile(file: FileRef): Promise<ByteReader> {
      if (file.kind === 'disk') return diskReader(file.path, file.location)
      if (file.kind === 'bytes') return memoryReader(file.path, file.bytes)
      if (file.kind === 'blob') return memoryReader(file.path, new Uint8Array(await file.blob.arrayBuffer()))
      const archive = await host.openFile(file.archive)
      try {
        return await openZipped(file, archive, nodeDeflate)
      } finally {
        await archive.close()
      }
    }
  }
  return host
}
