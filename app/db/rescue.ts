/**
 * A rescue file: everything of the browser's store that can be read, in one ZIP. It asks nothing of the job: rows are
 * taken as they lie, and what cannot be read is named in it.
 */
import { makeZip } from 'client-zip'
import { sentenceOf } from '~~/core/base/errors'
import { safeName } from '~~/core/job/outlet/names'
import { database, keyPartsOf, type StoredFile, type StoredPart, type StoredResult } from './database'

interface Entry {
  name: string
  input: Blob | string
  lastModified: Date
}

const JSON_TABLES = ['jobs', 'aside', 'sources', 'examinations', 'results', 'runs', 'checks', 'library'] as const

/** Bytes and handles have no place in JSON; they lie beside it as files. */
export function rowsAsText(rows: readonly unknown[]): string {
  return JSON.stringify(
    rows,
    (_, value: unknown) =>
      value instanceof Blob
        ? { bytes: value.size }
        : value instanceof FileSystemHandle
          ? { handle: value.name }
          : value,
    2
  )
}

/** A place that no other entry has. */
function placer(): (folder: string, path: string) => string {
  const taken = new Set<string>()
  return (folder, path) => {
    const parts = path.split('/').map(part => safeName(part))
    for (let n = 1; ; n++) {
      const tried = [folder, ...(n > 1 ? [String(n)] : []), ...parts].join('/')
      if (taken.has(tried)) continue
      taken.add(tried)
      return tried
    }
  }
}

async function* entries(): AsyncGenerator<Entry> {
  const lastModified = new Date()
  const unread: string[] = []
  const place = placer()
  async function attempt<T>(what: string, read: () => Promise<T>): Promise<T | null> {
    try {
      return await read()
    } catch (error) {
      unread.push(`${what}: ${sentenceOf(error)}`)
      return null
    }
  }
  for (const name of JSON_TABLES) {
    const rows = await attempt(name, () => database.table<unknown>(name).toArray())
    if (rows) yield { name: `store/${name}.json`, input: rowsAsText(rows), lastModified }
  }
  const ids = (await attempt('files', () => database.files.toCollection().primaryKeys())) ?? []
  for (const id of ids) {
    const bytes = await attempt(`file ${id}`, async () => {
      const row: Partial<StoredFile> | undefined = await database.files.get(id)
      const blob = row?.blob ?? (await row?.handle?.getFile())
      if (!blob) throw new Error('nothing of it is left')
      // bytes that cannot be read any more must fail here, not half way through the ZIP
      await blob.slice(0, 1).arrayBuffer()
      return { path: row?.path ?? id, blob }
    })
    if (bytes) yield { name: place('sources', bytes.path), input: bytes.blob, lastModified }
  }
  const results = (await attempt('results', () => database.results.toArray())) ?? []
  for (const result of results as Partial<StoredResult>[]) {
    if (!result.id) continue
    for (const id of [result.id, keyPartsOf(result.id)]) {
      const parts = await attempt(`result ${result.fileName ?? id}`, () =>
        database.parts.where('resultId').equals(id).sortBy('index')
      )
      const blobs = (parts ?? []).flatMap((part: Partial<StoredPart>) => (part.blob ? [part.blob] : []))
      if (blobs.length) yield { name: place('results', result.fileName ?? id), input: new Blob(blobs), lastModified }
    }
  }
  if (unread.length) yield { name: 'could-not-be-read.txt', input: `${unread.join('\n')}\n`, lastModified }
}

export async function rescueFile(): Promise<Blob> {
  return new Response(makeZip(entries())).blob()
}
