/** Pouring: a queue of cells, the one running, results with their proofs, and what an earlier visit left unfinished. */
import { sceneFile } from '~~/core/draw/scene/as-file'
import { until } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowReactive, shallowRef } from 'vue'
import { keepLook, keptLook } from '~/db/looks'
import { assertWhole, database, keyPartsOf, notebookOf, type StoredResult, type StoredRun } from '~/db/database'
import { deliveredAsKnown, deliverInto, depotOf, depotOfKept, type Named } from '~/db/depot'
import { followResults, forgetResult, keepReport, keepResult } from '~/db/results'
import { sayStore } from '~/db/words'
import { sameJson } from '~~/core/base/canonical'
import { assessments, recipeOf, type Assessment } from '~~/core/run/delivery/assess'
import { estimates as estimating, type Estimate } from '~~/core/run/delivery/estimate'
import { serialQueue } from '~~/core/run/delivery/queue'
import { effortDone, effortOf, secondsToEnd, wholeEffort, type Effort } from '~~/core/run/delivery/remaining'
import { pourInto, proveDelivered } from '~~/core/run/delivery/delivery'
import { impossible, isAbort, sentenceOf } from '~~/core/base/errors'
import { formatById } from '~~/core/open/registry'
import { cellKey, splitCell } from '~~/core/job/job'
import { Names } from '~~/core/job/outlet/names'
import { withOwnSteps } from '~~/core/job/outlet/own-steps'
import type { PourPlan } from '~~/core/job/outlet/plan'
import type { Noted } from '~~/core/run/pour/pour'
import type { SourceSpec } from '~~/core/source/source'
import { useJob } from './job'
import { useRows } from './rows'
import { useSources } from './sources'
import { useWorkshop } from './workshop'

export type CellWork =
  | { state: 'waiting' }
  | { state: 'pouring'; done: number; total: number; started: number }
  | { state: 'proving'; done: number; total: number; started: number }
  | { state: 'failed'; sentence: string }
  | { state: 'unproven'; sentence: string }
  | { state: 'elsewhere' }

/** This page, as long as it lives: it holds a lock of this name. */
const TAB = crypto.randomUUID()

const NO_EFFORT: Effort = { pixels: 0, proving: 0 }

const REMOVED: readonly string[] = ['The source or the outlet was removed.']

/** Poured, but the check itself failed. */
class Unproven extends Error {}

/** Sizes and losses that a former visit tried stand at once. */
const ESTIMATES = {
  had: (key: string) => keptLook<Estimate>('estimate', key),
  keep: (key: string, estimate: Estimate) => keepLook('estimate', key, JSON.parse(JSON.stringify(estimate)))
}

