/**
 * What deliveries will come to in bytes: a few frames really encoded, once for each recipe, and only while somebody
 * wants to know.
 */
import type { Host } from '../host'
import type { PourPlan } from '../outlet/plan'
import { isAbort } from '../errors'
import { estimateSize, isRefined, type SizeEstimate } from '../pour/estimate-size'
import type { SourceSpec } from '../source/source'
import type { Pool } from '../work/pool'
import { sampleQuality, type SampledQuality } from './quality'

export interface Estimating {
  spec: SourceSpec
  plan: PourPlan
  host: Host
  pool: Pool
  /** Resolves when what is worth more than surer figures is done. */
  rest?: () => Promise<unknown>
}

/** What is known beforehand: its size, and what it will lose; null until that is known, and where it cannot be. */
export interface Estimate extends SizeEstimate {
  quality: SampledQuality | null
}

/**
 * Estimates by the key of what they are of. `tell` is given each one as soon as its size is known from the fewest
 * frames,
 * again with its quality, and once more where more frames make it surer.
 */
export function estimates(tell: (key: string, estimate: Estimate) => void): {
  want(key: string, what: () => Promise<Estimating>): Promise<void>
  /** Stops those that nobody wants any more. */
  drop(unwanted: (key: string) => boolean): void
} {
  const made = new Set<string>()
  const running = new Map<string, AbortController>()
  return {
    async want(key, what) {
      if (made.has(key) || running.has(key)) return
      const stop = new AbortController()
      running.set(key, stop)
      try {
        const { spec, plan, host, pool, rest } = await what()
        stop.signal.throwIfAborted()
        const trial = { source: spec, plan, host, pool, signal: stop.signal }
        const size = await estimateSize(trial, 'least')
        tell(key, { ...size, quality: null })
        await rest?.()
        stop.signal.throwIfAborted()
        const quality = await sampleQuality({ reference: spec, plan, host, pool, signal: stop.signal })
        tell(key, { ...size, quality })
        if (isRefined(plan)) tell(key, { ...(await estimateSize(trial)), quality })
        made.add(key)
      } catch (error) {
        // a frame that cannot be read fails the pour itself, with its reason, where it can be seen; it is not tried
        // again
        if (!isAbort(error)) made.add(key)
      } finally {
        running.delete(key)
      }
    },
    drop(unwanted) {
      for (const [key, stop] of running) if (unwanted(key)) stop.abort()
    }
  }
}
