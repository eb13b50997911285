/**
 * What deliveries will come to in bytes: a few frames really encoded, once for each recipe, and only while somebody
 * wants to know.
 */
import type { PourPlan } from '../../job/outlet/plan'
import { isAbort } from '../../base/errors'
import { estimateSize, isRefined, type SizeEstimate } from '../pour/estimate-size'
import type { SourceSpec } from '../../source/source'
import { fewAtATime } from '../../base/few'
import type { Workshop } from '../../frame/workshop'
import type { DeliveryTasks } from './asks'
import { sampleQuality, type SampledQuality } from './quality'

export interface Estimating extends Omit<Workshop<DeliveryTasks>, 'signal'> {
  spec: SourceSpec
  plan: PourPlan
  /** Resolves when the step may be taken: when what is worth more is done. */
  ready?: (step: EstimateStage) => Promise<unknown>
}

/** A size from the fewest frames; what is lost, and a surer size. */
export type EstimateStage = 'size' | 'quality'

/**
 * Cells in hand at once at each step: enough for the workers of most machines. More would only fill the thread that
 * hands out the work.
 */
const AT_ONCE = { size: 4, quality: 2 } as const

/** What is known beforehand: its size, and what it will lose; null until that is known, and where it cannot be. */
export interface Estimate extends SizeEstimate {
  quality: SampledQuality | null
}

/** Estimates of former visits. */
export interface EstimateMemory {
  had(key: string): Promise<Estimate | undefined>
  keep(key: string, estimate: Estimate): Promise<void>
}

const FORGETS: EstimateMemory = { had: () => Promise.resolve(undefined), keep: () => Promise.resolve() }

/**
 * Estimates by the key of what they are of. `tell` is given each one as soon as its size is known from the fewest
 * frames, again with its quality, and once more where more frames make it surer. Of many that are wanted at once all
 * sizes come before the first quality.
 */
export function estimates(
  tell: (key: string, estimate: Estimate) => void,
  memory: EstimateMemory = FORGETS
): {
  want(key: string, what: () => Promise<Estimating>): Promise<void>
  /** Stops those that nobody wants any more. */
  drop(unwanted: (key: string) => boolean): void
  /** How many are still being found out. */
  readonly pending: number
} {
  const made = new Set<string>()
  const running = new Map<string, AbortController>()
  const lanes = { size: fewAtATime(AT_ONCE.size), quality: fewAtATime(AT_ONCE.quality) }
  const sizing = new Set<Promise<unknown>>()

  async function sizeOf(signal: AbortSignal, { spec, plan, host, pool, ready }: Estimating): Promise<SizeEstimate> {
    await ready?.('size')
    signal.throwIfAborted()
    return estimateSize({ source: spec, plan, host, pool, signal }, 'least')
  }

  /** Waits for every size that is wanted; then for what its page has in hand. */
  async function afterSizes(signal: AbortSignal, ready: Estimating['ready']): Promise<void> {
    while (sizing.size) await Promise.allSettled(sizing)
    await ready?.('quality')
    signal.throwIfAborted()
  }

  return {
    get pending() {
      return running.size
    },
    async want(key, what) {
      if (made.has(key) || running.has(key)) return
      const stop = new AbortController()
      running.set(key, stop)
      try {
        const had = await memory.had(key)
        if (had) {
          tell(key, had)
          made.add(key)
          return
        }
        const given = await what()
        const { signal } = stop
        const judging = lanes.size.turn(() => sizeOf(signal, given))
        sizing.add(judging)
        const size = await judging.finally(() => sizing.delete(judging))
        tell(key, { ...size, quality: null })
        await lanes.quality.turn(async () => {
          await afterSizes(signal, given.ready)
          const { spec, plan, host, pool } = given
          const quality = await sampleQuality({ reference: spec, plan, host, pool, signal })
          tell(key, { ...size, quality })
          const whole = isRefined(plan) ? await estimateSize({ source: spec, plan, host, pool, signal }) : size
          if (whole !== size) tell(key, { ...whole, quality })
          await memory.keep(key, { ...whole, quality })
        })
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
