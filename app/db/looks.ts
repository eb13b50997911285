/**
 * What was looked at, kept for the next visit: small pictures, coverage, findings of prepared clips, tried sizes. Each by
 * what it is of (never by a name alone) and by the version of the code that looked; the oldest go first.
 */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import type { KeptLook } from '~~/core/job/looked'
import { database } from './database'

/** Rows that are kept, and by how many more they may be before the oldest are taken away. */
const MOST = 4000
const SLACK = 200

/** Of the code that looks: another build may see otherwise. */
export const codeVersion = (): string => useRuntimeConfig().app.buildId

const rowKey = (kind: string, of: string): string =>
  `${kind} ${codeVersion()} ${bytesToHex(sha256(new TextEncoder().encode(of)))}`

let kept = -1

/** What was kept of it; undefined where nothing was, or the store cannot be read. */
export async function keptLook<T>(kind: string, of: string): Promise<T | undefined> {
  try {
    const row = await database.looks.get(rowKey(kind, of))
    return row?.value as T | undefined
  } catch {
    // what cannot be had is looked at again
    return undefined
  }
}

/** Looks that took long, and hang on nothing of this browser: they go along in a job's file. */
const GOES_ALONG: readonly string[] = ['findings', 'estimate'] satisfies KeptLook['kind'][]

/** Keeps what was found. A store that is full keeps nothing, and loses nothing that is needed. */
export async function keepLook(kind: string, of: string, value: unknown): Promise<void> {
  try {
    await database.looks.put({ key: rowKey(kind, of), at: Date.now(), value, ...(GOES_ALONG.includes(kind) ? { kind, of } : {}) })
    if (kept < 0) kept = await database.looks.count()
    if (++kept < MOST + SLACK) return
    const old = await database.looks
      .orderBy('at')
      .limit(kept - MOST)
      .primaryKeys()
    await database.looks.bulkDelete(old)
    kept = await database.looks.count()
  } catch {
    kept = -1
  }
}

/** Looks of this code that go along with the sources of these ids: those whose key names one. */
export async function looksOf(sources: readonly string[]): Promise<KeptLook[]> {
  const rows = await database.looks
    .filter(({ key, of }) => of !== undefined && key.includes(` ${codeVersion()} `) && sources.some(id => of.includes(id)))
    .toArray()
  return rows.map(({ kind, of, value }) => ({ kind, of, value }) as KeptLook)
}
