/** What the browser keeps, through every version of it, and whatever has become of a row. */
import 'fake-indexeddb/auto'
import Dexie from 'dexie'
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { beforeEach, expect, test } from 'vitest'
import { database, keyPartsOf } from '../../app/db/database'
import { sweep } from '../../app/db/files'
import { setAsideDamaged } from '../../app/db/rows'
import { sayStore } from '../../app/db/words'
import { Job } from '../../core/job/job'

interface Kept {
  version: number
  stores: Record<string, string>
  rows: Record<string, Record<string, unknown>[]>
}

const kept = (version: number): Kept =>
  JSON.parse(readFileSync(path.join(import.meta.dirname, `../stored/version-${version}.json`), 'utf8')) as Kept

/** Bytes stand as text in the kept copies. */
const withBytes = (row: Record<string, unknown>): Record<string, unknown> =>
  typeof row.blob === 'string' ? { ...row, blob: new Blob([row.blob]) } : row

async function lay({ version, stores, rows }: Kept): Promise<void> {
  const old = new Dexie('pour')
  old.version(version).stores(stores)
  await old.open()
  for (const [table, list] of Object.entries(rows)) await old.table(table).bulkAdd(list.map(withBytes))
  old.close()
}

beforeEach(async () => {
  database.close()
  await Dexie.delete('pour')
})

test.each([1, 2, 3, 4, 5, 6])('a store of version %i opens whole', async version => {
  await lay(kept(version))
  await database.open()
  await setAsideDamaged()
  const row = await database.jobs.get('main')
  expect(row?.revision).toBe(4)
  // pages work on the row as it lies
  expect(row?.job.outlets['outlet-a']?.steps).toEqual([])
  expect(row?.job.receiver).toBeNull()
  const job = Job.parse(row?.job)
  expect(job.name).toBe('Fernbrook Glasshouse')
  expect(job.sources['source-a']?.interpretation.rate).toEqual([24, 1])
  expect(job.sources['source-a']?.steps).toEqual([])
  expect(job.outlets['outlet-a']?.parts).toBe('colour-alpha')
  expect(job.outlets['outlet-a']?.steps).toEqual([])
  const result = await database.results.get('result-a')
  expect(result?.plan.deliverable.content).toEqual({ kind: 'whole' })
  expect(result?.plan.due.depth).toBe(result?.plan.deliverable.depth)
  expect(result?.plan.key).toBeNull()
  expect(await (await database.parts.get(['result-a', 0]))?.blob.text()).toBe('12345')
  expect(await (await database.files.get('file-a'))?.blob?.text()).toBe('abc')
  // what was found is looked for again, by the ways of this version
  expect(await database.examinations.count()).toBe(0)
  expect(await database.aside.toArray()).toEqual([])
})

test('damaged rows of any table are set aside with their reason, and the sound ones stay', async () => {
  const base = kept(5)
  const { rows } = base
  rows.results!.push({ ...rows.results![0]!, id: 'result-b', plan: 'lost', fileName: 'vine.mov' })
  rows.results!.push({ ...rows.results![0]!, id: 'result-c', cell: 7 })
  rows.sources!.push({ id: 'source-b', format: 'png-sequence', files: [{ kind: 'elsewhere' }], numbers: null })
  rows.files!.push({ id: 'file-b' })
  rows.runs!.push({ cell: 'x:y' })
  rows.checks!.push({ id: 'check-a', jobId: 'main', alpha: { mode: 'sideways' } })
  rows.pages!.push({ resultId: 'result-a', index: 1 })
  rows.parts!.push({ resultId: 'result-a', index: 1 })
  rows.examinations!.push({ sourceId: 'source-b', key: 'k', examination: { alpha: null } })
  await lay({ ...base, version: 5 })
  await database.open()
  await database.examinations.put({ sourceId: 'source-c', key: 'k', examination: { alpha: null } as never })
  await setAsideDamaged()
  const aside = await database.aside.toArray()
  expect(aside.map(each => each.table).sort()).toEqual([
    'checks',
    'files',
    'parts',
    'results',
    'results',
    'runs',
    'sources'
  ])
  expect(aside.find(each => each.what.includes('vine.mov'))?.value).toMatchObject({ plan: 'lost' })
  expect(aside.every(each => each.why.length > 3)).toBe(true)
  expect((await database.results.toArray()).map(r => r.id)).toEqual(['result-a'])
  expect((await database.sources.toArray()).map(s => s.id)).toEqual(['source-a'])
  expect(await database.parts.count()).toBe(1)
  // these are made again by themselves, and nobody needs to hear of it
  expect(await database.pages.count()).toBe(1)
  expect(await database.examinations.count()).toBe(0)
  await setAsideDamaged()
  expect(await database.aside.count()).toBe(aside.length)
})

test('a job row that is no job does not stop an upgrade', async () => {
  const base = kept(1)
  base.rows.jobs = [{ id: 'main', revision: 1, job: 'nothing' }]
  base.rows.results = [{ ...base.rows.results![0]!, plan: null }]
  await lay(base)
  await database.open()
  await setAsideDamaged()
  expect((await database.aside.toArray()).map(each => each.table)).toEqual(['results'])
})

test('a full store is told in words, however deep the browser hides it', () => {
  const full = Object.assign(new Error('x'), { name: 'AbortError', inner: { name: 'QuotaExceededError' } })
  expect(sayStore(full)).toMatch(/no room left/)
  expect(sayStore(new Error('a plain sentence'))).toBe('a plain sentence')
})

test('clearing away takes what nothing refers to, and leaves both halves of a pair', async () => {
  const base = kept(5)
  const { rows } = base
  const pair = structuredClone(rows.results![0]!)
  rows.results!.push({ ...pair, id: 'pair' }, { ...pair, id: 'dead', cell: 'removed:outlet-a' })
  const part = (resultId: string): Record<string, unknown> => ({ resultId, index: 0, blob: 'bytes' })
  rows.parts!.push(part('pair'), part(keyPartsOf('pair')), part('dead'), part(keyPartsOf('dead')), part('stray'))
  rows.parts!.push(part('gone'), part(keyPartsOf('gone')))
  rows.files!.push({ id: 'unused', path: 'x.png', size: 1, blob: 'x', handle: null })
  await lay(base)
  await database.open()
  await sweep()
  // "gone" is what a run under way is writing
  expect((await database.parts.toArray()).map(p => p.resultId).sort()).toEqual(
    ['gone', keyPartsOf('gone'), 'pair', keyPartsOf('pair'), 'result-a'].sort()
  )
  expect((await database.results.toArray()).map(r => r.id).sort()).toEqual(['pair', 'result-a'])
  expect((await database.files.toArray()).map(f => f.id)).toEqual(['file-a'])
})
