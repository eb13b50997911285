/** The plain twins of the WASM kernels: the definition of what those must compute. */
import { textureDecode, textureEncode } from './texture'
import { planarCode, planarDecode, planarJoin, planarSplit } from './planar'
import { vc3Encode, vc3Rgba } from './vc3'
import { yccToRgba } from './ycc'
import { waveletEncode, waveletPlanes, waveletRgba } from './wavelet'
import { codes16, codes8, floats16, floats8 } from './floats'
import { chromaKey, dither8, keyHue, takeBackground, takeOut } from './keys'
import { turn } from './turn'
import type { Triple } from '../../core/base/colour'
import { zlibSync } from 'fflate'
import { crc32 } from '../../core/base/crc32'
import { fingerprint } from '../../core/frame/kernels/fingerprint'
import { keyBeside } from './beside'
import { ledByLuma } from './led'
import { blur, largest, resample } from './filters'
import type { Kernels } from '../../core/frame/kernels/kernels'
import { compare, look } from './compare'
import { examine } from './examine'
import { prores } from './prores'
import { readingsApart, proresAlpha } from './prores-alpha'
import { lzw, stripRows } from './lzw'
import { triples } from './triples'
import { ffv1Decode, ffv1Encode } from './ffv1'
import { rleDecode, rleEncode } from './rle'

function premultiply<T extends Uint8Array | Uint16Array>(input: T, output: T, matte: Triple, full: number): T {
  const half = (full - 1) / 2
  for (let i = 0; i < input.length; i += 4) {
    const a = input[i + 3]!
    const rest = full - a
    for (let c = 0; c < 3; c++) output[i + c] = Math.floor((input[i + c]! * a + matte[c]! * rest + half) / full)
    output[i + 3] = a
  }
  return output
}

function unpremultiply<T extends Uint8Array | Uint16Array>(input: T, output: T, matte: Triple, full: number): T {
  for (let i = 0; i < input.length; i += 4) {
    const a = input[i + 3]!
    output[i + 3] = a
    if (a === 0) continue
    const rest = full - a
    for (let c = 0; c < 3; c++) {
      const value = Math.floor((input[i + c]! * full - matte[c]! * rest) / a + 0.5)
      output[i + c] = value < 0 ? 0 : value > full ? full : value
    }
  }
  return output
}

/** Paeth predictor, ISO/IEC 15948 clause 9.4. */
function paeth(a: number, b: number, c: number): number {
  const pa = Math.abs(b - c)
  const pb = Math.abs(a - c)
  const pc = Math.abs(a + b - c - c)
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c
}

function pngFilter(rows: Uint8Array, stride: number, height: number, pixelBytes: number): Uint8Array {
  const output = new Uint8Array((stride + 1) * height)
  const tries = [0, 1, 2, 3, 4].map(() => new Uint8Array(stride))
  for (let y = 0; y < height; y++) {
    const row = y * stride
    const sums = [0, 0, 0, 0, 0]
    for (let x = 0; x < stride; x++) {
      const value = rows[row + x]!
      const left = x >= pixelBytes ? rows[row + x - pixelBytes]! : 0
      const up = y > 0 ? rows[row + x - stride]! : 0
      const corner = y > 0 && x >= pixelBytes ? rows[row + x - stride - pixelBytes]! : 0
      const differences = [value, value - left, value - up, value - ((left + up) >> 1), value - paeth(left, up, corner)]
      for (let f = 0; f < 5; f++) {
        const code = differences[f]! & 255
        tries[f]![x] = code
        sums[f]! += code < 128 ? code : 256 - code
      }
    }
    let best = 0
    for (let f = 1; f < 5; f++) if (sums[f]! < sums[best]!) best = f
    output[y * (stride + 1)] = best
    output.set(tries[best]!, y * (stride + 1) + 1)
  }
  return output
}

