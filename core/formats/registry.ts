/** The one list of formats. Adding a format is a folder beside this file and a line here. */
import { unreadable, wrongCall } from '../errors'
import type { ByteReader } from '../files/file'
import { apng } from './apng'
import { avifSequence } from './avif-sequence'
import { dpxSequence } from './dpx-sequence'
import { gif } from './gif'
import { exrSequence } from './exr-sequence'
import type { Format } from './format'
import { jpegSequence } from './jpeg-sequence'
import { opaqueFilm } from './opaque-film'
import { pngSequence } from './png-sequence'
import { looksLikeQuickTime, readFilm, unknownCodec } from './quicktime/read'
import { quicktimeAnimation } from './quicktime-animation'
import { quicktimePng } from './quicktime-png'
import { quicktimeProres4444, quicktimeProres4444Xq } from './quicktime-prores'
import { quicktimeRaw } from './quicktime-raw'
import { tgaSequence } from './tga-sequence'
import { tiffSequence } from './tiff-sequence'
import { webmVp8, webmVp9 } from './webm'
import { webpAnimated, webpSequence } from './webp'

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
