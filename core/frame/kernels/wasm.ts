/**
 * Binds the WASM build to the `Kernels` interface: copies samples into its scratch memory, runs, copies the result out.
 */
import type { Triple } from '../../base/colour'
import { noRoom } from '../../base/errors'
import { toLinear } from './ciede2000'
import { BLOCK_BYTES, digitsOf, freshLanes, lastBlock } from './fingerprint'
import type { Counts, Kernels } from './kernels'
import type { Ended } from './lease'
import { lzwRoom } from './terms'
import { rleBound } from './terms'
import { STRETCH, usedStretches } from './stretches'
import { wasmKeyBeside } from './wasm-beside'
import { wasmCompare } from './wasm-compare'
import { wasmBlur, wasmLargest, wasmResample } from './wasm-filters'
import { wasmLedByLuma } from './wasm-led'
import { wasmChromaKey, wasmDither8, wasmKeyHue, wasmTakeBackground, wasmTakeOut } from './wasm-keys'
import { wasmFfv1Decode, wasmFfv1Encode } from './wasm-ffv1'
import { countsAt, LOOK_TABLES, wasmExamine } from './wasm-examine'
import { kernelsOf } from './exports'
import type { Room } from './wasm-room'
import { wasmTextureDecode, wasmTextureEncode } from './wasm-texture'
import { wasmTriples } from './wasm-triples'
import { wasmPlanarCode, wasmPlanarDecode, wasmPlanarJoin, wasmPlanarSplit } from './wasm-planar'
import { wasmVc3Rgba } from './wasm-vc3'
import { wasmYccToRgba } from './wasm-ycc'
import { wasmVc3Encode } from './wasm-vc3-code'
import { wasmWaveletEncode, wasmWaveletPlanes, wasmWaveletRgba } from './wasm-wavelet'
import { wasmTurn } from './wasm-turn'
import { wasmReadingsApart, wasmProres, wasmProresAlpha } from './wasm-prores'

const RLE_FAULTS = ['ends-at-line', 'ends-within', 'too-wide'] as const

type AlphaKernel = 'premultiply8' | 'premultiply16' | 'unpremultiply8' | 'unpremultiply16'

/** Bytes that scratch memory has at most: what an address of 32 bits reaches, less what lies before it. */
const MOST_SCRATCH = 2 ** 32 - 2 ** 26

// sizes may lie beyond what 32 bits count, and must not come round to small ones
const align = (bytes: number): number => 64 * Math.ceil(bytes / 64)

const bytesOf = (samples: Uint8Array | Uint16Array): Uint8Array =>
  new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)

