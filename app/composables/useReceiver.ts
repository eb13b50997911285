/** What the job's receiver demands, and what of it a cell would not meet, or was waived for it. */
import { computed, type ComputedRef } from 'vue'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { unmet, type Unmet } from '~~/core/job/outlet/receiver'

interface OfReceiver {
  /** Demands not met, by cell: those that stand, and those that were waived. */
  demands(cell: string): { open: Unmet[]; waived: Unmet[] }
  name: ComputedRef<string | null>
  waive(cell: string, id: string): Promise<void>
  insist(cell: string, id: string): Promise<void>
}

export function useReceiver(): OfReceiver {
  const jobs = useJob()
  const pours = usePours()

  function demands(cell: string): { open: Unmet[]; waived: Unmet[] } {
    const { receiver, waived } = jobs.job
    // most jobs have none, and a plan is not made for nothing
    const plan = receiver ? pours.planOf(cell).plan : null
    if (!receiver || !plan) return { open: [], waived: [] }
    const result = pours.latest.get(cell)
    const bytes = result && !pours.outOfDate(result) ? result.bytes : (pours.estimateOf(cell)?.bytes ?? null)
    const found = unmet(plan, receiver, bytes)
    const gone = new Set(waived[cell] ?? [])
    return { open: found.filter(({ id }) => !gone.has(id)), waived: found.filter(({ id }) => gone.has(id)) }
  }

  const change = (label: string, cell: string, next: (ids: string[]) => string[]): Promise<void> =>
    jobs
      .edit(label, draft => {
        const ids = next(draft.waived[cell] ?? [])
        if (ids.length) draft.waived[cell] = ids
        else Reflect.deleteProperty(draft.waived, cell)
      })
      .then(() => undefined)

  return {
    demands,
    name: computed(() => jobs.job.receiver?.name ?? null),
    waive: (cell, id) => change('Waive a demand', cell, ids => [...new Set([...ids, id])]),
    insist: (cell, id) => change('Insist on a demand', cell, ids => ids.filter(each => each !== id))
  }
}
