/** All that is known of one cell, in the form the board and the inspector show it. */
import { sayBytes, sayTime, secondsLeft } from '~/composables/say'
import { useReceiver } from '~/composables/useReceiver'
import { computed, type ComputedRef } from 'vue'
import type { StoredResult } from '~/db/database'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import type { CellWork } from '~/stores/pours/work'
import { useSources } from '~/stores/sources'
import { cellKey } from '~~/core/job/job'
import { needsRate } from '~~/core/job/outlet/plan'

export interface CellFace {
  cell: string
  sign: 'empty' | 'waiting' | 'filling' | 'full' | 'proven' | 'lossy' | 'broken' | 'impossible'
  level: number
  title: string
  detail: string
  /** More on it than there is room for. */
  hint?: string
  tone: 'soft' | 'copper' | 'verdigris' | 'ochre' | 'brick'
  result: StoredResult | null
  stale: boolean
  /** Nothing stands against its pour. */
  can: boolean
  problems: readonly string[]
  work: CellWork | null
  /** Nothing says how fast the source plays, and the outlet must know. */
  asksRate: boolean
  /** Something of it is not as the receiver asks. */
  demanded: boolean
}

const VERDICTS = {
  identical: { title: 'Identical', tone: 'verdigris', sign: 'proven' },
  faithful: { title: 'Faithful', tone: 'verdigris', sign: 'proven' },
  'visible-loss': { title: 'Visible loss', tone: 'ochre', sign: 'lossy' },
  broken: { title: 'Broken', tone: 'brick', sign: 'broken' }
} as const

export function useCell(sourceId: () => string, outletId: () => string): ComputedRef<CellFace> {
  const jobs = useJob()
  const pours = usePours()
  const sources = useSources()
  const receiver = useReceiver()
  return computed(() => {
    const cell = cellKey(sourceId(), outletId())
    const problems = pours.problemsOf(cell)
    const can = problems.length === 0
    const result = pours.latest.get(cell) ?? null
    const work = pours.work.get(cell) ?? null
    const stale = result !== null && pours.outOfDate(result)
    const source = jobs.job.sources[sourceId()]
    const outlet = jobs.job.outlets[outletId()]
    const asksRate = !can && !!source && !!outlet && needsRate(sources.factsOf(source), outlet)
    const demanded = can && receiver.demands(cell).open.length > 0
    const base = { cell, demanded, result, stale, can, problems, work, level: 0, asksRate }
    if (work?.state === 'waiting')
      return { ...base, sign: 'waiting', title: 'Waiting', detail: 'in line', tone: 'copper' }
    if (work?.state === 'pouring' || work?.state === 'proving') {
      const left = secondsLeft(work.done, work.total, work.started)
      const percent = Math.floor((work.done / work.total) * 100)
      return {
        ...base,
        sign: 'filling',
        level: work.state === 'pouring' ? work.done / work.total : 1,
        title: `${work.state === 'pouring' ? 'Pouring' : 'Proving'} ${percent} %`,
        detail: left === null ? 'begins' : `${sayTime(left)} left`,
        tone: 'copper'
      }
    }
    if (work?.state === 'failed')
      return { ...base, sign: 'broken', title: 'Failed', detail: work.sentence, tone: 'brick' }
    if (work?.state === 'unproven')
      return { ...base, sign: 'full', title: 'Not proven', detail: work.sentence, tone: 'ochre' }
    if (work?.state === 'elsewhere')
      return { ...base, sign: 'waiting', title: 'In another tab', detail: 'being poured there', tone: 'copper' }
    const run = pours.interrupted.find(each => each.cell === cell)
    if (run)
      return {
        ...base,
        sign: 'empty',
        title: 'Cut off',
        detail: run.total ? `after ${run.done} of ${run.total} frames` : 'while in line',
        tone: 'ochre'
      }
    const gone = result && pours.gone.get(result.id)
    if (gone) return { ...base, sign: 'broken', title: 'Its file is gone', detail: gone, tone: 'brick' }
    if (result && !stale) {
      const verdict = result.report && VERDICTS[result.report.verdict]
      if (verdict)
        return {
          ...base,
          sign: verdict.sign,
          title: verdict.title,
          detail: verdict.sign === 'broken' ? result.report!.sentence : sayBytes(result.bytes),
          tone: verdict.tone
        }
      return { ...base, sign: 'full', title: 'Not proven', detail: sayBytes(result.bytes), tone: 'copper' }
    }
    if (asksRate && problems.length === 1)
      return { ...base, sign: 'impossible', title: 'Give its rate', detail: 'films need one', tone: 'ochre' }
    if (problems.length)
      return { ...base, sign: 'impossible', title: 'Not possible', detail: problems[0]!, tone: 'soft' }
    const estimate = pours.estimateOf(cell)
    const about =
      estimate === undefined
        ? sources.looking.has(sourceId())
          ? 'size to come'
          : ''
        : `about ${sayBytes(estimate.bytes)}`
    const hint = estimate && `${sayBytes(estimate.least)} to ${sayBytes(estimate.most)}, nine times of ten`
    const told = { ...base, detail: about, ...(hint ? { hint } : {}) }
    return stale
      ? { ...told, sign: 'empty', title: 'Out of date', tone: 'ochre' }
      : { ...told, sign: 'empty', title: 'Not poured', tone: 'soft' }
  })
}
