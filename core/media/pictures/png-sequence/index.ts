/** Numbered PNG files, one a frame. */
import { readAll, type ByteReader } from '../../../base/files/file'
import type { Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { looksLikePng } from '../png/chunks'
import { encodePng } from '../png/encode'
import { decodePngFile, isAnimated } from '../png/file'
import { colourFindings, hasAlpha, readPngInfo, type PngInfo } from '../png/header'
import { decodeIndependently } from '../png/independent'
import { PNG_DEPTHS, PNG_OPAQUE, PNG_STRAIGHT } from '../png/row'
import { picturesOf } from '../sequence/pictures'
import { isSheet } from '../sheet'

/** Codes of BT.709's colours that are light itself, and not a curve of it. */
const isLinear = ({ tags }: PngInfo): boolean => tags?.[0] === 1 && tags[1] === 8

/** Linear codes are frames of linear light: what is asked for in another transfer is then made of them. */
async function decodeAsLight(host: Host, reader: ByteReader): Promise<Frame> {
  const info = await readPngInfo(reader)
  const frame = await decodePngFile(host, reader, info)
  return isLinear(info) ? { ...frame, transfer: 'linear' } : frame
}

export const pngSequence = picturesOf(
  {
    extension: 'png',
    labels: 'numbers',
    lossless: true,
    exactAlpha: true,
    depths: PNG_DEPTHS,
    alpha: {
      straight: PNG_STRAIGHT,
      premultiplied: {
        can: false,
        because:
          'PNG is defined as straight, and no program expects anything else of it. For premultiplied frames ' +
          'choose a format that can say so.'
      },
      none: PNG_OPAQUE
    },
    declaredMattes: [],
    limits: { width: 2 ** 31 - 1, height: 2 ** 31 - 1, rate: 'carries no rate; the name and the note do' },
    options: {},
    proofReader: { name: "a library's PNG decoder", independent: true }
  },
  {
    recognises: async (head, reader) => looksLikePng(head) && !isSheet(head) && !(await isAnimated(reader)),
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
        ...(isLinear(info)
          ? { colour: 'linear light', tags: null }
          : { colour: info.colour, tags: info.tags, levels: info.levels }),
        pixelAspect: info.pixelAspect,
        findings: colourFindings(info)
      }
    },
    decode: decodeAsLight,
    proofDecode: async (host, reader) => decodeIndependently(host, await readAll(reader), reader.name),
    encode: (host, frame, { pixelAspect, tags, levels }) =>
      encodePng(host, frame, { pixelAspect, tags: tags ?? null, levels: levels ?? null })
  }
)
