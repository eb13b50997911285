/**
 * A job as one file: a ZIP with `job.json` and, where its media go along, the files of its sources under `media/`. The
 * page writes and opens it, and the command line runs it.
 */
import { z } from 'zod'
import { unreadable } from '../base/errors'
import type { ByteReader, FileRef } from '../base/files/file'
import { readAll } from '../base/files/file'
import { listZip } from '../base/files/zip'
import type { Host } from '../frame/host'
import { safeName } from '../job/outlet/names'
import { openJob, type SetAside } from '../job/open-job'
import { cellKey, splitCell, type Job } from '../job/job'
import { LOOKED_ENTRY, MOST_LOOKED } from './looked'

/** Where a file of a source lies: an entry of the job's ZIP, null where media stayed behind; or within another file. */
export type PackedRef =
  | {
      path: string
      size: number
      entry: string | null
      /** SHA-256 of the file's bytes, in hexadecimal digits; job files of before have none. */
      sha256?: string | undefined
      /** When the file was last changed, in milliseconds, where its browser knew. */
      modified?: number | undefined
    }
  | {
      path: string
      size: number
      archive: PackedRef
      offset: number
      packedSize: number
      method: 'stored' | 'deflated'
      crc: number
    }

const size = z.number().int().min(0)
const PackedRef: z.ZodType<PackedRef> = z.lazy(() =>
  z.union([
    z.object({
      path: z.string().max(4000),
      size,
      entry: z.string().max(4000).nullable(),
      sha256: z
        .string()
        .regex(/^[0-9a-f]{64}$/)
        .optional(),
      modified: z.number().int().min(0).optional()
    }),
    z.object({
      path: z.string().max(4000),
      size,
      archive: PackedRef,
      offset: size,
      packedSize: size,
      method: z.enum(['stored', 'deflated']),
      crc: size
    })
  ])
)

/** What is known of a source's files beside the job. */
export const PackedSource = z.object({
  format: z.string().max(80),
  numbers: z.array(z.number().int()).max(1_000_000).nullable(),
  files: z.array(PackedRef).max(1_000_000)
})
export type PackedSource = z.infer<typeof PackedSource>

const JobFile = z.object({
  pour: z.literal('job'),
  version: z.literal(1),
  /** Opened as far as it can be, whatever of it does not fit. */
  job: z.unknown(),
  media: z.record(z.string(), PackedSource)
})

export const JOB_ENTRY = 'job.json'
/** Far more than the words of any job come to; a scene's pictures lie in it. */
const MOST_BYTES = 256 << 20

/** The text of `job.json`. */
export const jobText = (job: Job, media: Readonly<Record<string, PackedSource>>): string =>
  `${JSON.stringify({ pour: 'job', version: 1, job, media }, null, 1)}\n`

/** Names of entries for files, each of its own. */
export function entryNames(): (path: string) => string {
  let count = 0
  return path =>
    `media/${++count}/${path
      .split('/')
      .map(part => safeName(part))
      .join('/')}`
}

/** A source's files as they can be opened. */
export interface OpenedMedia {
  format: string
  numbers: number[] | null
  files: FileRef[]
}

export interface OpenedJobFile {
  job: Job
  aside: SetAside[]
  /** By source; those whose files are not in the job's file are missing. */
  media: Map<string, OpenedMedia>
  /** What was found by looking, as it was written; null where it does not go along. */
  looked: FileRef | null
}

/** How deep what a job says may be nested: far deeper than groups of scenes, or archives within archives, ever are. */
const MOST_DEEP = 64

/** Why data cannot be a job's, whatever it says: too deep, or with names that are the language's own; null for none. */
function strangeIn(data: unknown): string | null {
  const waiting: [value: unknown, depth: number][] = [[data, 0]]
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const [value, depth] = next
    if (typeof value !== 'object' || value === null) continue
    if (depth > MOST_DEEP) return 'what it says is nested deeper than any job is'
    for (const [key, part] of Object.entries(value)) {
      if (key === '__proto__') return 'it gives something a name that nothing may have ("__proto__")'
      waiting.push([part, depth + 1])
    }
  }
  return null
}

/** Reads a job's file. Rejects with one clear error where it is none, or damaged beyond use. */
export async function readJobFile(file: FileRef, host: Host, id: string): Promise<OpenedJobFile> {
  const reader = await host.openFile(file)
  let entries: Map<string, FileRef>
  try {
    entries = new Map((await listZip(file, reader)).map(entry => [entry.path, entry]))
  } finally {
    await reader.close()
  }
  const words = entries.get(JOB_ENTRY)
  if (!words || words.size > MOST_BYTES)
    throw unreadable(file.path, null, `it is not a job: there is no ${JOB_ENTRY} in it that can be read`)
  const text = new TextDecoder().decode(await whole(await host.openFile(words)))
  let parsed: unknown
  try {
    parsed = JSON.parse(text)
  } catch {
    throw unreadable(file.path, JOB_ENTRY, 'it is not a complete JSON file')
  }
  const strange = strangeIn(parsed)
  if (strange) throw unreadable(file.path, JOB_ENTRY, strange)
  const read = JobFile.safeParse(parsed)
  if (!read.success)
    throw unreadable(file.path, JOB_ENTRY, 'it is not what a job writes of itself; perhaps a later version wrote it')
  const { job, aside } = openJob(read.data.job, id, 'Untitled job')
  const media = new Map<string, OpenedMedia>()
  for (const [source, { format, numbers, files }] of Object.entries(read.data.media)) {
    const found = files.map(ref => refOf(ref, entries))
    if (found.every(each => each !== null)) media.set(source, { format, numbers, files: found })
  }
  const looked = entries.get(LOOKED_ENTRY)
  return { job: { ...job, id }, aside, media, looked: looked && looked.size <= MOST_LOOKED ? looked : null }
}