export const usePours = defineStore('pours', () => {
  const jobs = useJob()
  const sources = useSources()
  const workshop = useWorkshop()
  const board = useRows()
  const work = shallowReactive(new Map<string, CellWork>())
  /** All kept results by id, newest last. */
  const held = shallowReactive(new Map<string, StoredResult>())
  const results = computed(() => [...held.values()])
  /** The newest of each cell: what one cell shows does not depend on what another becomes. */
  const latest = shallowReactive(new Map<string, StoredResult>())
  const interrupted = shallowRef<StoredRun[]>([])
  /** Of each cell, by recipe: one that was had before stands again once its change is undone. */
  const estimates = shallowReactive(new Map<string, ReadonlyMap<string, Estimate>>())
  const sizes = estimating((key, estimate) => {
    const cell = key.slice(0, key.indexOf(' '))
    estimates.set(cell, new Map([...(estimates.get(cell) ?? []), [key, estimate]]))
  }, ESTIMATES)
  const current = ref<string | null>(null)
  /**
   * Of the present round: cells asked for and cells ended; work of all and of the ended; when the clock was started,
   * and what had been done then.
   */
  const round = reactive({ total: 0, ended: 0, effort: 0, done: 0, since: 0, before: 0 })
  const efforts = new Map<string, Effort>()

  /** What a cell comes to in work, without its plan, which names every picture. */
  function effortOfCell(cell: string): Effort {
    const { sourceId, outletId } = splitCell(cell)
    const [source, outlet] = [jobs.job.sources[sourceId], jobs.job.outlets[outletId]]
    const readBack = !!outlet && formatById(outlet.format).readBack !== undefined && outlet.parts !== 'fill-key'
    const clip = source ? sources.factsOf(source) : { frames: 0, width: 0, height: 0 }
    return effortOf(clip, readBack)
  }

  /** Seconds until the round ends as it goes; null where nothing can be said. */
  function roundLeft(now: number): number | null {
    const cell = current.value
    const [of, effort] = [cell && work.get(cell), cell && efforts.get(cell)]
    const inHand = of && effort && 'done' in of ? effortDone(effort, of.state, of.total ? of.done / of.total : 0) : 0
    const { effort: all, done, before, since } = round
    return secondsToEnd({ effort: all, done: done + inHand, before, seconds: (now - since) / 1000 })
  }

  /** Takes in a row of the store; a null one is gone. */
  function takeResult(id: string, row: StoredResult | null): void {
    const cell = (row ?? held.get(id))?.cell
    if (cell === undefined) return
    if (row) held.set(id, row)
    else held.delete(id)
    const shown = latest.get(cell)
    if (row && (!shown || shown.id === id || shown.at <= row.at)) latest.set(cell, row)
    else if (!row && shown?.id === id) {
      const before = results.value.filter(result => result.cell === cell).at(-1)
      if (before) latest.set(cell, before)
      else latest.delete(cell)
    }
    if (row) count(row)
  }

  const assessed = assessments()

  function assess(cell: string): Assessment | null {
    const { sourceId, outletId } = splitCell(cell)
    const source = jobs.job.sources[sourceId]
    const outlet = jobs.job.outlets[outletId]
    if (!source || !outlet) return null
    const state = sources.states.get(sourceId)
    const found = sources.examinations.get(sourceId)
    return assessed(cell, [source, outlet, state, found], () => ({
      facts: sources.factsOf(source),
      outlet,
      marks: source.marks,
      span: source.span,
      against: state?.state === 'failed' || state?.state === 'locked' ? [state.sentence] : []
    }))
  }

  /** Whether nothing stands against a pour; cheaper than its plan, which names every picture. */
  const canPour = (cell: string): boolean => assess(cell)?.problems.length === 0

  /** What stands against a pour of the cell, in sentences. */
  const problemsOf = (cell: string): readonly string[] => assess(cell)?.problems ?? REMOVED

  /** Cells of a source that can be poured, across the board. */
  const cellsOf = (sourceId: string): string[] =>
    jobs.outlets.map(outlet => cellKey(sourceId, outlet.id)).filter(canPour)

  function planOf(cell: string): { plan: PourPlan | null; problems: readonly string[] } {
    const found = assess(cell)
    return found ? { plan: found.plan(), problems: found.problems } : { plan: null, problems: REMOVED }
  }

  /** True when source or outlet have changed since the result was poured. */
  function outOfDate(result: StoredResult): boolean {
    const { plan } = planOf(result.cell)
    const source = jobs.job.sources[splitCell(result.cell).sourceId]
    return !plan || !source || recipeOf(plan) !== recipeOf(result.plan) || sourceKey(result.cell) !== result.sourceKey
  }

  /** What is in hand is finished; what waits stays in line until it is resumed. */
  const paused = ref(false)

  function sourceKey(cell: string): string {
    const source = jobs.job.sources[splitCell(cell).sourceId]
    return source
      ? sameJson([
          source.interpretation.holdGaps,
          ...(source.interpretation.damaged ? [source.interpretation.damaged] : []),
          ...(source.interpretation.eachPicture ? ['each'] : []),
          ...(source.interpretation.layer === undefined ? [] : [source.interpretation.layer]),
          ...(source.scene ? [sceneFile(source.scene).stamp, ...sources.shownKey(source.scene)] : []),
          sources.modeOf(source),
          ...source.steps.filter(step => step.on).map(({ kind, settings }) => ({ kind, settings }))
        ])
      : ''
  }

  async function runCell({ cell, folder, named }: Wanted, signal: AbortSignal): Promise<void> {
    // what it will lose is proven soon
    leaveEstimate(cell)
    await sources.settled(splitCell(cell).sourceId, signal)
    const { plan, problems } = planOf(cell)
    if (!plan) throw impossible(problems.join(' '))
    const source = jobs.job.sources[splitCell(cell).sourceId]!
    const own = sources.specOf(source)
    if (!own) throw impossible('The files of the source are not at hand.')
    const reference = withOwnSteps(own, plan.steps)
    const former = latest.get(cell)
    if (former && plan.outlet.existing === 'stop')
      throw impossible(
        `${former.fileName} was poured already, and this outlet stops rather than replace it. Remove that result, or change the outlet.`
      )
    const names = new Names(
      results.value.filter(r => r.cell !== cell || plan.outlet.existing === 'keep-both').map(r => r.fileName)
    )
    const fileName = names.free(plan.fileName)
    const resultId = crypto.randomUUID()
    const total = plan.frames.length
    await database.runs.put({ cell, jobId: jobs.job.id, resultId, done: 0, total, tab: TAB })
    try {
      const started = performance.now()
      work.set(cell, { state: 'pouring', done: 0, total, started })
      let kept = 0
      let result: StoredResult | null = null
      const keep = async (noted: Noted): Promise<void> => {
        const parts = await database.parts.where('resultId').anyOf(resultId, keyPartsOf(resultId)).toArray()
        result = {
          id: resultId,
          jobId: jobs.job.id,
          cell,
          at: Date.now(),
          fileName,
          mime: formatById(plan.outlet.format).mime,
          bytes: parts.reduce((sum, part) => sum + part.blob.size, 0),
          parts: parts.length,
          plan,
          sourceKey: sourceKey(cell),
          report: null,
          prints: noted.prints && [...noted.prints],
          stamps: noted.stamps,
          folder: null
        }
        await assertWhole(result)
        await keepResult(result)
      }
      const noted = await pourInto(
        depotOf(resultId, keep, () => result),
        { reference, plan, host: await workshop.host(), pool: workshop.pool, signal },
        ({ done }) => {
          work.set(cell, { state: 'pouring', done, total, started })
          // how far it came is kept now and then, for the offer after a crash
          if (performance.now() - kept > 1000) {
            kept = performance.now()
            void database.runs.update(cell, { done })
          }
        }
      )
      const made = result as StoredResult | null
      if (!made) throw impossible('What was poured could not be kept.')
      if (former && plan.outlet.existing === 'replace') await forgetResult(former.id)
      try {
        await proveResult(made, reference, signal, noted)
      } catch (error) {
        if (isAbort(error)) throw error
        // the file stands; that it could not be checked says nothing about it
        throw new Unproven(sayStore(error))
      }
      if (folder) await deliverInto(folder, made, { host: await workshop.host(), signal, named })
    } finally {
      await database.runs.delete(cell)
    }
  }

  /** `noted` is at hand only right after the pour; a proof that is taken up later goes without what was read back. */
  async function proveResult(
    result: StoredResult,
    reference: SourceSpec,
    signal?: AbortSignal,
    noted: Noted | null = null
  ): Promise<void> {
    const { plan, cell } = result
    const started = performance.now()
    work.set(cell, { state: 'proving', done: 0, total: plan.frames.length, started })
    const report = await proveDelivered(
      depotOfKept(result),
      {
        reference,
        plan,
        host: await workshop.host(),
        pool: workshop.pool,
        origin: sources.originOf(splitCell(cell).sourceId),
        estimate: estimateOf(cell)?.bytes ?? null,
        signal,
        notebook: notebookOf(result.id)
      },
      {
        prints: result.prints ?? null,
        ...(result.stamps ? { stamps: result.stamps } : {}),
        readBack: noted?.readBack ?? null
      },
      (done, total) => work.set(cell, { state: 'proving', done, total, started })
    )
    await keepReport(result.id, report)
  }

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
    round.ended++
    round.done += wholeEffort(efforts.get(cell) ?? NO_EFFORT)
    efforts.delete(cell)
  }

  interface Wanted {
    cell: string
    folder: FileSystemDirectoryHandle | null
    named?: Named | undefined
  }
  const queue = serialQueue<Wanted>({
    keyOf: ({ cell }) => cell,
    run: runQueued,
    onTurn(wanted) {
      if (wanted && current.value === null) Object.assign(round, { since: performance.now(), before: round.done })
      current.value = wanted?.cell ?? null
      if (!wanted && !paused.value) Object.assign(round, { total: 0, ended: 0, effort: 0, done: 0 })
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
    round.total += fresh.length
    for (const cell of fresh) {
      efforts.set(cell, effortOfCell(cell))
      round.effort += wholeEffort(efforts.get(cell)!)
    }
    const taken = new Set(fresh)
    interrupted.value = interrupted.value.filter(run => !taken.has(run.cell))
  }

  /** Cancels everything that runs or waits, or only one cell. */
  function cancel(cell?: string): void {
    const running = current.value
    for (const out of queue.cancel(wanted => !cell || wanted.cell === cell)) {
      work.delete(out.cell)
      void database.runs.delete(out.cell)
      round.total--
      round.effort -= wholeEffort(efforts.get(out.cell) ?? NO_EFFORT)
      efforts.delete(out.cell)
    }
    if (running && (!cell || running === cell)) work.delete(running)
    if (paused.value && waiting.value === 0) resume()
  }

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

  /** Proves a kept result again, for one whose proof was cut off. */
  async function proveAgain(result: StoredResult): Promise<void> {
    const source = jobs.job.sources[splitCell(result.cell).sourceId]
    const own = source && sources.specOf(source)
    if (!own) return
    const reference = withOwnSteps(own, result.plan.steps)
    try {
      await proveResult(result, reference)
      work.delete(result.cell)
    } catch (error) {
      work.set(result.cell, { state: 'unproven', sentence: sayStore(error) })
    }
  }

  /** Results whose bytes are not all in the store any more, by id, with the sentence that says so. */
  const gone = shallowReactive(new Map<string, string>())
  const counted = new Set<string>()

  let counting: Promise<unknown> = Promise.resolve()

  /** Counts the stored bytes of a result, once and one result after the other. */
  function count(result: StoredResult): void {
    if (counted.has(result.id)) return
    counted.add(result.id)
    counting = counting
      .then(() => assertWhole(result))
      .catch((error: unknown) => gone.set(result.id, sentenceOf(error)))
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
    estimate,
    leaveEstimate,
    estimateOf,
    /** How many sizes are still being found out; not reactive. */
    estimating: () => sizes.pending,
    deliveredAsKnown: async (result: StoredResult) => deliveredAsKnown(result, await workshop.host()),
    proveAgain,
    open,
    forget: forgetResult
  }
})