function pngUnfilter(filtered: Uint8Array, stride: number, height: number, pixelBytes: number): Uint8Array | null {
  const rows = new Uint8Array(stride * height)
  for (let y = 0; y < height; y++) {
    const from = y * (stride + 1) + 1
    const row = y * stride
    const type = filtered[from - 1]!
    if (type > 4) return null
    for (let x = 0; x < stride; x++) {
      const left = x >= pixelBytes ? rows[row + x - pixelBytes]! : 0
      const up = y > 0 ? rows[row + x - stride]! : 0
      const corner = y > 0 && x >= pixelBytes ? rows[row + x - stride - pixelBytes]! : 0
      const guess =
        type === 0 ? 0 : type === 1 ? left : type === 2 ? up : type === 3 ? (left + up) >> 1 : paeth(left, up, corner)
      rows[row + x] = filtered[from + x]! + guess
    }
  }
  return rows
}

function toRows(samples: Uint8Array | Uint16Array, channels: 3 | 4): Uint8Array {
  const wide = samples instanceof Uint16Array
  const rows = new Uint8Array((samples.length / 4) * channels * (wide ? 2 : 1))
  let o = 0
  for (let i = 0; i < samples.length; i++) {
    if (channels === 3 && (i & 3) === 3) continue
    if (wide) rows[o++] = samples[i]! >> 8
    rows[o++] = samples[i]! & 255
  }
  return rows
}

function fromRows(rows: Uint8Array, pixels: number, channels: 3 | 4, depth: 8 | 16): Uint8Array | Uint16Array {
  const samples = depth === 8 ? new Uint8Array(pixels * 4) : new Uint16Array(pixels * 4)
  let o = 0
  for (let i = 0; i < samples.length; i++) {
    if (channels === 3 && (i & 3) === 3) samples[i] = depth === 8 ? 255 : 65535
    else if (depth === 8) samples[i] = rows[o++]!
    else {
      samples[i] = (rows[o]! << 8) | rows[o + 1]!
      o += 2
    }
  }
  return samples
}

export const plainKernels: Kernels = {
  name: 'plain',
  textureEncode,
  textureDecode,
  planarSplit,
  planarCode,
  planarDecode,
  planarJoin,
  vc3Encode,
  vc3Rgba,
  waveletPlanes,
  waveletRgba,
  waveletEncode,
  rleEncode,
  ffv1Decode,
  ffv1Encode,
  rleDecode,
  premultiply8: (samples, matte) => premultiply(samples, new Uint8Array(samples.length), matte, 255),
  premultiply16: (samples, matte) => premultiply(samples, new Uint16Array(samples.length), matte, 65535),
  unpremultiply8: (samples, matte) => unpremultiply(samples, new Uint8Array(samples.length), matte, 255),
  unpremultiply16: (samples, matte) => unpremultiply(samples, new Uint16Array(samples.length), matte, 65535),
  takeBack: ended => void ended.buffer(),
  widen: codes => Uint16Array.from(codes, code => code * 257),
  narrow: codes => Uint8Array.from(codes, code => Math.floor((code + 128) / 257)),
  toFloats: (codes, room) => (codes instanceof Uint8Array ? floats8(codes, room) : floats16(codes, room)),
  toCodes8: codes8,
  toCodes16: codes16,
  compare,
  look,
  examine,
  triples: (samples, width, height, marks) => triples(samples, width, height, marks ?? null),
  fingerprint,
  blur,
  turn,
  takeOut,
  takeBackground,
  chromaKey,
  keyBeside,
  ledByLuma,
  keyHue,
  dither8,
  largest,
  resample,
  prores,
  readingsApart,
  proresAlpha,
  yccToRgba,
  zlib: bytes => zlibSync(bytes),
  lzw,
  strip(samples, how) {
    const rows = stripRows(samples, how)
    return how.pack === 'lzw' ? lzw(rows) : how.pack === 'zlib' ? zlibSync(rows) : rows
  },
  crc32,
  pngPack(samples, width, height, channels) {
    const pixelBytes = channels * samples.BYTES_PER_ELEMENT
    return zlibSync(pngFilter(toRows(samples, channels), width * pixelBytes, height, pixelBytes))
  },
  pngUnpack(filtered, width, height, channels, depth) {
    const pixelBytes = channels * (depth / 8)
    const rows = pngUnfilter(filtered, width * pixelBytes, height, pixelBytes)
    return rows && fromRows(rows, width * height, channels, depth)
  },
  pngFilter,
  pngUnfilter
}
