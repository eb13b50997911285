/** The proof of a delivery: reads it back whole, frame by frame in the pool, and reports. */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { isAbort, sentenceOf } from '../errors'
import { examine, type Seen } from '../examine/examination'
import type { FileRef } from '../files/file'
import { formatById } from '../formats/registry'
import type { Host } from '../host'
import { openForProof } from '../source/open'
import type { SourceSpec } from '../source/source'
import { inOrder, type Pool } from '../work/pool'
import type { FrameComparison } from './compare'
import type { ProofReport } from './report'
import { reportOf, type Expectation } from './verdict'

export interface ProofRequest {
  reference: SourceSpec
  /** Reference frame for each frame due, counted from 0. */
  frames: readonly number[]
  expected: Expectation
  delivered: SourceSpec
}

const PIECE = 1 << 22

/** Frames whose pixels are asked for their mode; spread over the clip, more would not change the answer. */
const LOOKED_AT = 12

/** SHA-256 over the files one after another, read in pieces. */
export async function digestOf(files: readonly FileRef[], host: Host, signal?: AbortSignal): Promise<string> {
  const hash = sha256.create()
  for (const file of files) {
    const reader = await host.openFile(file)
    for (let at = 0; at < reader.size; at += PIECE) {
      signal?.throwIfAborted()
      hash.update(await reader.read(at, PIECE))
    }
    await reader.close()
  }
  return bytesToHex(hash.digest())
}

/**
 * Proves a delivery. Frames that cannot be read make the verdict, not an exception; only an abort, or a reference that
 * cannot be read, rejects. Memory is bounded by the frames in flight.
 */
export async function prove(request: ProofRequest, host: Host, pool: Pool, onProgress: (done: number, total: number) => void, signal?: AbortSignal): Promise<ProofReport> {
  const { reference, delivered, expected, frames } = request
  const format = formatById(delivered.format)
  const source = await openForProof(delivered, host)
  const facts = source.facts
  await source.close()
  const comparisons: FrameComparison[] = []
  const seen: Seen[] = []
  const failures: { frame: number; sentence: string }[] = []
  const count = Math.min(frames.length, facts.frames)
  const every = Math.ceil(count / LOOKED_AT)
  await inOrder(
    count,
    pool.size * 2,
    async i => {
      try {
        return await pool.run('compare', [{ reference, referenceIndex: frames[i]!, delivered, deliveredIndex: i, form: expected, look: i % every === 0 }], signal ? { signal } : {})
      } catch (error) {
        if (isAbort(error)) throw error
        return sentenceOf(error)
      }
    },
    (result, i) => {
      if (typeof result === 'string') failures.push({ frame: i + 1, sentence: result })
      else {
        comparisons.push(result.comparison)
        if (result.look) seen.push({ frame: i + 1, look: result.look })
      }
      onProgress(i + 1, count)
    }
  )
  return reportOf({
    expected,
    delivered: facts,
    format,
    comparisons,
    failures,
    answer: seen.length ? examine(seen, facts).alpha : null,
    sha256: await digestOf([...delivered.files, ...(delivered.key ?? [])], host, signal)
  })
}
