/** The one list of formats. Adding a format is a folder beside this file and a line here. */
import { unreadable, wrongCall } from '../errors'
import type { ByteReader } from '../files/file'
import { apng } from '../pictures/apng'
import { avifSequence } from '../pictures/avif'
import { dpxSequence } from '../pictures/dpx'
import { gif } from '../pictures/gif'
import { exrSequence } from '../pictures/exr'
import type { Format } from './format'
import { jpegSequence } from '../pictures/jpeg'
import { opaqueFilm } from './opaque-film'
import { pngSequence } from '../pictures/png-sequence'
import { looksLikeQuickTime, readFilm, unknownCodec } from '../containers/quicktime/read'
import { quicktimeAnimation } from '../codecs/animation'
import { quicktimePng } from '../codecs/png'
import { quicktimeProres4444, quicktimeProres4444Xq } from '../codecs/prores'
import { quicktimeRaw } from '../codecs/uncompressed'
import { tgaSequence } from '../pictures/tga'
import { tiffSequence } from '../pictures/tiff'
import { webmVp8, webmVp9 } from './webm'
import { webpAnimated, webpSequence } from '../pictures/webp'

export const formats: readonly Format[] = [
  quicktimeProres4444,
  quicktimeProres4444Xq,
  quicktimeAnimation,
  quicktimePng,
  quicktimeRaw,
  pngSequence,
  tiffSequence,
  exrSequence,
  dpxSequence,
  webpSequence,
  tgaSequence,
  apng,
  webpAnimated,
  gif,
  webmVp9,
  webmVp8,
  jpegSequence,
  avifSequence,
  opaqueFilm
]

/** Those an outlet may deliver. */
export const writtenFormats: readonly Format[] = formats.filter(format => !format.readOnly)

export function formatById(id: string): Format {
  const format = formats.find(f => f.id === id)
  if (!format) throw wrongCall(`there is no format "${id}"; the formats are ${formats.map(f => f.id).join(', ')}`)
  return format
}

/** Finds the format of a file from its bytes; its name is not believed. Null when none fits; rejects when the file is damaged. */
export async function recognise(reader: ByteReader): Promise<{ format: Format; kind: 'film' | 'picture' } | null> {
  const head = await reader.read(0, 4096)
  if (head.length === 0) throw unreadable(reader.name, null, 'the file is empty')
  for (const format of formats) {
    const kind = await format.recognise(head, reader)
    if (kind) return { format, kind }
  }
  if (looksLikeQuickTime(head)) throw unknownCodec(reader, (await readFilm(reader)).codec)
  return null
}
