/** A pour: frames through the pool, in order, into a sink. The same function runs in the browser and on Node. */
import { isAbort } from '../errors'
import { memorySink } from '../files/sinks'
import type { Assembler, Format, Target } from '../formats/format'
import { formatById } from '../formats/registry'
import type { Host } from '../host'
import type { PourPlan } from '../outlet/plan'
import type { SourceSpec } from '../source/source'
import { inOrder, type Pool } from '../work/pool'

export interface Progress {
  done: number
  total: number
  /** Bytes of encoded frames so far. */
  bytes: number
}

/**
 * Pours `plan` from `source` into `target` and closes it. Memory is bounded by the frames in flight: two for each
 * worker, and not one more until the sink has taken those before. On any error or abort the target is aborted and the
 * error passed on.
 */
export async function pour(source: SourceSpec, plan: PourPlan, target: Target, host: Host, pool: Pool, onProgress: (progress: Progress) => void, signal?: AbortSignal): Promise<void> {
  const format = formatById(plan.outlet.format)
  const stop = new AbortController()
  const either = signal ? AbortSignal.any([signal, stop.signal]) : stop.signal
  let bytes = 0
  let assembler: Assembler | null = null
  try {
    either.throwIfAborted()
    const made = await format.assemble(target, plan.deliverable, host)
    assembler = made
    onProgress({ done: 0, total: plan.frames.length, bytes: 0 })
    await inOrder(
      plan.frames.length,
      pool.size * 2,
      i => pool.run('encode', [{ source, index: plan.frames[i]!, format: format.id, deliverable: plan.deliverable }], { signal: either }),
      async (encoded, i) => {
        either.throwIfAborted()
        await made.add(i, encoded)
        bytes += encoded.length
        onProgress({ done: i + 1, total: plan.frames.length, bytes })
      }
    )
    await made.finish()
    await target.sink.close()
  } catch (error) {
    // frames still in flight for this pour are not wanted any more
    stop.abort()
    // what the assembler holds is let go of as well as it can be; the error that counts is the one at hand
    await assembler?.abort?.().catch(() => undefined)
    await target.sink.abort().catch((abortError: unknown) => {
      if (!isAbort(abortError)) throw new AggregateError([error, abortError], `${String(error)}; what was written could not be removed`)
    })
    throw error
  }
}

/** Frames encoded to judge a size by: first, middle and last thirds of the range. */
const SAMPLES = 3

/** Bytes the delivery will have, from a few frames really encoded. */
export async function estimateSize(source: SourceSpec, plan: PourPlan, host: Host, pool: Pool, signal?: AbortSignal): Promise<number> {
  const format = formatById(plan.outlet.format)
  if (format.stateful) return estimateStretch(source, plan, format, host, pool, signal)
  const count = Math.min(SAMPLES, plan.frames.length)
  let bytes = 0
  for (let i = 0; i < count; i++) {
    const index = plan.frames[Math.floor(((i + 0.5) * plan.frames.length) / count)]!
    const encoded = await pool.run('encode', [{ source, index, format: format.id, deliverable: plan.deliverable }], { priority: 'later', ...(signal ? { signal } : {}) })
    bytes += encoded.length
  }
  return format.wrappedSize(Math.round((bytes / count) * plan.frames.length), plan.deliverable)
}

/** Frames in a row that a codec is tried on when its frames build on each other. */
const STRETCH = 12

async function estimateStretch(source: SourceSpec, plan: PourPlan, format: Format, host: Host, pool: Pool, signal?: AbortSignal): Promise<number> {
  const count = Math.min(STRETCH, plan.frames.length)
  const from = Math.floor((plan.frames.length - count) / 2)
  const sink = memorySink()
  const assembler = await format.assemble({ kind: 'film', sink }, { ...plan.deliverable, frames: count }, host)
  for (let i = 0; i < count; i++) {
    await assembler.add(i, await pool.run('encode', [{ source, index: plan.frames[from + i]!, format: format.id, deliverable: plan.deliverable }], { priority: 'later', ...(signal ? { signal } : {}) }))
  }
  await assembler.finish()
  return Math.round((sink.bytes().length / count) * plan.frames.length)
}
