/** Numbered PNG files, one a frame. */
import { concatenate } from '../../files/bytes'
import { readAll, type ByteReader } from '../../files/file'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../host'
import { looksLikePng, readChunk } from '../png/chunks'
import { decodePixels } from '../png/decode'
import { encodePng } from '../png/encode'
import { hasAlpha, readPngInfo, type PngInfo } from '../png/header'
import { decodeIndependently } from '../png/independent'
import { sequenceFormat } from '../sequence/pictures'

/** True if the animation control chunk stands before the first picture data (PNG third edition, 11.3.6.1). */
export async function isAnimated(reader: ByteReader): Promise<boolean> {
  const info = await readPngInfo(reader)
  const control = info.chunks.findIndex(c => c.type === 'acTL')
  return control >= 0 && control < info.chunks.findIndex(c => c.type === 'IDAT')
}

/** Decodes one whole PNG file. */
export async function decodePngFile(host: Host, reader: ByteReader): Promise<Frame> {
  const info = await readPngInfo(reader)
  return decodePixels(host, reader.name, info, await joined(host, reader, info), info.header.width, info.header.height)
}

async function joined(host: Host, reader: ByteReader, info: PngInfo): Promise<Uint8Array> {
  const parts: Uint8Array[] = []
  for (const place of info.chunks)
    if (place.type === 'IDAT') parts.push(await readChunk(reader, place, bytes => host.kernels.crc32(bytes)))
  return concatenate(parts)
}

export const pngSequence = sequenceFormat(
  {
    id: 'png-sequence',
    name: 'PNG sequence',
    tag: 'PNG sequence',
    extension: 'png',
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    alpha: {
      straight: { can: true, declares: 'PNG is straight by its standard; nothing else need be said' },
      premultiplied: {
        can: false,
        because:
          'PNG is defined as straight, and no program expects anything else of it. For premultiplied frames choose a format that can say so.'
      },
      none: { can: true, declares: 'colour type 2, without an alpha channel' }
    },
    declaredMattes: [],
    limits: { width: 2 ** 31 - 1, height: 2 ** 31 - 1, rate: 'carries no rate; the name and the note do' },
    options: [],
    proofReader: { name: "a library's PNG decoder", independent: true }
  },
  {
    recognises: async (head, reader) => looksLikePng(head) && !(await isAnimated(reader)),
    async about(reader) {
      const info = await readPngInfo(reader)
      return {
        kind: 'PNG',
        width: info.header.width,
        height: info.header.height,
        bitDepth: info.header.bitDepth === 16 ? 16 : 8,
        claim: hasAlpha(info)
          ? { mode: 'straight', matte: null, says: 'PNG is straight by its standard' }
          : { mode: 'none', matte: null, says: `colour type ${info.header.colourType} without transparency` },
        colour: info.colour
      }
    },
    decode: decodePngFile,
    proofDecode: async (host, reader) => decodeIndependently(host, await readAll(reader), reader.name),
    encode: encodePng
  }
)
