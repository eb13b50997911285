/** The jobs this browser keeps: which of them is open, and jobs as files. */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { makeZip } from 'client-zip'
import { sentenceOf } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import type { Host } from '~~/core/frame/host'
import {
  asTemplate,
  changedMedium,
  entryNames,
  JOB_ENTRY,
  jobText,
  readJobFile,
  withFreshIds,
  type PackedRef
} from '~~/core/run/job-file'
import { emptyJob, type Job } from '~~/core/job/job'
import { LOOKED_ENTRY, lookedText, readLooked, type KeptExaminations } from '~~/core/run/looked'
import { openJob } from '~~/core/job/open-job'
import { copyName } from '~~/core/job/outlet/names'
import { database, type StoredRef, type StoredSource } from './database'
import { keepFiles } from './files'
import { codeVersion, looksOf, takeLook } from './looks'
import { tellResults } from './results'

/** The job of a first visit. */
export const FIRST_JOB = 'main'
export const UNTITLED = 'Untitled job'
const OPEN = 'pour-open-job'

/** The job that this browser had open last. */
export function openJobId(): string {
  try {
    return localStorage.getItem(OPEN) ?? FIRST_JOB
  } catch {
    return FIRST_JOB
  }
}

/** Opens another job: the page begins anew with it. */
export function switchTo(id: string): void {
  localStorage.setItem(OPEN, id)
  window.location.assign('/')
}

export interface JobLine {
  id: string
  name: string
  sources: number
  outlets: number
}

/** All jobs, by name. Rows that are damaged are there too: they are opened as far as they can be. */
export async function listJobs(): Promise<JobLine[]> {
  const rows = await database.jobs.toArray()
  return rows
    .map(({ id, job }) => {
      const { job: opened } = openJob(job, id, UNTITLED)
      return { id, name: opened.name, sources: opened.sourceOrder.length, outlets: opened.outletOrder.length }
    })
    .sort((a, b) => a.name.localeCompare(b.name))
}

async function add(job: Job): Promise<string> {
  await database.jobs.add({ id: job.id, revision: 1, job })
  return job.id
}

async function freeJobName(wanted: string): Promise<string> {
  const taken = (await listJobs()).map(({ name }) => name)
  return taken.includes(wanted) ? copyName(wanted, taken) : wanted
}

export const newJob = async (): Promise<string> => add(emptyJob(crypto.randomUUID(), await freeJobName(UNTITLED)))

/** A job with the outlets of another, and no sources. */
export const newFrom = async (job: Job): Promise<string> =>
  add(asTemplate(job, crypto.randomUUID(), await freeJobName(job.name)))

/** A copy with the same sources, whose files both refer to, and nothing poured yet. */
export async function duplicateJob(job: Job): Promise<string> {
  const id = crypto.randomUUID()
  const { job: copy, sources } = withFreshIds(job, () => crypto.randomUUID())
  const rows = await database.sources.bulkGet([...sources.keys()])
  const name = await freeJobName(job.name)
  await database.transaction('rw', database.jobs, database.sources, async () => {
    await database.sources.bulkAdd(rows.flatMap(row => (row ? [{ ...row, id: sources.get(row.id)! }] : [])))
    await database.jobs.add({ id, revision: 1, job: { ...copy, id, name } })
  })
  return id
}

/** Removes a job with its results; files that no other job refers to go at the next visit. */
export async function deleteJob(id: string): Promise<void> {
  const results = await database.results.where('jobId').equals(id).primaryKeys()
  await database.transaction('rw', database.jobs, database.results, database.checks, database.runs, async () => {
    await database.jobs.delete(id)
    await database.results.bulkDelete(results)
    await database.checks.where('jobId').equals(id).delete()
    await database.runs.where('jobId').equals(id).delete()
  })
  tellResults(results)
}

/** The bytes of a blob as they go by, and their SHA-256 once they have. */
function summed(blob: Blob): { stream: ReadableStream<Uint8Array>; sum(): string } {
  const hash = sha256.create()
  const through = new TransformStream<Uint8Array, Uint8Array>({
    transform(bytes, controller) {
      hash.update(bytes)
      controller.enqueue(bytes)
    }
  })
  return { stream: blob.stream().pipeThrough(through), sum: () => bytesToHex(hash.digest()) }
}

/** What was found by looking at sources, as it goes along. */
async function lookedOf(ids: readonly string[]): Promise<KeptExaminations> {
  const code = codeVersion()
  const examined = await database.examinations.bulkGet([...ids])
  return {
    code,
    examinations: Object.fromEntries(
      examined.flatMap(row => (row ? [[row.sourceId, { key: row.key, examination: row.examination }]] : []))
    ),
    looks: await looksOf(ids)
  }
}

/** Takes over what another browser found by looking at sources that are `whole` here, where the same code did. */
async function takeLooked(
  file: FileRef,
  host: Host,
  { fresh, whole }: { fresh: ReadonlyMap<string, string>; whole: ReadonlySet<string> }
): Promise<void> {
  const text = await (await takenOut(file, host)).text()
  const looked = readLooked(text, codeVersion(), fresh)
  if (!looked) return
  for (const [sourceId, look] of Object.entries(looked.examinations))
    if (whole.has(sourceId)) await database.examinations.put({ sourceId, ...look })
  for (const look of looked.looks) await takeLook(look)
}

