/**
 * Rows as they are found in the browser's store, held to their shape before anything works with them. What another
 * version wrote, or a crash left half done, is set aside: kept as it is, told in words, and never in the way.
 */
import { z } from 'zod'
import { Examination } from '~~/core/judge/examine/examination'
import { AlphaMode, Depth } from '~~/core/frame/frame'
import { Outlet } from '~~/core/job/outlet/outlet'
import { ProofReport } from '~~/core/judge/proof/report'
import { Rate } from '~~/core/base/rate'
import { database } from './database'

const count = z.number().int().min(0)
const Id = z.string().min(1)

interface Ref {
  kind: 'stored' | 'zipped'
}
const StoredRef: z.ZodType<Ref> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.looseObject({ kind: z.literal('stored'), fileId: Id, path: z.string(), size: count }),
    z.looseObject({
      kind: z.literal('zipped'),
      path: z.string(),
      size: count,
      archive: StoredRef,
      offset: count,
      packedSize: count,
      method: z.enum(['stored', 'deflated']),
      crc: z.number()
    })
  ])
)
const Files = { files: z.array(StoredRef).min(1), numbers: z.array(z.number().int()).nullable() }

const Deliverable = z.looseObject({
  width: z.number().int().min(1),
  height: z.number().int().min(1),
  frames: z.number().int().min(1),
  rate: Rate.nullable(),
  depth: Depth,
  alpha: AlphaMode,
  content: z.looseObject({ kind: z.string() }),
  names: z.array(z.string())
})
const Plan = z.looseObject({
  outlet: Outlet,
  frames: z.array(count).min(1),
  deliverable: Deliverable,
  key: z.looseObject({ deliverable: Deliverable, fileName: z.string() }).nullable(),
  due: z.looseObject({ depth: Depth, alpha: AlphaMode }),
  name: z.string(),
  fileName: z.string()
})

const SHAPES = {
  files: z.looseObject({ id: Id, path: z.string(), size: count }),
  sources: z.looseObject({ id: Id, format: z.string(), ...Files }),
  examinations: z.looseObject({ sourceId: Id, key: z.string(), examination: Examination }),
  results: z.looseObject({
    id: Id,
    jobId: Id,
    cell: z.string().regex(/^[^:]+:[^:]+$/),
    at: z.number(),
    fileName: z.string().min(1),
    mime: z.string(),
    bytes: count,
    parts: count,
    plan: Plan,
    sourceKey: z.string(),
    report: ProofReport.nullable(),
    folder: z.string().nullable()
  }),
  parts: z.looseObject({ resultId: Id, index: count, blob: z.instanceof(Blob) }),
  runs: z.looseObject({ cell: z.string(), jobId: Id, resultId: Id, done: count, total: count }),
  checks: z.looseObject({
    id: Id,
    jobId: Id,
    at: z.number(),
    name: z.string(),
    format: z.string(),
    ...Files,
    bytes: count,
    alpha: AlphaMode,
    rate: Rate.nullable(),
    against: z.looseObject({ sourceId: Id, name: z.string(), report: ProofReport }).nullable()
  }),
  pages: z.looseObject({ resultId: Id, index: count, outcomes: z.array(z.unknown()) })
} as const

type TableName = keyof typeof SHAPES

/** What a row of a table is to whoever reads about it. */
const WORDS: Record<TableName, string> = {
  files: 'a file brought in',
  sources: 'the files of a source',
  examinations: 'what was found in a source',
  results: 'a poured result',
  parts: 'a part of a poured result',
  runs: 'a note of a pour under way',
  checks: 'the proof of a file from outside',
  pages: 'a part of a proof under way'
}

/** What is made again by itself is not worth keeping. */
const MADE_AGAIN: readonly TableName[] = ['examinations', 'pages']

function rowWord(table: TableName, row: unknown): string {
  const { fileName, name, path } = (row ?? {}) as Record<string, unknown>
  const named = [fileName, name, path].find(text => typeof text === 'string' && text !== '')
  return named ? `${WORDS[table]}, ${String(named).slice(0, 80)}` : WORDS[table]
}

/** Looks at every row of every table but the job's, and sets aside those that are not what they should be. */
export async function setAsideDamaged(): Promise<void> {
  for (const name of Object.keys(SHAPES) as TableName[]) {
    const table = database.table<unknown, unknown>(name)
    const damaged: { key: unknown; row: unknown; why: string }[] = []
    await table.each((row, { primaryKey }) => {
      const read = SHAPES[name].safeParse(row)
      if (read.success) return
      const [issue] = read.error.issues
      damaged.push({ key: primaryKey, row, why: `${issue!.path.map(String).join('.') || 'it'}: ${issue!.message}` })
    })
    if (damaged.length)
      await database.transaction('rw', table, database.aside, async () => {
        if (!MADE_AGAIN.includes(name))
          await database.aside.bulkAdd(
            damaged.map(({ row, why }) => ({ at: Date.now(), what: rowWord(name, row), why, table: name, value: row }))
          )
        await table.bulkDelete(damaged.map(d => d.key))
      })
  }
}
