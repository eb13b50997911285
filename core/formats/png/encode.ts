/** Writing PNG: RGB or RGBA at 8 or 16 bits, adaptive filters, one zlib stream. */
import { concatenate } from '../../files/bytes'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../host'
import { chunk, SIGNATURE, writeU32 } from './chunks'

/** Rows as PNG stores them: big-endian samples, alpha left out when the frame has none. */
function toRows(frame: Frame): { rows: Uint8Array; pixelBytes: number } {
  const channels = frame.alpha.mode === 'none' ? 3 : 4
  const { samples } = frame
  const pixels = frame.width * frame.height
  if (frame.depth === 8) {
    if (channels === 4) return { rows: samples as Uint8Array, pixelBytes: 4 }
    const rows = new Uint8Array(pixels * 3)
    for (let i = 0, o = 0; o < rows.length; i += 4, o += 3) {
      rows[o] = samples[i]!
      rows[o + 1] = samples[i + 1]!
      rows[o + 2] = samples[i + 2]!
    }
    return { rows, pixelBytes: 3 }
  }
  const rows = new Uint8Array(pixels * channels * 2)
  let o = 0
  for (let i = 0; i < samples.length; i++) {
    if (channels === 3 && (i & 3) === 3) continue
    const code = samples[i]!
    rows[o++] = code >> 8
    rows[o++] = code & 255
  }
  return { rows, pixelBytes: channels * 2 }
}

/** The filtered, compressed picture: the content of IDAT or fdAT. The frame must hold 8 or 16 bit samples. */
export async function encodePixels(host: Host, frame: Frame): Promise<Uint8Array> {
  const { rows, pixelBytes } = toRows(frame)
  return host.deflate.compress(host.kernels.pngFilter(rows, frame.width * pixelBytes, frame.height, pixelBytes))
}

/** IHDR for frames of this shape (ISO/IEC 15948, 11.2.1). */
export function headerChunk(width: number, height: number, depth: number, alpha: boolean): Uint8Array {
  const data = new Uint8Array(13)
  writeU32(data, 0, width)
  writeU32(data, 4, height)
  data[8] = depth
  data[9] = alpha ? 6 : 2
  return chunk('IHDR', data)
}

/** sRGB with perceptual intent: says what the codes mean (11.3.2.5). */
export function colourChunk(): Uint8Array {
  return chunk('sRGB', new Uint8Array([0]))
}

/** A whole PNG file of one frame. */
export async function encodePng(host: Host, frame: Frame): Promise<Uint8Array> {
  const pixels = await encodePixels(host, frame)
  return concatenate([SIGNATURE, headerChunk(frame.width, frame.height, frame.depth, frame.alpha.mode !== 'none'), colourChunk(), chunk('IDAT', pixels), chunk('IEND')])
}
