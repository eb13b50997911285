/** What is to be said of cells before they are poured, and whether what was poured still stands. */
import type { StoredResult } from '~/db/database'
import { sameJson } from '~~/core/base/canonical'
import { sceneFile } from '~~/core/draw/scene/as-file'
import { cellKey, splitCell } from '~~/core/job/job'
import type { PourPlan } from '~~/core/job/outlet/plan'
import { assessments, recipeOf, type Assessment } from '~~/core/run/delivery/assess'
import type { useJob } from '../job'
import type { useSources } from '../sources'

const REMOVED: readonly string[] = ['The source or the outlet was removed.']

/** Plans and problems of cells, found once for as long as nothing changes. */
export function useAssessing(jobs: ReturnType<typeof useJob>, sources: ReturnType<typeof useSources>) {
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

  /** What of a source decides the bytes that are made of it. */
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

  return { canPour, problemsOf, cellsOf, planOf, outOfDate, sourceKey }
}
export type Assessing = ReturnType<typeof useAssessing>
