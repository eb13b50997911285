/** Pouring one cell and proving what it made. */
import type { ComputedRef } from 'vue'
import { assertWhole, database, keyPartsOf, notebookOf, type StoredResult } from '~/db/database'
import { deliverInto, depotOf, depotOfKept, type Named } from '~/db/depot'
import { forgetResult, keepReport, keepResult } from '~/db/results'
import { sayStore } from '~/db/words'
import { impossible, isAbort } from '~~/core/base/errors'
import type { AlphaMode } from '~~/core/frame/frame'
import { splitCell } from '~~/core/job/job'
import { Names } from '~~/core/job/outlet/names'
import type { PourPlan } from '~~/core/job/outlet/plan'
import { withOwnSteps } from '~~/core/job/outlet/own-steps'
import { formatById } from '~~/core/open/registry'
import { pourInto, proveDelivered } from '~~/core/run/delivery/delivery'
import { sayOtherwise } from '~~/core/run/pour/passing'
import type { Noted } from '~~/core/run/pour/pour'
import type { SourceSpec } from '~~/core/source/source'
import { useDesk } from '../desk'
import type { useJob } from '../job'
import type { useSources } from '../sources'
import type { useWorkshop } from '../workshop'
import type { Assessing } from './assessing'
import type { Estimates } from './estimates'
import { TAB, type CellWork } from './work'

/** Poured, but the check itself failed. */
export class Unproven extends Error {}

/** A cell that is asked for, and the folder it is saved in as well. */
export interface Wanted {
  cell: string
  folder: FileSystemDirectoryHandle | null
  named?: Named | undefined
}

/** What a pour of a cell made. */
interface Made {
  result: StoredResult
  reference: SourceSpec
  /** How the source was taken. */
  mode: AlphaMode | null
  noted: Noted
}

interface Around {
  jobs: ReturnType<typeof useJob>
  sources: ReturnType<typeof useSources>
  workshop: ReturnType<typeof useWorkshop>
  assessing: Assessing
  estimates: Estimates
  work: Map<string, CellWork>
  results: ComputedRef<readonly StoredResult[]>
  latest: ReadonlyMap<string, StoredResult>
}

/** What is done in a cell is told in `work`. */
export function useRunning({ jobs, sources, workshop, assessing, estimates, work, results, latest }: Around) {
  const { planOf, sourceKey } = assessing
  const { estimateOf, leaveEstimate } = estimates
  const desk = useDesk()

  /** A cell's source as it is taken now, and what it comes to. Throws with what stands against it. */
  function planned(cell: string): { plan: PourPlan; reference: SourceSpec; mode: AlphaMode | null } {
    const { plan, problems } = planOf(cell)
    if (!plan) throw impossible(problems.join(' '))
    const source = jobs.job.sources[splitCell(cell).sourceId]!
    const own = sources.specOf(source)
    if (!own) throw impossible('The files of the source are not at hand.')
    return { plan, reference: withOwnSteps(own, plan.steps), mode: sources.modeOf(source) }
  }

  /** Pours a cell and keeps what it made, under a name that is free but for the result that it comes `instead` of. */
  async function pourCell(cell: string, signal: AbortSignal, instead: string | null = null): Promise<Made> {
    const { plan, reference, mode } = planned(cell)
    const host = await workshop.host()
    const key = sourceKey(cell)
    const others = results.value.filter(r => r.id !== instead)
    const names = new Names(
      others.filter(r => r.cell !== cell || plan.outlet.existing === 'keep-both').map(r => r.fileName)
    )
    const fileName = names.free(plan.fileName)
    const resultId = crypto.randomUUID()
    const total = plan.frames.length
    await database.runs.put({ cell, jobId: jobs.job.id, resultId, done: 0, total, tab: TAB })
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
        sourceKey: key,
        report: null,
        prints: noted.prints && [...noted.prints],
        stamps: noted.stamps,
        folder: null
      }
      await assertWhole(result)
      await keepResult(result)
    }
    const looking = sources.lookWhilePoured(splitCell(cell).sourceId, reference)
    const noted = await pourInto(
      depotOf(resultId, keep, () => result),
      {
        reference,
        plan,
        passing: looking?.passing ?? null,
        host,
        pool: workshop.pool,
        signal
      },
      ({ done }) => {
        work.set(cell, { state: 'pouring', done, total, started })
        // how far it came is kept now and then, for the offer after a crash
        if (performance.now() - kept > 1000) {
          kept = performance.now()
          void database.runs.update(cell, { done })
        }
      }
    ).finally(() => looking?.letGo())
    const made = result as StoredResult | null
    if (!made) throw impossible('What was poured could not be kept.')
    return { result: made, reference, mode, noted }
  }

  /**
   * Pours a cell on what a few frames of its source say, and again where all of them say otherwise. Nothing is left of
   * what they speak against.
   */
  async function pourSettled(cell: string, signal: AbortSignal): Promise<Made> {
    const { sourceId } = splitCell(cell)
    await sources.begun(sourceId, signal)
    if (sources.examinations.has(sourceId)) return pourCell(cell, signal)
    let made: Made
    try {
      made = await pourCell(cell, signal)
    } catch (error) {
      if (isAbort(error)) throw error
      // what all frames show may say it better than the one that could not be poured
      await sources.settled(sourceId, signal)
      planned(cell)
      throw error
    }
    await sources.settled(sourceId, signal)
    const otherwise = spokenAgainst(cell, made)
    if (!otherwise) return made
    await forgetResult(made.result.id)
    if (planOf(cell).plan) desk.message = otherwise
    return pourCell(cell, signal, made.result.id)
  }

  /** What all frames say against a pour that was begun on a few: a sentence; null where they say nothing. */
  function spokenAgainst(cell: string, { mode: begun }: Made): string | null {
    const { plan, problems } = planOf(cell)
    if (!plan) return problems.join(' ')
    const source = jobs.job.sources[splitCell(cell).sourceId]!
    const mode = sources.modeOf(source)
    return begun && mode && sayOtherwise(sources.factsOf(source), begun, mode)
  }

  async function runCell({ cell, folder, named }: Wanted, signal: AbortSignal): Promise<void> {
    // what it will lose is proven soon
    leaveEstimate(cell)
    const former = latest.get(cell)
    if (former && jobs.job.outlets[splitCell(cell).outletId]?.existing === 'stop')
      throw impossible(
        `${former.fileName} was poured already, and this outlet stops rather than replace it. Remove that ` +
          'result, or change the outlet.'
      )
    try {
      const { result, reference, noted } = await pourSettled(cell, signal)
      if (former && result.plan.outlet.existing === 'replace') await forgetResult(former.id)
      try {
        await proveResult(result, reference, signal, noted)
      } catch (error) {
        if (isAbort(error)) throw error
        // the file stands; that it could not be checked says nothing about it
        throw new Unproven(sayStore(error))
      }
      if (folder) await deliverInto(folder, result, { host: await workshop.host(), signal, named })
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

  return { runCell, proveAgain }
}
