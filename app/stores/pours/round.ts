/** The present round of pours: how much of it is done, and how long it goes on. */
import { reactive, type Ref } from 'vue'
import { splitCell } from '~~/core/job/job'
import { formatById } from '~~/core/open/registry'
import { workDone, workloadOf, secondsToEnd, wholeWork, type Workload } from '~~/core/run/delivery/remaining'
import type { useJob } from '../job'
import type { useSources } from '../sources'
import { carriageById } from '~~/core/media/carriage/carriages'
import type { CellWork } from './work'

const NO_EFFORT: Workload = { pixels: 0, proving: 0 }

interface Around {
  jobs: ReturnType<typeof useJob>
  sources: ReturnType<typeof useSources>
  work: ReadonlyMap<string, CellWork>
  /** The cell in hand. */
  current: Ref<string | null>
}

/** Counts cells and their work in and out. */
export function useRound({ jobs, sources, work, current }: Around) {
  /**
   * Of the present round: cells asked for and cells ended; work of all and of the ended; when the clock was started,
   * and what had been done then.
   */
  const round = reactive({ total: 0, ended: 0, effort: 0, done: 0, since: 0, before: 0 })
  const efforts = new Map<string, Workload>()

  /** What a cell comes to in work, without its plan, which names every picture. */
  function effortOfCell(cell: string): Workload {
    const { sourceId, outletId } = splitCell(cell)
    const [source, outlet] = [jobs.job.sources[sourceId], jobs.job.outlets[outletId]]
    const readBack = !!outlet && formatById(outlet.format).readBack !== undefined && !carriageById(outlet.parts).apart
    const clip = source ? sources.factsOf(source) : { frames: 0, width: 0, height: 0 }
    return workloadOf(clip, readBack)
  }

  /** Seconds until the round ends as it goes; null where nothing can be said. */
  function roundLeft(now: number): number | null {
    const cell = current.value
    const [of, effort] = [cell && work.get(cell), cell && efforts.get(cell)]
    const inHand = of && effort && 'done' in of ? workDone(effort, of.state, of.total ? of.done / of.total : 0) : 0
    const { effort: all, done, before, since } = round
    return secondsToEnd({ effort: all, done: done + inHand, before, seconds: (now - since) / 1000 })
  }

  /** Cells that came into line. */
  function enter(cells: readonly string[]): void {
    round.total += cells.length
    for (const cell of cells) {
      efforts.set(cell, effortOfCell(cell))
      round.effort += wholeWork(efforts.get(cell)!)
    }
  }

  /** A cell that came to its end. */
  function end(cell: string): void {
    round.ended++
    round.done += wholeWork(efforts.get(cell) ?? NO_EFFORT)
    efforts.delete(cell)
  }

  /** A cell that left the line before its turn. */
  function leave(cell: string): void {
    round.total--
    round.effort -= wholeWork(efforts.get(cell) ?? NO_EFFORT)
    efforts.delete(cell)
  }

  /** The clock starts with the first cell in hand. */
  const begin = (): void => void Object.assign(round, { since: performance.now(), before: round.done })
  const clear = (): void => void Object.assign(round, { total: 0, ended: 0, effort: 0, done: 0 })

  return { round, roundLeft, enter, end, leave, begin, clear }
}
