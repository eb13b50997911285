/** Pouring: a queue of cells, the one running, results with their proofs, and what an earlier visit left unfinished. */
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef } from 'vue'
import { database, keyPartsOf, type StoredResult, type StoredRun } from '~/db/database'
import { deliveredAsKnown, type Named } from '~/db/depot'
import { followResults, forgetResult } from '~/db/results'
import { sayStore } from '~/db/words'
import { isAbort } from '~~/core/base/errors'
import { splitCell } from '~~/core/job/job'
import { serialQueue } from '~~/core/run/delivery/queue'
import { useJob } from '../job'
import { useRows } from '../rows'
import { useSources } from '../sources'
import { useWorkshop } from '../workshop'
import { useAssessing } from './assessing'
import { useEstimates } from './estimates'
import { useResults } from './results'
import { useRound } from './round'
import { Unproven, useRunning, type Wanted } from './running'
import { TAB, type CellWork } from './work'

export const usePours = defineStore('pours', () => {
  const jobs = useJob()
  const sources = useSources()
  const workshop = useWorkshop()
  const board = useRows()
  const work = shallowReactive(new Map<string, CellWork>())
  const interrupted = shallowRef<StoredRun[]>([])
  const current = ref<string | null>(null)
  /** What is in hand is finished; what waits stays in line until it is resumed. */
  const paused = ref(false)
  const { results, latest, gone, takeResult } = useResults()
  const assessing = useAssessing(jobs, sources)
  const line = useRound({ jobs, sources, work, current })
  const { round, roundLeft } = line
  const estimates = useEstimates({ jobs, sources, workshop, board, assessing, current })
  const { runCell, proveAgain } = useRunning({ jobs, sources, workshop, assessing, estimates, work, results, latest })
  const { planOf, problemsOf, canPour, cellsOf, outOfDate } = assessing

  /** Does one cell of the queue, and tells how it ended. */
  async function runQueued(wanted: Wanted, signal: AbortSignal): Promise<void> {
    const { cell } = wanted
    try {
      // one tab pours a cell; the lock also tells a later visit that a run was cut off
      const mine = await navigator.locks.request(`pour:run:${cell}`, { ifAvailable: true }, async lock => {
        if (!lock) return false
        await runCell(wanted, signal)
        return true
      })
      if (mine) work.delete(cell)
      else work.set(cell, { state: 'elsewhere' })
    } catch (error) {
      if (isAbort(error)) work.delete(cell)
      else if (error instanceof Unproven) work.set(cell, { state: 'unproven', sentence: error.message })
      else work.set(cell, { state: 'failed', sentence: sayStore(error) })
    }
    // a note that stays is offered again after the next load, which does no harm
    if (work.get(cell)?.state !== 'elsewhere') await database.runs.delete(cell).catch(() => undefined)
    line.end(cell)
  }

  const queue = serialQueue<Wanted>({
    keyOf: ({ cell }) => cell,
    run: runQueued,
    onTurn(wanted) {
      if (wanted && current.value === null) line.begin()
      current.value = wanted?.cell ?? null
      if (!wanted && !paused.value) line.clear()
    }
  })

  /** How many cells are in line. */
  const waiting = computed(() => Math.max(0, round.total - round.ended - (current.value === null ? 0 : 1)))
  function pause(): void {
    paused.value = true
    queue.pause()
  }
  function resume(): void {
    paused.value = false
    queue.resume()
  }

  /**
   * Pours cells one after another, each over all workers. With a folder, results are saved there as well, under names
   * that `named` gives, or else as their outlets do.
   */
  function start(cells: readonly string[], folder: FileSystemDirectoryHandle | null = null, named?: Named): void {
    const fresh = queue.add(cells.map(cell => ({ cell, folder, named }))).map(({ cell }) => cell)
    for (const cell of fresh) work.set(cell, { state: 'waiting' })
    // what waits is on disk too: after a crash it is offered again; a store that does not take the note fails the pour,
    // where it is told
    database.runs
      .bulkPut(
        fresh.map(cell => ({ cell, jobId: jobs.job.id, resultId: crypto.randomUUID(), done: 0, total: 0, tab: TAB }))
      )
      .catch(() => undefined)
    line.enter(fresh)
    const taken = new Set(fresh)
    interrupted.value = interrupted.value.filter(run => !taken.has(run.cell))
  }

  /** Cancels everything that runs or waits, or only one cell. */
  function cancel(cell?: string): void {
    const running = current.value
    for (const out of queue.cancel(wanted => !cell || wanted.cell === cell)) {
      work.delete(out.cell)
      void database.runs.delete(out.cell)
      line.leave(out.cell)
    }
    if (running && (!cell || running === cell)) work.delete(running)
    if (paused.value && waiting.value === 0) resume()
  }

  /** Follows the stored results, and finds runs that an earlier visit began and never ended. */
  async function open(): Promise<void> {
    await followResults(jobs.job.id, takeResult)
    const held = new Set((await navigator.locks.query()).held?.map(lock => lock.name))
    // those of other jobs are offered when these are opened
    const runs = await database.runs.where('jobId').equals(jobs.job.id).toArray()
    // what a tab that is still open pours, or has in line, is its own; this one's may have been asked for just now
    const cut = runs.filter(
      run => run.tab !== TAB && !held.has(`pour:run:${run.cell}`) && !held.has(`pour:queue:${run.tab}`)
    )
    void navigator.locks.request(`pour:queue:${TAB}`, () => new Promise(() => undefined))
    // where the pour itself had ended, only its proof is left to do
    const poured = new Set(
      (await database.results.bulkGet(cut.map(run => run.resultId))).flatMap(result => (result ? [result.id] : []))
    )
    const lost = cut.filter(run => !poured.has(run.resultId))
    for (const run of lost)
      await database.parts.where('resultId').anyOf(run.resultId, keyPartsOf(run.resultId)).delete()
    await database.runs.bulkDelete(cut.map(run => run.cell))
    interrupted.value = lost.filter(
      run => jobs.job.sources[splitCell(run.cell).sourceId] && jobs.job.outlets[splitCell(run.cell).outletId]
    )
  }

  return {
    gone,
    work,
    results,
    latest,
    interrupted,
    current,
    round,
    roundLeft,
    planOf,
    problemsOf,
    canPour,
    cellsOf,
    outOfDate,
    start,
    cancel,
    paused,
    waiting,
    pause,
    resume,
    ...estimates,
    deliveredAsKnown: async (result: StoredResult) => deliveredAsKnown(result, await workshop.host()),
    proveAgain,
    open,
    forget: forgetResult
  }
})
