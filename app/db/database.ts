/** What the browser keeps: jobs, the files brought in, examinations, and poured results in parts. */
import Dexie, { type Table } from 'dexie'
import type { Examination } from '~~/core/examine/examination'
import type { Job } from '~~/core/job/job'
import type { PourPlan } from '~~/core/outlet/plan'
import type { ProofReport } from '~~/core/proof/report'

/** A file's bytes, or a handle to where they lie when there was no room. */
export interface StoredFile {
  id: string
  path: string
  size: number
  blob: Blob | null
  handle: FileSystemFileHandle | null
}

/** A source's files by reference. */
export type StoredRef =
  | { kind: 'stored'; fileId: string; path: string; size: number }
  | { kind: 'zipped'; path: string; size: number; archive: StoredRef; offset: number; packedSize: number; method: 'stored' | 'deflated'; crc: number }

export interface StoredSource {
  id: string
  format: string
  files: StoredRef[]
  numbers: number[] | null
}

export interface StoredExamination {
  sourceId: string
  /** The interpretation it was made under; another one makes it stale. */
  key: string
  examination: Examination
}

export interface StoredResult {
  id: string
  jobId: string
  cell: string
  /** When it was poured, in milliseconds. */
  at: number
  fileName: string
  mime: string
  bytes: number
  parts: number
  plan: PourPlan
  /** The source's name and its interpretation at the time. */
  sourceKey: string
  report: ProofReport | null
  /** Where it went instead, when it was poured straight into a folder. */
  folder: string | null
}

export interface StoredPart {
  resultId: string
  index: number
  blob: Blob
}

/** A pour under way; what is still here after a reload was interrupted. */
export interface StoredRun {
  cell: string
  jobId: string
  resultId: string
  done: number
  total: number
}

class Database extends Dexie {
  jobs!: Table<{ id: string; revision: number; job: Job }, string>
  files!: Table<StoredFile, string>
  sources!: Table<StoredSource, string>
  examinations!: Table<StoredExamination, string>
  results!: Table<StoredResult, string>
  parts!: Table<StoredPart, [string, number]>
  runs!: Table<StoredRun, string>

  constructor() {
    super('pour')
    this.version(1).stores({
      jobs: 'id',
      files: 'id',
      sources: 'id',
      examinations: 'sourceId',
      results: 'id, jobId, cell',
      parts: '[resultId+index], resultId',
      runs: 'cell, jobId'
    })
  }
}

export const database = new Database()

/** The poured file of a result, put together from its parts without reading them. */
export async function resultBlob(result: StoredResult): Promise<Blob> {
  const parts = await database.parts.where('resultId').equals(result.id).sortBy('index')
  return new Blob(
    parts.map(part => part.blob),
    { type: result.mime }
  )
}

export async function forgetResult(id: string): Promise<void> {
  await database.transaction('rw', database.results, database.parts, async () => {
    await database.parts.where('resultId').equals(id).delete()
    await database.results.delete(id)
  })
}
