/**
 * QOI files ("The Quite OK Image Format", version 1.0), one a frame, read only: 8 bits, with alpha or without.
 *
 * "qoif", u32 width, u32 height (big-endian), u8 channels, u8 colour space; pieces; 7 zero bytes and a one
 */
import { unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { allocateSamples, MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import { fromHead } from '../sequence/head'
import { picturesOf } from '../sequence/pictures'

interface QoiInfo {
  width: number
  height: number
  channels: 3 | 4
  linear: boolean
}

const looksLikeQoi = (head: Uint8Array): boolean => String.fromCharCode(...head.subarray(0, 4)) === 'qoif'

function readInfo(bytes: Uint8Array, file: string): QoiInfo {
  const fail = (matter: string): Error => unreadable(file, 'the header', matter)
  if (!looksLikeQoi(bytes)) throw fail('this is not a QOI file')
  const c = new Cursor(bytes, file, false)
  const [width, height, channels, space] = [c.u32(4), c.u32(8), c.u8(12), c.u8(13)]
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw fail(`a picture of ${width}x${height} cannot be taken`)
  if (channels !== 3 && channels !== 4) throw fail(`it claims ${channels} channels; 3 and 4 there are`)
  return { width, height, channels, linear: space === 1 }
}

async function decode(_: unknown, reader: ByteReader): Promise<Frame> {
  const bytes = await readAll(reader)
  const { width, height, channels } = readInfo(bytes, reader.name)
  // a run of 62 pixels takes one byte
  if (width * height > (bytes.length - 14) * 62)
    throw unreadable(reader.name, null, `${bytes.length} bytes cannot hold a picture of ${width}x${height}`)
  const samples = allocateSamples(width, height, 8) as Uint8Array
  const seen = new Uint8Array(4 * 64)
  let [r, g, b, a] = [0, 0, 0, 255]
  let from = 14
  let run = 0
  const next = (): number => {
    const byte = bytes[from++]
    if (byte === undefined)
      throw unreadable(reader.name, `byte ${bytes.length}`, 'the file ends within the picture; it was cut short')
    return byte
  }
  for (let to = 0; to < samples.length; to += 4) {
    if (run > 0) run--
    else {
      const head = next()
      if (head >= 0xfe) {
        ;[r, g, b] = [next(), next(), next()]
        if (head === 0xff) a = next()
      } else if (head >> 6 === 0) {
        const at = 4 * head
        ;[r, g, b, a] = [seen[at]!, seen[at + 1]!, seen[at + 2]!, seen[at + 3]!]
      } else if (head >> 6 === 1) {
        r = (r + ((head >> 4) & 3) - 2) & 255
        g = (g + ((head >> 2) & 3) - 2) & 255
        b = (b + (head & 3) - 2) & 255
      } else if (head >> 6 === 2) {
        const more = next()
        const green = (head & 63) - 32
        r = (r + green - 8 + (more >> 4)) & 255
        g = (g + green) & 255
        b = (b + green - 8 + (more & 15)) & 255
      } else run = head & 63
      seen.set([r, g, b, a], 4 * ((r * 3 + g * 5 + b * 7 + a * 11) & 63))
    }
    samples[to] = r
    samples[to + 1] = g
    samples[to + 2] = b
    samples[to + 3] = channels === 4 ? a : 255
  }
  return { width, height, depth: 8, samples, alpha: channels === 4 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}

export const qoiSequence = picturesOf(
  {
    extension: 'qoi',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'four channels; the format says that alpha is straight' },
      premultiplied: { can: false, because: 'QOI is straight by its definition.' },
      none: { can: true, declares: 'three channels' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carried by names and notes' },
    options: {},
    proofReader: { name: "Pour's own reader of QOI", independent: false }
  },
  {
    recognises: looksLikeQoi,
    async about(reader) {
      const { width, height, channels, linear } = await fromHead(reader, bytes => readInfo(bytes, reader.name))
      return {
        kind: 'QOI',
        width,
        height,
        bitDepth: 8,
        claim:
          channels === 4
            ? { mode: 'straight', matte: null, says: 'four channels, straight by definition' }
            : { mode: 'none', matte: null, says: 'three channels' },
        colour: linear ? 'linear light' : 'sRGB'
      }
    },
    decode,
    encode: () => Promise.reject(new TypeError('QOI files are read, not written'))
  }
)
