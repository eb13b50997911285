/** What cells will come to: sizes and losses tried on a few frames, once for each recipe. */
import { until } from '@vueuse/core'
import { shallowReactive, type Ref } from 'vue'
import { keepLook, keptLook } from '~/db/looks'
import { splitCell } from '~~/core/job/job'
import { withOwnSteps } from '~~/core/job/outlet/own-steps'
import { recipeOf } from '~~/core/run/delivery/assess'
import { estimates as estimating, type Estimate } from '~~/core/run/delivery/estimate'
import type { useJob } from '../job'
import type { useRows } from '../rows'
import type { useSources } from '../sources'
import type { useWorkshop } from '../workshop'
import type { Assessing } from './assessing'

/** Sizes and losses that a former visit tried stand at once. */
const ESTIMATES = {
  had: (key: string) => keptLook<Estimate>('estimate', key),
  keep: (key: string, estimate: Estimate) => keepLook('estimate', key, JSON.parse(JSON.stringify(estimate)))
}

interface Around {
  jobs: ReturnType<typeof useJob>
  sources: ReturnType<typeof useSources>
  workshop: ReturnType<typeof useWorkshop>
  board: ReturnType<typeof useRows>
  assessing: Assessing
  /** The cell in hand. */
  current: Ref<string | null>
}

/** Judges sizes of the cells that are asked for while nothing else is to do. */
export function useEstimates({ jobs, sources, workshop, board, assessing, current }: Around) {
  const { planOf, sourceKey } = assessing
  /** Of each cell, by recipe: one that was had before stands again once its change is undone. */
  const estimates = shallowReactive(new Map<string, ReadonlyMap<string, Estimate>>())
  const sizes = estimating((key, estimate) => {
    const cell = key.slice(0, key.indexOf(' '))
    estimates.set(cell, new Map([...(estimates.get(cell) ?? []), [key, estimate]]))
  }, ESTIMATES)

  function estimateKey(cell: string): string {
    const { plan } = planOf(cell)
    return plan ? `${cell} ${recipeOf(plan)} ${sourceKey(cell)}` : cell
  }

  /** What the cell will come to as things stand, where it was tried. */
  function estimateOf(cell: string): Estimate | undefined {
    const had = estimates.get(cell)
    // the key names all that the bytes depend on: it is made only where there is something to be found by it
    return had && jobs.job.sources[splitCell(cell).sourceId] ? had.get(estimateKey(cell)) : undefined
  }

  /** Judges the size of a cell that is seen, when nothing else is to do, once for each recipe. */
  async function estimate(cell: string): Promise<void> {
    const { plan } = planOf(cell)
    const source = jobs.job.sources[splitCell(cell).sourceId]
    const spec = source && sources.examinations.has(source.id) ? sources.specOf(source) : null
    if (!plan || !spec) return
    await sizes.want(estimateKey(cell), async () => ({
      spec: withOwnSteps(spec, plan.steps),
      plan,
      host: await workshop.host(),
      pool: workshop.pool,
      // while the board is scrolled nothing is begun, and what is lost is asked once nothing else is to do
      ready: step =>
        until(() => board.moves || (step === 'quality' && (sources.looking.size > 0 || current.value !== null))).toBe(
          false
        )
    }))
  }

  /** Stops judging a cell that is not seen any more. */
  function leaveEstimate(cell: string): void {
    sizes.drop(key => key.startsWith(`${cell} `))
  }

  return {
    estimate,
    leaveEstimate,
    estimateOf,
    /** How many sizes are still being found out; not reactive. */
    estimating: () => sizes.pending
  }
}
export type Estimates = ReturnType<typeof useEstimates>
