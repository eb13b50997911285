/** Binds the WASM build to the `Kernels` interface: copies samples into its scratch memory, runs, copies the result out. */
import type { Triple } from '../colour'
import { noRoom } from '../errors'
import type { Kernels } from './kernels'

interface Exports {
  memory: WebAssembly.Memory
  reserve(bytes: number): number
  premultiply8(from: number, to: number, pixels: number, r: number, g: number, b: number): void
  premultiply16(from: number, to: number, pixels: number, r: number, g: number, b: number): void
  unpremultiply8(from: number, to: number, pixels: number, r: number, g: number, b: number): void
  unpremultiply16(from: number, to: number, pixels: number, r: number, g: number, b: number): void
  pngFilter(from: number, to: number, zeros: number, scratch: number, stride: number, height: number, pixelBytes: number): void
  pngUnfilter(from: number, to: number, zeros: number, stride: number, height: number, pixelBytes: number): number
}

type AlphaKernel = 'premultiply8' | 'premultiply16' | 'unpremultiply8' | 'unpremultiply16'

const align = (bytes: number): number => (bytes + 63) & ~63

/** Instantiates the compiled module. The module imports nothing but `env.abort`, which no kernel reaches. */
export async function wasmKernels(module: WebAssembly.Module): Promise<Kernels> {
  const instance = await WebAssembly.instantiate(module, { env: { abort: () => undefined } })
  const exports = instance.exports as unknown as Exports

  function reserve(bytes: number): number {
    const at = exports.reserve(bytes) >>> 0
    if (at === 0) throw noRoom(`the kernels could not get ${Math.ceil(bytes / 2 ** 20)} MiB of memory`)
    return at
  }

  function alpha<T extends Uint8Array | Uint16Array>(kernel: AlphaKernel, samples: T, matte: Triple): T {
    const size = align(samples.byteLength)
    const from = reserve(size * 2)
    const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
    new Uint8Array(exports.memory.buffer).set(bytes, from)
    exports[kernel](from, from + size, samples.length / 4, matte[0], matte[1], matte[2])
    const result = exports.memory.buffer.slice(from + size, from + size + samples.byteLength)
    return (samples instanceof Uint8Array ? new Uint8Array(result) : new Uint16Array(result)) as T
  }

  return {
    name: 'wasm',
    premultiply8: (samples, matte) => alpha('premultiply8', samples, matte),
    premultiply16: (samples, matte) => alpha('premultiply16', samples, matte),
    unpremultiply8: (samples, matte) => alpha('unpremultiply8', samples, matte),
    unpremultiply16: (samples, matte) => alpha('unpremultiply16', samples, matte),

    pngFilter(rows, stride, height, pixelBytes) {
      const size = (stride + 1) * height
      const from = reserve(align(rows.length + 16) + align(size) + align(stride + 16) * 6)
      const to = from + align(rows.length + 16)
      const zeros = to + align(size)
      const memory = new Uint8Array(exports.memory.buffer)
      memory.set(rows, from)
      memory.fill(0, zeros, zeros + stride + 16)
      exports.pngFilter(from, to, zeros, zeros + align(stride + 16), stride, height, pixelBytes)
      return memory.slice(to, to + size)
    },

    pngUnfilter(filtered, stride, height, pixelBytes) {
      const size = stride * height
      const from = reserve(align(filtered.length + 16) + align(size + 16) + align(stride + 16))
      const to = from + align(filtered.length + 16)
      const zeros = to + align(size + 16)
      const memory = new Uint8Array(exports.memory.buffer)
      memory.set(filtered, from)
      memory.fill(0, zeros, zeros + stride + 16)
      const good = exports.pngUnfilter(from, to, zeros, stride, height, pixelBytes)
      return good ? memory.slice(to, to + size) : null
    }
  }
}
