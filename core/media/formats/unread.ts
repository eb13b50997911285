/** Films whose codec no format of the table reads. */
import { printable } from '../containers/quicktime/atoms'
import { impossible } from '../../base/errors'
import type { ByteReader } from '../../base/files/file'

/** Codecs that are met in films and not read yet, by the four letters of their sample descriptions. */
const UNREAD: readonly { codes: readonly string[]; what: string }[] = [
  { codes: ['r408', 'R10k', 'b32a', 'b64i', 'yuv2', 'Y216', 'Y416'], what: 'an uncompressed film of another layout' },
  { codes: ['mjpb'], what: 'a film of JPEG pictures in fields, which have no alpha' },
  { codes: ['avc1', 'avc3', 'hvc1', 'hev1', 'av01', 'mp4v'], what: 'a film for viewing' },
  { codes: ['dvcp', 'dvc ', 'dvpp', 'dv5n', 'dv5p', 'dvh5', 'dvh6'], what: 'a DV film, which has no alpha' },
  { codes: ['smc ', 'cvid', 'SVQ3', 'SVQ1', 'rpza', '8BPS'], what: 'a film of an old codec' }
]

/** The error that says what a film's codec is, and what to ask for instead. */
export function unknownCodec(reader: ByteReader, codec: string): Error {
  const what = UNREAD.find(({ codes }) => codes.includes(codec))?.what ?? 'a codec Pour does not know'
  return impossible(
    `it is ${what} ("${printable(codec)}"), which Pour cannot read yet; ask for ProRes 4444 or numbered pictures`,
    reader.name
  )
}
