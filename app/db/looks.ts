/**
 * What was looked at, kept for the next visit: small pictures, coverage, findings of prepared clips, tried sizes. Each by
 * what it is of (never by a name alone) and by the version of the code that looked; the oldest go first.
 */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
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

/** Keeps what was found. A store that is full keeps nothing, and loses nothing that is needed. */
export async function keepLook(kind: string, of: string, value: unknown): Promise<void> {
  try {
    await database.looks.put({ key: rowKey(kind, of), at: Date.now(), value })
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
