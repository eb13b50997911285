/** What the browser keeps: jobs, the files brought in, examinations, and poured results in parts. */
import Dexie, { type Table } from 'dexie'
import { unreachable } from '~~/core/base/errors'
import type { Examination } from '~~/core/judge/examine/examination'
import type { HouseKey } from '~~/core/run/handover/seal'
import type { Job } from '~~/core/job/job'
import type { Outlet } from '~~/core/job/outlet/outlet'
import type { PourPlan } from '~~/core/job/outlet/plan'
import type { Rate } from '~~/core/base/rate'
import type { AlphaMode } from '~~/core/frame/frame'
import type { AloneReport } from '~~/core/judge/proof/alone'
import type { FrameOutcome, Notebook } from '~~/core/judge/proof/prove'
import type { ProofReport } from '~~/core/judge/proof/report'
import type { Stamps } from '~~/core/source/stamp'
import type { FilesSpec } from '~~/core/source/source'
import type { Expectation } from '~~/core/judge/proof/evidence'

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
  | {
      kind: 'zipped'
      path: string
      size: number
      archive: StoredRef
      offset: number
      packedSize: number
      method: 'stored' | 'deflated'
      crc: number
    }

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

/**
 * Examinations that were begun and not ended: one that brings the page down must not begin again by itself for ever.
 */
export interface StoredTry {
  sourceId: string
  key: string
  tries: number
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
  /** Fingerprints of its frames as they were poured; null where none were taken. */
  prints?: string[] | null
  /** Of the source's files when it was poured; absent in results of before stamps. */
  stamps?: Stamps
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
  /** 0 while it waits in line. */
  total: number
  /** The page that has it in hand. */
  tab?: string
}

/** A file from outside that was proven, against a source of the job or by itself. */
export interface StoredCheck {
  id: string
  jobId: string
  at: number
  name: string
  format: string
  files: StoredRef[]
  numbers: number[] | null
  /** What pictures that are not alike are brought to; absent in checks from before. */
  common?: FilesSpec['common']
  bytes: number
  /** The mode it is taken to have, and the rate its name or a note beside it says. */
  alpha: AlphaMode
  rate: Rate | null
  against: { sourceId: string; name: string; expected: Expectation; report: ProofReport } | null
  alone: AloneReport
}

/** Outcomes of frames of a proof under way, so that one cut off goes on where it was. */
export interface StoredPage {
  resultId: string
  index: number
  outcomes: FrameOutcome[]
}

/** Something stored that could not be opened as it was, kept so that it can be saved. */
export interface StoredAside {
  id?: number
  at: number
  what: string
  why: string
  /** The table it lay in; "jobs" for parts of a job. */
  table: string
  value: unknown
}

/** Something that was looked at, by what it was looked at and what for; made anew by another version of the code. */
export interface StoredLook {
  key: string
  /** When it was last asked for, in milliseconds. */
  at: number
  value: unknown
  /** Of looks that go along in a job's file: what they are, and of what, in words. */
  kind?: string
  of?: string
}

/** The house's key, by which this browser signs what it hands over. */
export interface StoredKey {
  id: 'house'
  key: HouseKey
}

/** An outlet kept for every job of this browser; a job takes a copy. */
export interface StoredOutlet {
  id: string
  /** When it was kept, in milliseconds. */
  at: number
  outlet: Omit<Outlet, 'id'>
}

