/** Writing PNG: RGB or RGBA at 8 or 16 bits, adaptive filters, one zlib stream. */
import type { ColourTags } from '../../../frame/colour-tags'
import { writeContent, writeMastering, type LightLevels } from '../../../source/light-levels'
import { concatenate } from '../../../base/files/bytes'
import type { Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { chunk, SIGNATURE, writeU32 } from './chunks'

/** The filtered, compressed picture: the content of IDAT or fdAT. The frame must hold 8 or 16 bit samples. */
export function encodePixels(host: Host, frame: Frame): Uint8Array {
  return host.kernels.pngPack(
    frame.samples as Uint8Array | Uint16Array,
    frame.width,
    frame.height,
    frame.alpha.mode === 'none' ? 3 : 4
  )
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

/**
 * What the codes mean: sRGB with perceptual intent (11.3.2.5), or the tags they came with, RGB in full range (cICP,
 * 11.3.2.6).
 */
export function colourChunk(tags: ColourTags | null = null, levels: LightLevels | null = null): Uint8Array {
  const { mastering, content } = levels ?? {}
  return tags
    ? concatenate([
        chunk('cICP', Uint8Array.of(tags[0], tags[1], 0, 1)),
        ...(mastering ? [chunk('mDCV', writeMastering(mastering, 'picture'))] : []),
        ...(content ? [chunk('cLLI', writeContent(content))] : [])
      ])
    : chunk('sRGB', new Uint8Array([0]))
}

/** pHYs (11.3.5.3) for pixels that are not square, without a unit; nothing where they are. */
export function shapeChunk([width, height]: readonly [number, number]): Uint8Array {
  if (width === height) return new Uint8Array(0)
  const data = new Uint8Array(9)
  writeU32(data, 0, height)
  writeU32(data, 4, width)
  return chunk('pHYs', data)
}

/** A chunk of picture data; its checksum is the kernels' work, for it may be long. */
export function pixelChunk(host: Host, type: 'IDAT', data: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(data.length + 12)
  writeU32(bytes, 0, data.length)
  for (let i = 0; i < 4; i++) bytes[4 + i] = type.charCodeAt(i)
  bytes.set(data, 8)
  writeU32(bytes, 8 + data.length, host.kernels.crc32(bytes.subarray(4, 8 + data.length)))
  return bytes
}

/** What a PNG says beside its pixels. */
export interface PngNotes {
  /** Width and height of a pixel. */
  pixelAspect?: readonly [number, number]
  tags?: ColourTags | null
  levels?: LightLevels | null
}

/** A whole PNG file of one frame. */
export function encodePng(
  host: Host,
  frame: Frame,
  { pixelAspect = [1, 1], tags = null, levels = null }: PngNotes = {}
): Uint8Array {
  const pixels = encodePixels(host, frame)
  return concatenate([
    SIGNATURE,
    headerChunk(frame.width, frame.height, frame.depth, frame.alpha.mode !== 'none'),
    colourChunk(tags, levels),
    shapeChunk(pixelAspect),
    pixelChunk(host, 'IDAT', pixels),
    chunk('IEND')
  ])
}
