/** Keeping files that were brought in, and finding them again after a reload. */
import { noRoom } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import { database, keyPartsOf, type StoredRef, type StoredSource } from './database'

/** A file as the user gave it: its bytes, its path, and a handle where the browser lends one. */
export interface Given {
  path: string
  file: Blob
  handle: FileSystemFileHandle | null
}

/** Room left in the browser's store, in bytes, and how much of it is used. */
export async function storageRoom(): Promise<{ used: number; quota: number }> {
  const { usage = 0, quota = 0 } = await navigator.storage.estimate()
  return { used: usage, quota }
}

/** Part of the quota that stays free for poured results. */
const KEPT_FREE = 0.15

/**
 * Stores the given files: their bytes while there is room, else a handle that will be asked for again. Returns ids in
 * order. Rejects when a file has neither room nor handle.
 */
export async function keepFiles(given: readonly Given[]): Promise<string[]> {
  const room = await storageRoom()
  let left = room.quota * (1 - KEPT_FREE) - room.used
  const rows = given.map(({ path, file, handle }) => {
    const fits = file.size <= left
    if (fits) left -= file.size
    else if (!handle)
      throw noRoom(
        `${path} needs ${Math.ceil(file.size / 1e6)} MB, and this browser has room for ` +
          `${Math.max(0, Math.floor(left / 1e6))} MB more. Remove sources or results first, or choose the file ` +
          'with "Choose files" so that Pour can come back to it.'
      )
    return { id: crypto.randomUUID(), path, size: file.size, blob: fits ? file : null, handle: fits ? null : handle }
  })
  // asked once there is something to lose; where the browser refuses, the foot says so
  if (!(await navigator.storage.persisted())) await navigator.storage.persist()
  await database.files.bulkAdd(rows)
  return rows.map(row => row.id)
}

/** References with files named by id instead of carried along. */
export function toStored(ref: FileRef, idOf: (blob: Blob) => string): StoredRef {
  if (ref.kind === 'blob') return { kind: 'stored', fileId: idOf(ref.blob), path: ref.path, size: ref.size }
  if (ref.kind === 'zipped') return { ...ref, archive: toStored(ref.archive, idOf) }
  throw new TypeError(`a ${ref.kind} file cannot be kept in a browser`)
}

/** Files that lie behind a handle whose permission has lapsed. */
export class NeedsPermission extends Error {
  constructor(readonly handles: FileSystemFileHandle[]) {
    super(
      `${handles.length === 1 ? 'A file lies' : `${handles.length} files lie`} outside the browser; it must ` +
        `be allowed again to read ${handles.length === 1 ? 'it' : 'them'}.`
    )
    this.name = 'NeedsPermission'
  }
}

type WithPermission = FileSystemFileHandle & { queryPermission?(options: { mode: 'read' }): Promise<PermissionState> }

/** A source's files, ready for a worker. Rejects with `NeedsPermission` where the user must allow reading again. */
export async function fromStored(source: Pick<StoredSource, 'files'>): Promise<FileRef[]> {
  const ids = new Set<string>()
  const collect = (ref: StoredRef): void => void (ref.kind === 'stored' ? ids.add(ref.fileId) : collect(ref.archive))
  source.files.forEach(collect)
  const blobs = new Map<string, Blob>()
  const locked: FileSystemFileHandle[] = []
  for (const row of await database.files.bulkGet([...ids])) {
    if (!row) throw noRoom(`A file of this source is no longer in the browser's store. Bring it in again.`)
    if (row.blob) blobs.set(row.id, row.blob)
    else if (row.handle) {
      const handle = row.handle as WithPermission
      if (((await handle.queryPermission?.({ mode: 'read' })) ?? 'granted') === 'granted')
        blobs.set(row.id, await handle.getFile())
      else locked.push(handle)
    }
  }
  if (locked.length) throw new NeedsPermission(locked)
  const revive = (ref: StoredRef): FileRef =>
    ref.kind === 'stored'
      ? { kind: 'blob', path: ref.path, size: ref.size, blob: blobs.get(ref.fileId)! }
      : { ...ref, archive: revive(ref.archive) }
  return source.files.map(revive)
}

/**
 * Drops files and results that nothing of the kept jobs refers to any more. Run at start, when no undo can bring them
 * back.
 */
export async function sweep(): Promise<void> {
  await database.transaction(
    'rw',
    [
      database.jobs,
      database.sources,
      database.files,
      database.examinations,
      database.results,
      database.parts,
      database.runs,
      database.checks,
      database.pages
    ],
    async () => {
      const jobs = await database.jobs.toArray()
      const sources = new Set(jobs.flatMap(row => Object.keys(row.job.sources)))
      const kept = await database.sources.toArray()
      const files = new Set<string>()
      const collect = (ref: StoredRef): void =>
        void (ref.kind === 'stored' ? files.add(ref.fileId) : collect(ref.archive))
      for (const source of kept) if (sources.has(source.id)) source.files.forEach(collect)
      const checks = await database.checks.toArray()
      const jobIds = new Set(jobs.map(row => row.id))
      for (const check of checks) if (jobIds.has(check.jobId)) check.files.forEach(collect)
      await database.checks.bulkDelete(checks.filter(c => !jobIds.has(c.jobId)).map(c => c.id))
      await database.sources.bulkDelete(kept.filter(s => !sources.has(s.id)).map(s => s.id))
      await database.examinations.filter(e => !sources.has(e.sourceId)).delete()
      await database.files.filter(file => !files.has(file.id)).delete()
      const results = await database.results.toArray()
      const dead = new Set(results.filter(r => !sources.has(r.cell.split(':')[0]!)).map(r => r.id))
      await database.results.bulkDelete([...dead])
      const ids = [
        ...results.map(r => r.id).filter(id => !dead.has(id)),
        ...(await database.runs.toArray()).map(run => run.resultId)
      ]
      // the key of a pair is kept under an id of its own
      const alive = new Set(ids.flatMap(id => [id, keyPartsOf(id)]))
      const orphans = (await database.parts.toCollection().primaryKeys()).filter(([resultId]) => !alive.has(resultId))
      await database.parts.bulkDelete(orphans)
      const unproven = new Set(results.filter(r => !r.report && alive.has(r.id)).map(r => r.id))
      await database.pages.bulkDelete(
        (await database.pages.toCollection().primaryKeys()).filter(([resultId]) => !unproven.has(resultId))
      )
    }
  )
}