/** Instantiates the compiled module. The module imports nothing but `env.abort`, which no kernel reaches. */
export async function wasmKernels(module: WebAssembly.Module): Promise<Kernels> {
  const instance = await WebAssembly.instantiate(module, { env: { abort: () => undefined } })
  const exports = kernelsOf(instance)

  function got(at: number, bytes: number): number {
    if (at >>> 0 === 0) throw noRoom(`the kernels could not get ${Math.ceil(bytes / 2 ** 20)} MiB of memory`)
    return at >>> 0
  }

  // linear light for every 16-bit code
  const linear = got(exports.keep(4 * 65536), 4 * 65536)
  new Float32Array(exports.memory.buffer, linear, 65536).set(
    Float32Array.from({ length: 65536 }, (_, code) => toLinear(code / 65535))
  )

  /**
   * Places of these sizes in scratch memory, one behind the other, each with room to read and write a vector beyond its
   * end.
   */
  function lay(...sizes: number[]): number[] {
    const total = sizes.reduce((sum, size) => sum + align(size + 16), 0)
    // a size beyond what the kernels can count to would be taken for a small one
    let at = got(total < MOST_SCRATCH ? exports.reserve(total) : 0, total)
    return sizes.map(size => {
      const place = at
      at += align(size + 16)
      return place
    })
  }

  const room: Room = { exports, lay, take: taken }

  /**
   * Buffers that were given back, the latest last. Fresh memory of a frame's size is slow to come by, and slow to be
   * got rid of.
   */
  let spared: ArrayBuffer[] = []
  const SPARED_BYTES = 80 << 20

  /** A buffer that was given back, with whatever it holds; null where none has that size. */
  function reused(bytes: number): ArrayBuffer | null {
    const at = spared.findLastIndex(buffer => buffer.byteLength === bytes)
    return at < 0 ? null : spared.splice(at, 1)[0]!
  }

  function takeBack(ended: Ended): void {
    const buffer = ended.buffer()
    if (!buffer) return
    spared.push(buffer)
    let bytes = 0
    spared = spared.filter(
      (_, i) => i === spared.length - 1 || (bytes += spared[i]!.byteLength) + buffer.byteLength <= SPARED_BYTES
    )
  }

  /** Copies bytes out. An array that is then set is filled a third faster than a slice. */
  function taken(at: number, length: number): Uint8Array<ArrayBuffer> {
    const result = new Uint8Array(reused(length) ?? new ArrayBuffer(length))
    result.set(new Uint8Array(exports.memory.buffer, at, length))
    return result
  }

  /**
   * Alpha in stretches that stay in the processor's cache. An animation is mostly clear: where clear becomes zero,
   * clear stretches are left as a fresh array has them.
   */
  function alpha<T extends Uint8Array | Uint16Array>(kernel: AlphaKernel, samples: T, matte: Triple): T {
    const old = reused(samples.byteLength)
    const result = new (samples.constructor as new (buffer: ArrayBuffer) => T)(
      old ?? new ArrayBuffer(samples.byteLength)
    )
    const [source, target] = [bytesOf(samples), bytesOf(result)]
    const pixelBytes = 4 * samples.BYTES_PER_ELEMENT
    const room = STRETCH * pixelBytes
    const [from, to] = lay(room, room) as [number, number]
    const memory = new Uint8Array(exports.memory.buffer)
    const clearIsZero = kernel.startsWith('un') || matte.every(code => code === 0)
    for (let first = 0; first < source.length; first += room) {
      const part = source.subarray(first, first + room)
      memory.set(part, from)
      const pixels = part.length / pixelBytes
      if (clearIsZero && !exports.seen(from, pixels, samples.BYTES_PER_ELEMENT)) {
        if (old) target.fill(0, first, first + part.length)
        continue
      }
      exports[kernel]({ from, to, pixels, mr: matte[0], mg: matte[1], mb: matte[2] })
      target.set(memory.subarray(to, to + part.length), first)
    }
    return result
  }

  /** Codes of 8 bits as 16, or of 16 as 8, in stretches that stay in the cache. */
  function converted(kernel: 'widen' | 'narrow', samples: Uint8Array | Uint16Array, resultBytes: number): ArrayBuffer {
    const [wide, narrow] = [samples.BYTES_PER_ELEMENT, kernel === 'widen' ? 2 : 1]
    const [source, target] = [bytesOf(samples), new Uint8Array(reused(resultBytes) ?? new ArrayBuffer(resultBytes))]
    const room = 4 * STRETCH
    const [from, to] = lay(room * wide + 16, room * narrow + 32) as [number, number]
    const memory = new Uint8Array(exports.memory.buffer)
    for (let first = 0; first < samples.length; first += room) {
      const codes = Math.min(room, samples.length - first)
      memory.set(source.subarray(first * wide, (first + codes) * wide), from)
      exports[kernel](from, to, codes)
      target.set(memory.subarray(to, to + codes * narrow), first * narrow)
    }
    return target.buffer
  }

  /**
   * Samples of one type made into another, in stretches that stay in the cache; stretches of nothing but zero are left
   * as a fresh array has them.
   */
  function recoded<T extends Uint8Array | Uint16Array | Float32Array>(
    kernel: 'floatsOf8' | 'floatsOf16' | 'codes8Of' | 'codes16Of',
    samples: Uint8Array | Uint16Array | Float32Array,
    result: T
  ): T {
    const [source, target] = [
      new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength),
      new Uint8Array(result.buffer, result.byteOffset, result.byteLength)
    ]
    const [wide, narrow] = [samples.BYTES_PER_ELEMENT, result.BYTES_PER_ELEMENT]
    const [from, to] = lay(4 * STRETCH * wide, 4 * STRETCH * narrow) as [number, number]
    const memory = new Uint8Array(exports.memory.buffer)
    for (const [first, end] of usedStretches(samples)) {
      memory.set(source.subarray(first * wide, end * wide), from)
      exports[kernel](from, to, end - first)
      target.set(memory.subarray(to, to + (end - first) * narrow), first * narrow)
    }
    return result
  }

  function look(samples: Uint16Array): Counts {
    const [from, histogram, levels, out] = lay(samples.byteLength, ...LOOK_TABLES, 96) as [
      number,
      number,
      number,
      number
    ]
    new Uint8Array(exports.memory.buffer).set(bytesOf(samples), from)
    exports.lookBegin(histogram, levels, out, 0)
    exports.look({ from, first: 0, end: samples.length / 4, histogram, levels, out })
    exports.lookEnd(histogram, levels, out)
    return countsAt(exports.memory.buffer, histogram, levels, out)
  }

  function fingerprint(samples: Uint8Array | Uint16Array | Float32Array): string {
    const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
    const room = 8 * STRETCH
    const [from, lanes] = lay(room, BLOCK_BYTES) as [number, number]
    const memory = new Uint8Array(exports.memory.buffer)
    const state = new Uint32Array(exports.memory.buffer, lanes, 4)
    state.set(freshLanes())
    const whole = bytes.length - (bytes.length % BLOCK_BYTES)
    for (let at = 0; at < whole; at += room) {
      const part = bytes.subarray(at, Math.min(whole, at + room))
      memory.set(part, from)
      exports.mixBlocks(from, part.length / BLOCK_BYTES, lanes)
    }
    if (whole < bytes.length) {
      memory.set(lastBlock(bytes), from)
      exports.mixBlocks(from, 1, lanes)
    }
    return digitsOf(state, bytes.length)
  }

  /** Room for a zlib stream of `n` bytes. */
  const packedRoom = (n: number): number => n + (n >>> 3) + 4096
  const work = Number(exports.WORK.value)

  function zlib(bytes: Uint8Array): Uint8Array {
    const [from, to, area] = lay(bytes.length, packedRoom(bytes.length), work) as [number, number, number]
    new Uint8Array(exports.memory.buffer).set(bytes, from)
    const length = exports.zlib(from, bytes.length, to, area)
    return taken(to, length)
  }

  function pngPack(samples: Uint8Array | Uint16Array, width: number, height: number, channels: 3 | 4): Uint8Array {
    const wide = samples instanceof Uint16Array
    const pixelBytes = channels * samples.BYTES_PER_ELEMENT
    const stride = width * pixelBytes
    const size = (stride + 1) * height
    // the packed stream takes the place of the rows it was made from
    const [from, rows, filtered, zeros, scratch, area] = lay(
      Math.max(samples.byteLength, packedRoom(size)),
      stride * height,
      size,
      stride,
      5 * (stride + 80),
      work
    ) as [number, number, number, number, number, number]
    const memory = new Uint8Array(exports.memory.buffer)
    memory.set(bytesOf(samples), from)
    memory.fill(0, zeros, zeros + stride + 16)
    exports.pngRows(from, rows, width * height, wide ? 1 : 0, channels)
    exports.pngFilter({ from: rows, to: filtered, zeros, scratch, stride, height, pixelBytes })
    const length = exports.zlib(filtered, size, from, area)
    return taken(from, length)
  }

  function pngUnpack(
    filtered: Uint8Array,
    width: number,
    height: number,
    channels: 3 | 4,
    depth: 8 | 16
  ): Uint8Array | Uint16Array | null {
    const wide = depth === 16
    const pixelBytes = channels * (depth / 8)
    const stride = width * pixelBytes
    const size = width * height * 4 * (depth / 8)
    const [from, rows, zeros, to] = lay(filtered.length, stride * height, stride, size) as [
      number,
      number,
      number,
      number
    ]
    const memory = new Uint8Array(exports.memory.buffer)
    memory.set(filtered, from)
    memory.fill(0, zeros, zeros + stride + 16)
    if (!exports.pngUnfilter({ from, to: rows, zeros, stride, height, pixelBytes })) return null
    exports.pngSamples(rows, to, width * height, wide ? 1 : 0, channels)
    const result = taken(to, size)
    return wide ? new Uint16Array(result.buffer) : result
  }

  return {
    name: 'wasm',
    prores: (samples, width, height, how, choose) => wasmProres(room, samples, { width, height }, how, choose),
    proresAlpha: (data, slices, width, height, bits) => wasmProresAlpha(room, data, slices, { width, height }, bits),
    readingsApart: (ours, theirs, most) => wasmReadingsApart(room, ours, theirs, most),
    yccToRgba: (picture, alpha, weights) => wasmYccToRgba(room, picture, alpha, weights),
    zlib,
    lzw(bytes) {
      const [from, to, table] = lay(bytes.length, lzwRoom(bytes.length), 65536) as [number, number, number]
      new Uint8Array(exports.memory.buffer).set(bytes, from)
      return taken(to, exports.lzwPack(from, bytes.length, to, table))
    },
    strip(samples, { width, channels, predicted, pack }) {
      const wide = samples instanceof Uint16Array
      const size = (samples.byteLength / 4) * channels
      const [from, rows, to, area] = lay(
        samples.byteLength,
        channels === 4 ? 0 : size,
        pack === 'lzw' ? lzwRoom(size) : pack === 'zlib' ? packedRoom(size) : 0,
        pack === 'lzw' ? 65536 : pack === 'zlib' ? work : 0
      ) as [number, number, number, number]
      const at = channels === 4 ? from : rows
      new Uint8Array(exports.memory.buffer).set(bytesOf(samples), from)
      exports.stripRows({
        from,
        to: at,
        width,
        rows: samples.length / 4 / width,
        channels,
        wide: wide ? 1 : 0,
        predicted: predicted ? 1 : 0
      })
      if (pack === 'none') return taken(at, size)
      return taken(to, pack === 'lzw' ? exports.lzwPack(at, size, to, area) : exports.zlib(at, size, to, area))
    },
    pngPack,
    pngUnpack,
    rleEncode(pixels, before, width, height, depth) {
      const [from, earlier, to] = lay(pixels.length, before?.length ?? 0, rleBound(width, height)) as [
        number,
        number,
        number
      ]
      const memory = new Uint8Array(exports.memory.buffer)
      memory.set(pixels, from)
      if (before) memory.set(before, earlier)
      const length = exports.rleEncode({ pixels: from, before: before ? earlier : 0, width, height, depth, to })
      return taken(to, length)
    },
    rleDecode(sample, from, canvas, { line, lines, width, height, depth }) {
      const size = width * height * 4
      const [data, to] = lay(sample.length, size) as [number, number]
      const memory = new Uint8Array(exports.memory.buffer)
      memory.set(sample, data)
      if (canvas) memory.set(canvas, to)
      else if (depth === 32) memory.fill(0, to, to + size)
      else new Uint32Array(exports.memory.buffer, to, width * height).fill(0xff000000)
      const wrong = exports.rleDecode({ data, n: sample.length, from, canvas: to, width, line, lines, depth })
      if (wrong === 0) return taken(to, size)
      return { fault: RLE_FAULTS[wrong - 1]!, at: exports.rleWrongAt(), line: exports.rleWrongLine() }
    },
    ffv1Decode: (slice, plan, to) => wasmFfv1Decode(room, { ...slice, plan, to }),
    ffv1Encode: (samples, stride, begun, plan) => wasmFfv1Encode(room, { samples, stride, begun, plan }),
    crc32(bytes, crc = 0) {
      const [from] = lay(bytes.length) as [number]
      new Uint8Array(exports.memory.buffer).set(bytes, from)
      return exports.crc32(from, bytes.length, crc) >>> 0
    },
    takeBack,
    premultiply8: (samples, matte) => alpha('premultiply8', samples, matte),
    premultiply16: (samples, matte) => alpha('premultiply16', samples, matte),
    unpremultiply8: (samples, matte) => alpha('unpremultiply8', samples, matte),
    unpremultiply16: (samples, matte) => alpha('unpremultiply16', samples, matte),
    widen: codes => new Uint16Array(converted('widen', codes, codes.length * 2)),
    narrow: codes => new Uint8Array(converted('narrow', codes, codes.length)),
    toFloats: (codes, room) =>
      recoded(
        codes instanceof Uint8Array ? 'floatsOf8' : 'floatsOf16',
        codes,
        room?.fill(0) ?? new Float32Array(codes.length)
      ),
    toCodes8: (values, room) => recoded('codes8Of', values, room?.fill(0) ?? new Uint8Array(values.length)),
    toCodes16: (values, room) => recoded('codes16Of', values, room?.fill(0) ?? new Uint16Array(values.length)),
    compare: (expected, found, width, height, how) =>
      wasmCompare(room, expected, found, { ...how, width, height, linear }),
    look,
    examine: (samples, how) => wasmExamine(room, samples, how),
    triples: (samples, width, height, marks) => wasmTriples(room, { samples, width, height, marks: marks ?? null }),
    fingerprint,
    blur: (plane, width, height, radius) => wasmBlur(room, plane, width, height, radius),
    largest: (plane, width, height, radius) => wasmLargest(room, plane, width, height, radius),
    resample: (rgba, width, height, across, down) => wasmResample(room, rgba, { width, height }, across, down),

    turn: (rgba, from, to, way) => wasmTurn(room, rgba, from, to, way),
    takeOut: (rgba, matte) => wasmTakeOut(room, rgba, matte),
    takeBackground: (rgba, background, solid) => wasmTakeBackground(room, rgba, background, solid),
    keyBeside: (samples, plate, size, how) => wasmKeyBeside(room, samples, plate, size, how),
    textureEncode: (pixels, size, how) => wasmTextureEncode(room, pixels, size, how),
    textureDecode: (blocks, size, kind, onto) => wasmTextureDecode(room, blocks, size, kind, onto),
    planarSplit: (samples, size, how) => wasmPlanarSplit(room, samples, size, how),
    planarCode: (values, codes, way) => wasmPlanarCode(room, values, codes, way),
    planarDecode: (bytes, table, how) => wasmPlanarDecode(room, bytes, table, how),
    planarJoin: (planes, way) => wasmPlanarJoin(room, planes, way),
    vc3Rgba: (packet, picture, size) => wasmVc3Rgba(room, packet, picture, size),
    vc3Encode: (samples, size, how) => wasmVc3Encode(room, samples, size, how),
    waveletPlanes: (packet, planes, bits) => wasmWaveletPlanes(room, packet, planes, bits),
    waveletRgba: (packet, planes, size) => wasmWaveletRgba(room, packet, planes, size),
    waveletEncode: (samples, size, how) => wasmWaveletEncode(room, samples, size, how),
    ledByLuma: (samples, size, shared) =>
      wasmLedByLuma(room, samples, { width: size.width, height: size.height, ...shared }),
    keyHue: (codes, plate, size, how) => wasmKeyHue(room, codes, plate, size, how),
    chromaKey: (rgba, plate, how) => wasmChromaKey(room, rgba, plate, how),
    dither8: (rgba, first) => wasmDither8(room, rgba, first),

    pngFilter(rows, stride, height, pixelBytes) {
      const size = (stride + 1) * height
      const [from, to, zeros, scratch] = lay(rows.length, size, stride, 5 * (stride + 80)) as [
        number,
        number,
        number,
        number
      ]
      const memory = new Uint8Array(exports.memory.buffer)
      memory.set(rows, from)
      memory.fill(0, zeros, zeros + stride + 16)
      exports.pngFilter({ from, to, zeros, scratch, stride, height, pixelBytes })
      return taken(to, size)
    },

    pngUnfilter(filtered, stride, height, pixelBytes) {
      const size = stride * height
      const [from, to, zeros] = lay(filtered.length, size, stride) as [number, number, number]
      const memory = new Uint8Array(exports.memory.buffer)
      memory.set(filtered, from)
      memory.fill(0, zeros, zeros + stride + 16)
      const good = exports.pngUnfilter({ from, to, zeros, stride, height, pixelBytes })
      return good ? taken(to, size) : null
    }
  }
}