class Database extends Dexie {
  jobs!: Table<{ id: string; revision: number; job: Job }, string>
  files!: Table<StoredFile, string>
  sources!: Table<StoredSource, string>
  examinations!: Table<StoredExamination, string>
  results!: Table<StoredResult, string>
  parts!: Table<StoredPart, [string, number]>
  runs!: Table<StoredRun, string>
  checks!: Table<StoredCheck, string>
  pages!: Table<StoredPage, [string, number]>
  aside!: Table<StoredAside, number>
  tries!: Table<StoredTry, string>
  library!: Table<StoredOutlet, string>
  looks!: Table<StoredLook, string>
  keys!: Table<StoredKey, string>

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
    // results of before fills and keys hold whole pictures
    this.version(2).upgrade(transaction =>
      transaction
        .table<StoredResult>('results')
        .toCollection()
        .modify(result => {
          const { plan } = result
          if (typeof plan?.deliverable !== 'object') return
          plan.deliverable.content ??= { kind: 'whole' }
          plan.key ??= null
          plan.due ??= plan.deliverable
        })
    )
    // jobs of before preparations have none, and what was found in their sources offers none
    this.version(3).upgrade(async transaction => {
      await transaction
        .table<{ job: Job }>('jobs')
        .toCollection()
        .modify(({ job }) => {
          // a row that is damaged is set aside when it is opened, and must not stop the upgrade of all others
          if (typeof job !== 'object' || job === null) return
          job.preparations ??= []
          for (const source of Object.values(job.sources ?? {})) source.steps ??= []
        })
      await transaction.table('examinations').clear()
    })
    this.version(4).stores({ checks: 'id, jobId', pages: '[resultId+index], resultId' })
    // the mode is judged by other figures now
    this.version(5).upgrade(transaction => transaction.table('examinations').clear())
    this.version(6).stores({ aside: '++id', tries: 'sourceId' })
    // outlets of before had no steps, and jobs no receiver
    this.version(7)
      .stores({ library: 'id' })
      .upgrade(async transaction => {
        await transaction
          .table<{ job: Job }>('jobs')
          .toCollection()
          .modify(({ job }) => {
            if (typeof job !== 'object' || job === null) return
            job.receiver ??= null
            job.waived ??= {}
            for (const outlet of Object.values(job.outlets ?? {})) outlet.steps ??= []
          })
        await transaction
          .table<StoredResult>('results')
          .toCollection()
          .modify(({ plan }) => {
            if (typeof plan?.outlet === 'object') plan.outlet.steps ??= []
          })
      })
    this.version(8).stores({ looks: 'key, at' })
    this.version(9).stores({ keys: 'id' })
  }
}

export const database = new Database()

/** Under which id the parts of a pair's key are kept. */
export const keyPartsOf = (resultId: string): string => `${resultId}~key`

async function gathered(id: string, type: string): Promise<Blob> {
  const parts = await database.parts.where('resultId').equals(id).sortBy('index')
  return new Blob(
    parts.map(part => part.blob),
    { type }
  )
}

/**
 * Rejects as unreachable unless the store holds all that was poured of a result. A browser may clear away what it
 * keeps, whole or in part, and says so only when bytes are asked for: so the first and the last of each part are read.
 */
export async function assertWhole(result: StoredResult): Promise<void> {
  const parts = await database.parts.where('resultId').anyOf(result.id, keyPartsOf(result.id)).toArray()
  const bytes = parts.reduce((sum, part) => sum + part.blob.size, 0)
  const gone = (held: string): Error => unreachable(`${held} in this browser's store; pour it again`, result.fileName)
  if (bytes !== result.bytes || parts.length !== result.parts)
    throw gone(`only ${bytes} of its ${result.bytes} bytes are left`)
  for (const { blob } of parts)
    for (const at of [0, Math.max(0, blob.size - 1)])
      await blob
        .slice(at, at + 1)
        .arrayBuffer()
        .catch(() => {
          throw gone('its bytes cannot be read any more')
        })
}

/**
 * The poured files of a result, put together from their parts without reading them: one, or a fill and its key. Rejects
 * when they are not all there.
 */
export async function resultBlobs(result: StoredResult): Promise<{ name: string; blob: Blob }[]> {
  await assertWhole(result)
  const first = { name: result.fileName, blob: await gathered(result.id, result.mime) }
  const { key } = result.plan
  // a pair of picture sequences lies in one archive
  if (!key || key.fileName === result.plan.fileName) return [first]
  // a number that set the fill's name apart stands in the key's as well
  const stem = (name: string): number => name.lastIndexOf('.')
  const { fileName } = result.plan
  const name = key.fileName.slice(0, stem(key.fileName)) + result.fileName.slice(stem(fileName))
  return [first, { name, blob: await gathered(keyPartsOf(result.id), result.mime) }]
}

/** The notebook of a result's proof. */
export function notebookOf(resultId: string): Notebook {
  let index = 0
  return {
    async read() {
      const pages = await database.pages.where('resultId').equals(resultId).sortBy('index')
      index = pages.length
      return pages.flatMap(page => page.outcomes)
    },
    add: async outcomes => void (await database.pages.put({ resultId, index: index++, outcomes: [...outcomes] }))
  }
}
