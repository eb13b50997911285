/**
 * Uncompressed pictures. In QuickTime "raw " at depth 32 holds A R G B of 8 bits (QuickTime File Format, "Uncompressed
 * RGB"), "b64a" the same of 16 bits, big-endian. In AVI the bitmap of BITMAPINFOHEADER: B G R A, rows from the bottom
 * where the height is positive.
 */
import type { PictureTrack } from '../../containers/container'
import { unreadable } from '../../../base/errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import { standalone, type About, type VideoCodec } from '../codec'
import { sayWeights, untoldMatrix, weightsOf } from '../ycc'
import { LAYOUT_CODES, layoutOf, unpackLayout, type Layout } from './layouts'
import { bitmapSize, packedBitmap, unpackBitmap } from './bitmap'

function packed8(frame: Frame): Uint8Array {
  const { samples } = frame
  const words = new Uint32Array(samples.buffer, samples.byteOffset, samples.length / 4)
  const out = new Uint32Array(words.length)
  // little-endian R G B A becomes A R G B
  for (let i = 0; i < words.length; i++) out[i] = (words[i]! << 8) | (words[i]! >>> 24)
  return new Uint8Array(out.buffer)
}

/** R G B, rows padded to an even length as QuickTime wants them. */
function packed24({ samples, width, height }: Frame): Uint8Array {
  const stride = (3 * width + 1) & ~1
  const out = new Uint8Array(stride * height)
  for (let y = 0; y < height; y++) {
    let to = y * stride
    for (let i = 4 * y * width; i < 4 * (y + 1) * width; i += 4) {
      out[to++] = samples[i]!
      out[to++] = samples[i + 1]!
      out[to++] = samples[i + 2]!
    }
  }
  return out
}

function packed16(frame: Frame): Uint8Array {
  const { samples } = frame
  const out = new Uint8Array(samples.length * 2)
  for (let i = 0; i < samples.length; i += 4) {
    for (let c = 0; c < 4; c++) {
      const code = samples[i + ((c + 3) & 3)]!
      out[2 * (i + c)] = code >> 8
      out[2 * (i + c) + 1] = code & 255
    }
  }
  return out
}

/** Rows of 24 bits may be padded to an even length; those of 32 and 64 never are. */
function unpack(data: Uint8Array, width: number, height: number, kind: 24 | 32 | 64): Frame {
  const alpha = kind === 24 ? OPAQUE : STRAIGHT
  if (kind === 64) {
    const samples = new Uint16Array(width * height * 4)
    for (let i = 0; i < samples.length; i++) {
      const from = 2 * ((i & ~3) + ((i + 1) & 3))
      samples[i] = (data[from]! << 8) | data[from + 1]!
    }
    return { width, height, depth: 16, samples, alpha, transfer: 'srgb' }
  }
  const samples = new Uint8Array(width * height * 4)
  const stride = data.length / height
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const to = 4 * (y * width + x)
      const from = y * stride + x * (kind / 8) + (kind === 32 ? 1 : 0)
      for (let c = 0; c < 3; c++) samples[to + c] = data[from + c]!
      samples[to + 3] = kind === 32 ? data[from - 1]! : 255
    }
  }
  return { width, height, depth: 8, samples, alpha, transfer: 'srgb' }
}

/** Bits of a pixel of QuickTime: 64 of "b64a". */
const widthOf = ({ code, depth }: PictureTrack): 24 | 32 | 64 => (code === 'b64a' ? 64 : depth === 24 ? 24 : 32)

function aboutDepth({ depth }: PictureTrack, file: string, place: string): About {
  if (depth !== 24 && depth !== 32)
    throw unreadable(file, place, `uncompressed pictures of depth ${depth} are not read; only 24 and 32 bits are`)
  return { kind: `uncompressed, ${depth} bit`, bitDepth: 8, carriesAlpha: depth === 32 }
}

/** Layouts of Y'CbCr say nothing of the range of their alpha. */
function aboutLayout({ name, depth, alpha, ycc }: Layout, track: PictureTrack): About {
  const about: About = { kind: name, bitDepth: depth, carriesAlpha: alpha }
  if (!ycc) return about
  const matrix = weightsOf(track)
  return { ...about, colour: sayWeights(matrix), findings: untoldMatrix(matrix, track.height) }
}

const READER = { name: "Pour's own reader of uncompressed samples", independent: false }

const tooShort = (file: string, place: string, { width, height }: PictureTrack, has: number, least: number): Error =>
  unreadable(file, place, `it holds ${has} bytes where a frame of ${width}x${height} takes ${least}`)

/** Uncompressed pictures of QuickTime. */
export const uncompressed: VideoCodec = {
  names: { quicktime: ['raw ', 'b64a', ...LAYOUT_CODES] },
  about(track, _, file) {
    if (track.code === 'b64a') return { kind: 'uncompressed ARGB, 16 bit', bitDepth: 16, carriesAlpha: true }
    const layout = layoutOf(track.code)
    if (layout) return aboutLayout(layout, track)
    return aboutDepth(track, file, 'atom stsd')
  },
  decoder(packets, { kernels }) {
    const { track, file } = packets
    const { width, height } = track
    const layout = layoutOf(track.code)
    if (layout) {
      const size = layout.row(width) * height
      const weights = weightsOf(track)
      return Promise.resolve(
        standalone(packets, (data, place) =>
          data.length < size
            ? Promise.reject(tooShort(file, place, track, data.length, size))
            : Promise.resolve(unpackLayout(track.code, data, track, { weights, kernels }))
        )
      )
    }
    const bits = widthOf(track)
    const least = ((width * bits) / 8) * height
    return Promise.resolve(
      standalone(packets, (data, place) =>
        data.length < least || data.length % height !== 0
          ? Promise.reject(tooShort(file, place, track, data.length, least))
          : Promise.resolve(unpack(data, width, height, bits))
      )
    )
  },
  proofReader: READER,
  coder: {
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    options: {},
    entry: ({ depth, alpha }) =>
      depth === 8
        ? { code: 'raw ', name: 'None', depth: alpha.mode === 'none' ? 24 : 32 }
        : { code: 'b64a', name: 'ARGB 16', depth: 32 },
    encode: (_, frame) =>
      Promise.resolve(
        frame.depth === 16 ? packed16(frame) : frame.alpha.mode === 'none' ? packed24(frame) : packed8(frame)
      )
  }
}

/** BI_RGB: an AVI names uncompressed bitmaps by four zero bytes. */
const BITMAP = '\0\0\0\0'

/** Uncompressed pictures of AVI. */
export const bitmap: VideoCodec = {
  names: { avi: [BITMAP, 'DIB ', 'RGB '] },
  about: (track, _, file) => aboutDepth(track, file, 'list strf'),
  decoder(packets) {
    const { track, file } = packets
    const { width, height, bottomUp } = track
    const bits = track.depth === 24 ? 24 : 32
    const least = bitmapSize(width, height, bits)
    return Promise.resolve(
      standalone(packets, (data, place) =>
        data.length < least
          ? Promise.reject(tooShort(file, place, track, data.length, least))
          : Promise.resolve(unpackBitmap(data, { width, height, bits, bottomUp }))
      )
    )
  },
  proofReader: READER,
  coder: {
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    options: {},
    entry: ({ alpha }) => ({ code: BITMAP, name: '', depth: alpha.mode === 'none' ? 24 : 32, bottomUp: true }),
    encode: (_, frame) => Promise.resolve(packedBitmap(frame))
  }
}