/** The job as one file, with the files of its sources or without. Rejects where one of them cannot be read. */
export async function jobAsFile(job: Job, withMedia: boolean): Promise<Blob> {
  const entryOf = entryNames()
  const entries = new Map<string, string>()
  const sums = new Map<string, string>()
  const changed = new Map<string, number>()
  const packed = (ref: StoredRef): PackedRef => {
    if (ref.kind === 'zipped') {
      const { kind: _, archive, ...rest } = ref
      return { ...rest, archive: packed(archive) }
    }
    if (withMedia && !entries.has(ref.fileId)) entries.set(ref.fileId, entryOf(ref.path))
    return {
      path: ref.path,
      size: ref.size,
      entry: entries.get(ref.fileId) ?? null,
      ...(sums.has(ref.fileId) ? { sha256: sums.get(ref.fileId)! } : {}),
      ...(changed.has(ref.fileId) ? { modified: changed.get(ref.fileId)! } : {})
    }
  }
  const rows = (await database.sources.bulkGet(job.sourceOrder)).flatMap(row => row ?? [])
  if (withMedia) for (const row of rows) row.files.forEach(packed)
  const looked = withMedia ? await lookedOf(job.sourceOrder) : null
  const lastModified = new Date()
  async function* zipped(): AsyncGenerator<{
    name: string
    input: ReadableStream<Uint8Array> | string
    size?: number
    lastModified: Date
  }> {
    for (const [fileId, name] of entries) {
      const row = await database.files.get(fileId)
      const blob = row?.blob ?? (await row?.handle?.getFile())
      if (!blob) throw new Error(`${name} is no longer in this browser.`)
      if ('lastModified' in blob) changed.set(fileId, (blob as File).lastModified)
      const { stream, sum } = summed(blob)
      yield { name, input: stream, size: blob.size, lastModified }
      sums.set(fileId, sum())
    }
    if (looked) yield { name: LOOKED_ENTRY, input: lookedText(looked), lastModified }
    // last, since it names the media by their sums
    const media = Object.fromEntries(
      rows.map(({ id, format, numbers, files }) => [id, { format, numbers, files: files.map(packed) }])
    )
    yield { name: JOB_ENTRY, input: jobText(job, media), lastModified }
  }
  return new Response(makeZip(zipped())).blob()
}

/** Bytes read at once while a file is taken out of a job's file. */
const PIECE = 1 << 26

async function takenOut(ref: FileRef, host: Host): Promise<Blob> {
  const reader = await host.openFile(ref)
  const hash = sha256.create()
  try {
    const pieces: Blob[] = []
    for (let at = 0; at < reader.size; at += PIECE) {
      const bytes = new Uint8Array(await reader.read(at, PIECE))
      hash.update(bytes)
      pieces.push(new Blob([bytes]))
    }
    const noted = ref.kind === 'zipped' ? ref.sha256 : undefined
    if (noted && noted !== bytesToHex(hash.digest())) throw changedMedium(ref.path)
    const modified = ref.kind === 'zipped' ? ref.modified : undefined
    // what it is known by goes along: its time as well
    return modified === undefined ? new Blob(pieces) : new File(pieces, ref.path, { lastModified: modified })
  } finally {
    await reader.close()
  }
}

/** Opens a job's file as a further job; its id, and sentences on what of it could not be taken. */
export async function addJobFile(file: File, host: Host): Promise<{ id: string; told: string[] }> {
  const ref: FileRef = { kind: 'blob', path: file.name, size: file.size, blob: file }
  const id = crypto.randomUUID()
  const read = await readJobFile(ref, host, id)
  const { job, sources, ids } = withFreshIds(read.job, () => crypto.randomUUID())
  const told = read.aside.map(({ what, why }) => `${what}: ${why}`)
  const rows: StoredSource[] = []
  // what several sources are made of is kept once: by its place in the job's file
  const kept = new Map<number, Promise<string>>()
  const keep = async (each: FileRef): Promise<string> => {
    const [fileId] = await keepFiles([{ path: each.path, file: await takenOut(each, host), handle: null }])
    return fileId!
  }
  const stored = async (each: FileRef): Promise<StoredRef> => {
    if (each.kind !== 'zipped') throw new TypeError('a file of a job lies in its ZIP')
    // what lies in an archive within is kept with its archive
    if (each.archive !== ref) return { ...each, archive: await stored(each.archive) }
    if (!kept.has(each.offset)) kept.set(each.offset, keep(each))
    return { kind: 'stored', fileId: await kept.get(each.offset)!, path: each.path, size: each.size }
  }
  for (const [old, { format, numbers, files }] of read.media) {
    const fresh = sources.get(old)
    if (!fresh) continue
    try {
      const refs: StoredRef[] = []
      for (const each of files) refs.push(await stored(each))
      rows.push({ id: fresh, format, numbers, files: refs })
    } catch (error) {
      told.push(sentenceOf(error))
    }
  }
  const name = await freeJobName(job.name)
  await database.transaction('rw', database.jobs, database.sources, async () => {
    await database.sources.bulkAdd(rows)
    await database.jobs.add({ id, revision: 1, job: { ...job, name } })
  })
  const whole = new Set([...rows.map(row => row.id), ...job.sourceOrder.filter(each => job.sources[each]?.scene)])
  if (read.looked) await takeLooked(read.looked, host, { fresh: ids, whole })
  return { id, told }
}