async function whole(reader: ByteReader): Promise<Uint8Array> {
  return readAll(reader).finally(() => reader.close())
}

function refOf(ref: PackedRef, entries: ReadonlyMap<string, FileRef>): FileRef | null {
  if ('archive' in ref) {
    const archive = refOf(ref.archive, entries)
    return archive && { kind: 'zipped', ...ref, archive }
  }
  const entry = ref.entry === null ? undefined : entries.get(ref.entry)
  // what is named is what it was called, which frames are numbered by
  if (entry?.kind !== 'zipped' || entry.size !== ref.size) return null
  return {
    ...entry,
    path: ref.path,
    ...(ref.sha256 ? { sha256: ref.sha256 } : {}),
    ...(ref.modified === undefined ? {} : { modified: ref.modified })
  }
}

/** The file of the job's ZIP that an entry lies in, or is. */
function mediumOf(file: FileRef): FileRef {
  return file.kind === 'zipped' && file.archive.kind === 'zipped' ? mediumOf(file.archive) : file
}

/** Bytes read at once while a file is gone through. */
const PIECE = 1 << 24

/**
 * A check of the media that files lie in: each is read to its end once, however many sources are made of it, and one
 * that is not what the job was kept with rejects. A job names its media by their digests; of one that names none,
 * files are taken as they are.
 */
export function mediaCheck(host: Host, signal?: AbortSignal): (files: readonly FileRef[]) => Promise<void> {
  const known = new Map<number, Promise<void>>()
  const read = async (file: Extract<FileRef, { kind: 'zipped' }>): Promise<void> => {
    const [reader, hasher] = [await host.openFile(file), host.sha256(file.size)]
    try {
      for (let at = 0; at < reader.size; at += PIECE) {
        signal?.throwIfAborted()
        hasher.update(await reader.read(at, PIECE))
      }
    } finally {
      await reader.close()
    }
    if ((await hasher.end()) !== file.sha256) throw changedMedium(file.path)
  }
  return async files => {
    for (const file of files.map(mediumOf)) {
      if (file.kind !== 'zipped' || !file.sha256) continue
      // by its place in the job's file: what it says of itself may be said of two
      if (!known.has(file.offset)) known.set(file.offset, read(file))
      await known.get(file.offset)
    }
  }
}

/** The error of a file that is not what the job was kept with. */
export const changedMedium = (path: string): Error =>
  unreadable(path, null, 'its bytes are not those that the job was kept with')

/**
 * The job with ids of its own for sources and outlets, so that it can lie beside the one it came from; and what became
 * of each source's id, and of every id.
 */
export function withFreshIds(
  job: Job,
  fresh: () => string
): { job: Job; sources: Map<string, string>; ids: ReadonlyMap<string, string> } {
  const ids = new Map([...Object.keys(job.sources), ...Object.keys(job.outlets)].map(id => [id, fresh()]))
  // steps name sources by their ids too, wherever they stand
  const renamed = JSON.parse(JSON.stringify(job), (_, value: unknown) =>
    typeof value === 'string' ? (ids.get(value) ?? value) : value
  ) as Job
  const keyed = <T>(record: Record<string, T>): Record<string, T> =>
    Object.fromEntries(Object.entries(record).map(([id, value]) => [ids.get(id) ?? id, value]))
  return {
    job: {
      ...renamed,
      id: job.id,
      name: job.name,
      sources: keyed(renamed.sources),
      outlets: keyed(renamed.outlets),
      waived: Object.fromEntries(
        Object.entries(renamed.waived).map(([cell, demands]) => {
          const { sourceId, outletId } = splitCell(cell)
          return [cellKey(ids.get(sourceId) ?? sourceId, ids.get(outletId) ?? outletId), demands]
        })
      )
    },
    sources: new Map(Object.keys(job.sources).map(id => [id, ids.get(id)!])),
    ids
  }
}

/** The job's outlets and preparations without its sources: where a new one of the same kind begins. */
export const asTemplate = (job: Job, id: string, name: string): Job => ({
  ...job,
  id,
  name,
  sources: {},
  sourceOrder: [],
  backdrop: undefined,
  waived: {}
})
