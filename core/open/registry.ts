/** The one list of formats, asked by id or by the bytes of a file. A further row stands in `rows.ts`. */
import { PourError, unreadable, wrongCall } from '../base/errors'
import type { ByteReader } from '../base/files/file'
import { containers } from '../media/containers'
import type { Container, Film } from '../media/containers/container'
import type { HostNeed, Encodable } from '../media/formats/traits/writing'
import type { Host } from '../frame/host'
import { rows, type FormatId, type Listed } from './rows'
import { STRANGERS } from './strangers'
import { unknownCodec } from '../media/formats/unread'

export const formats: readonly Listed[] = rows.map(row => ({ ...row, stranger: STRANGERS[row.id] }))

export const FORMAT_IDS = formats.map(({ id }) => id) as [FormatId, ...FormatId[]]

/** Those an outlet may deliver. */
export const writtenFormats: readonly Listed[] = formats.filter(format => !format.readOnly)

/** The row of this id. Throws a clear error that names all of them where there is none. */
export function formatById(id: string): Listed {
  const format = formats.find(f => f.id === id)
  if (!format) throw wrongCall(`there is no format "${id}"; the formats are ${formats.map(f => f.id).join(', ')}`)
  return format
}

/** Whether a machine has what a format needs. */
export function runsOn(format: Encodable, host: Partial<Pick<Host, HostNeed>>): boolean {
  return !format.needs || host[format.needs] !== undefined
}

/** A film that breaks the container's rules is none of its kind; what keeps it from being read at all is passed on. */
function notAlike(error: unknown): null {
  if (error instanceof PourError && error.kind === 'unreadable') return null
  throw error
}

/** The row that reads a film's track. */
const rowOf = (container: Container, { picture }: Film): Listed | undefined =>
  formats.find(row => row.container === container.id && row.reads!(picture))

/**
 * Finds the format of a file from its bytes; its name is not believed. Null when none fits; rejects when the file is
 * damaged.
 */
export async function recognise(reader: ByteReader): Promise<{ format: Listed; kind: 'film' | 'picture' } | null> {
  const head = await reader.read(0, 4096)
  if (head.length === 0) throw unreadable(reader.name, null, 'the file is empty')
  const container = containers.find(known => known.recognise(head))
  const film = container ? await container.demux(reader) : null
  const row = container && rowOf(container, film!)
  if (row) return { format: row, kind: 'film' }
  // a film of another brand may be built the same way, and hold what only a container of that kind is read for
  const like = container ? undefined : containers.find(known => known.resembles?.(head))
  const liked = like && (await like.demux(reader).catch(notAlike))
  const similar = like && liked && rowOf(like, liked)
  if (similar) return { format: similar, kind: 'film' }
  for (const format of formats) {
    const kind = format.container ? null : await format.recognise(head, reader)
    if (kind) return { format, kind }
  }
  if (film) throw unknownCodec(reader, film.picture.code)
  return null
}
