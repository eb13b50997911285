/**
 * Uncompressed ARGB in QuickTime: "raw " at depth 32 holds A R G B of 8 bits (QuickTime File Format, "Uncompressed RGB"),
 * "b64a" the same of 16 bits, big-endian.
 */
import { unreadable } from '../../errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import { DECLARED, quickTimeFormat, standalone } from '../../formats/film'

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

export const quicktimeRaw = quickTimeFormat(
  {
    id: 'quicktime-raw',
    name: 'QuickTime uncompressed ARGB',
    tag: 'MOV uncompressed',
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    alpha: {
      ...DECLARED,
      none: { can: true, declares: 'sample depth 24 at 8 bits; at 16 bits there is only ARGB, and alpha is solid' }
    },
    options: [],
    proofReader: { name: "Pour's own reader of uncompressed samples", independent: false },
    encode: (_, frame) =>
      Promise.resolve(
        frame.depth === 16 ? packed16(frame) : frame.alpha.mode === 'none' ? packed24(frame) : packed8(frame)
      )
  },
  {
    reads: ['raw ', 'b64a'],
    writes: ({ depth, alpha }) =>
      depth === 8
        ? { code: 'raw ', name: 'None', depth: alpha.mode === 'none' ? 24 : 32 }
        : { code: 'b64a', name: 'ARGB 16', depth: 32 },
    about(film, _, file) {
      if (film.codec === 'raw ' && film.depth !== 24 && film.depth !== 32)
        throw unreadable(
          file,
          'atom stsd',
          `uncompressed samples of depth ${film.depth} are not read; only 24 and 32 bits are`
        )
      const wide = film.codec === 'b64a'
      return {
        kind: wide ? 'QuickTime uncompressed ARGB, 16 bit' : `QuickTime uncompressed, ${film.depth} bit`,
        bitDepth: wide ? 16 : 8,
        carriesAlpha: wide || film.depth === 32
      }
    },
    decoder(film, reader) {
      const kind = film.codec === 'b64a' ? 64 : film.depth === 24 ? 24 : 32
      const { width, height } = film
      return Promise.resolve(
        standalone(reader, film, (data, place) => {
          const least = ((width * kind) / 8) * height
          if (data.length < least || data.length % height !== 0)
            return Promise.reject(
              unreadable(
                reader.name,
                place,
                `it holds ${data.length} bytes where a frame of ${width}x${height} takes ${least}`
              )
            )
          return Promise.resolve(unpack(data, width, height, kind))
        })
      )
    }
  }
)
