/**
 * What was poured, and word of each change to it: to this page and to every other that has the store open. A page
 * follows the rows that changed and no others, however many there are.
 */
import { database, keyPartsOf, type StoredResult } from './database'

/** Ids whose rows were written or removed. */
type Changed = readonly string[]

const others = new BroadcastChannel('pour:results')
const here = new Set<(changed: Changed) => void>()
others.addEventListener('message', ({ data }: MessageEvent<Changed>) => {
  for (const listen of here) listen(data)
})

/** Says that rows were written or removed, once that is so. */
export function tellResults(changed: Changed): void {
  if (!changed.length) return
  for (const listen of here) listen(changed)
  others.postMessage(changed)
}

export async function keepResult(result: StoredResult): Promise<void> {
  await database.results.put(result)
  tellResults([result.id])
}

/** Notes where a result was saved. */
export async function noteFolder(id: string, folder: string): Promise<void> {
  await database.results.update(id, { folder })
  tellResults([id])
}

/** Keeps the report of a proof, whose notebook is closed with it. */
export async function keepReport(id: string, report: NonNullable<StoredResult['report']>): Promise<void> {
  await database.transaction('rw', database.results, database.pages, async () => {
    await database.results.update(id, { report })
    await database.pages.where('resultId').equals(id).delete()
  })
  tellResults([id])
}

/** Removes a result with its bytes. */
export async function forgetResult(id: string): Promise<void> {
  await database.transaction('rw', database.results, database.parts, database.pages, async () => {
    await database.pages.where('resultId').equals(id).delete()
    await database.parts.where('resultId').anyOf(id, keyPartsOf(id)).delete()
    await database.results.delete(id)
  })
  tellResults([id])
}

/**
 * Gives `take` all results of a job, oldest first, and from then on each row that is written, in the order of the
 * changes; `null` for one that is gone. Resolves once the first were given, with what ends it.
 */
export async function followResults(
  jobId: string,
  take: (id: string, row: StoredResult | null) => void
): Promise<() => void> {
  const all = async (): Promise<void> => {
    for (const row of await database.results.where('jobId').equals(jobId).sortBy('at')) take(row.id, row)
  }
  const these = async (changed: Changed): Promise<void> => {
    const rows = await database.results.bulkGet([...changed])
    for (const [n, id] of changed.entries()) {
      const row = rows[n]
      if (!row || row.jobId === jobId) take(id, row ?? null)
    }
  }
  const first = all()
  // one after the other, so that what was read earlier never comes later
  let last: Promise<unknown> = first
  const listen = (changed: Changed): void => {
    // a store that cannot be read is told of where it is used; what follows is heard all the same
    last = last.then(() => these(changed)).catch(() => undefined)
  }
  here.add(listen)
  await first
  return () => void here.delete(listen)
}
