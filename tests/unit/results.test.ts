/** Results are followed row by row, in this page and from others of the same browser. */
import 'fake-indexeddb/auto'
import Dexie from 'dexie'
import { beforeEach, expect, test, vi } from 'vitest'
import { database, type StoredResult } from '../../app/db/database'
import { followResults, forgetResult, keepResult, noteFolder, tellResults } from '../../app/db/results'

beforeEach(async () => {
  database.close()
  await Dexie.delete('pour')
  await database.open()
})

const row = (id: string, at: number, jobId = 'main'): StoredResult =>
  ({ id, jobId, cell: `s:${id}`, at, fileName: `${id}.mov`, bytes: 4, parts: 1, report: null, folder: null }) as never

/** What was told, as text: the name of each row with its folder, or that it is gone. */
function listening(): { told: string[]; take: (id: string, row: StoredResult | null) => void } {
  const told: string[] = []
  return { told, take: (id, now) => told.push(now ? `${id} ${now.folder ?? '-'}` : `${id} gone`) }
}

test('first all of the job, oldest first; then each row that changes and no other, until it is ended', async () => {
  for (const each of [row('b', 2), row('a', 1), row('other', 3, 'else')]) await database.results.put(each)
  const { told, take } = listening()
  const stop = await followResults('main', take)
  expect(told.splice(0)).toEqual(['a -', 'b -'])
  await keepResult(row('c', 4))
  await noteFolder('a', 'out')
  await keepResult(row('other', 3, 'else'))
  await forgetResult('b')
  await vi.waitFor(() => expect(told).toEqual(['c -', 'a out', 'b gone']))
  stop()
  await keepResult(row('d', 5))
  await new Promise(resolve => setTimeout(resolve, 20))
  expect(told).toHaveLength(3)
})

test('a change while the first are read is told after them', async () => {
  for (let n = 0; n < 200; n++) await database.results.put(row(`r${n}`, n))
  const { told, take } = listening()
  const following = followResults('main', take)
  const gone = forgetResult('r7')
  const stop = await following
  await gone
  await vi.waitFor(() => expect(told.at(-1)).toBe('r7 gone'))
  expect(told.filter(each => each === 'r7 -').length).toBeLessThanOrEqual(1)
  stop()
})

test('what another page writes is read here; a thousand changes at once are read together', async () => {
  const { told, take } = listening()
  const stop = await followResults('main', take)
  const ids = Array.from({ length: 1000 }, (_, n) => `r${n}`)
  await database.results.bulkPut(ids.map((id, n) => row(id, n)))
  const read = vi.spyOn(database.results, 'bulkGet')
  // as it comes from a page that wrote them
  const page = new BroadcastChannel('pour:results')
  page.postMessage(ids)
  await vi.waitFor(() => expect(told).toHaveLength(1000))
  expect(read).toHaveBeenCalledTimes(1)
  page.close()
  // nothing is nothing to tell
  tellResults([])
  await new Promise(resolve => setTimeout(resolve, 20))
  expect(read).toHaveBeenCalledTimes(1)
  read.mockRestore()
  stop()
})
