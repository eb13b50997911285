/**
 * What was looked at, kept for the next visit: small pictures, coverage, findings of prepared clips, tried sizes. Each
 * by what it is of (never by a name alone) and by the version of the code that looked; the oldest go first.
 */
import { useRuntimeConfig } from 'nuxt/app'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { fromBase64, toBase64 } from '~~/core/base/files/base64'
import type { KeptLook } from '~~/core/run/looked'
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

/** Looks that go along in a job's file. */
const GOES_ALONG: readonly string[] = ['thumb', 'ribbon', 'findings', 'estimate'] satisfies KeptLook['kind'][]

/** Keeps what was found. A store that is full keeps nothing, and loses nothing that is needed. */
export async function keepLook(kind: string, of: string, value: unknown): Promise<void> {
  try {
    await database.looks.put({
      key: rowKey(kind, of),
      at: Date.now(),
      value,
      ...(GOES_ALONG.includes(kind) ? { kind, of } : {})
    })
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

interface Thumb {
  width: number
  height: number
  pixels: Uint8ClampedArray<ArrayBuffer>
}

/** Looks of this code that go along with the sources of these ids: those whose key names one. */
export async function looksOf(sources: readonly string[]): Promise<KeptLook[]> {
  const rows = await database.looks
    .filter(
      ({ key, of }) => of !== undefined && key.includes(` ${codeVersion()} `) && sources.some(id => of.includes(id))
    )
    .toArray()
  return rows.map(({ kind, of, value }) => {
    if (kind !== 'thumb') return { kind, of, value } as KeptLook
    const { width, height, pixels } = value as Thumb
    return { kind, of: of!, value: { width, height, pixels: toBase64(new Uint8Array(pixels)) } }
  })
}

/** Takes over a look that went along; one whose pixels are not as many as its size says is left. */
export async function takeLook({ kind, of, value }: KeptLook): Promise<void> {
  if (kind !== 'thumb') return keepLook(kind, of, value)
  const { width, height } = value
  const bytes = fromBase64(value.pixels)
  if (bytes?.length !== 4 * width * height) return
  await keepLook(kind, of, { width, height, pixels: new Uint8ClampedArray(bytes.buffer) } satisfies Thumb)
}
