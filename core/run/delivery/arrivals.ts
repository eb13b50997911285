/** A watched folder: what has arrived whole, what is left alone, and the report that is put beside what was poured. */
import { withoutRate } from '../intake/rate-hints'

/** Where arrivals are put once they are poured, or could not be; and, in the page, what was poured of them. */
export const DONE = 'done'
export const FAILED = 'failed'
export const POURED = 'poured'

/** Whether an entry of the folder is one to be poured: neither hidden nor what was put aside. */
export const isArrival = (name: string): boolean => !name.startsWith('.') && ![DONE, FAILED, POURED].includes(name)

/** Names that programs give to what they still write. */
export const isUnfinished = (name: string): boolean =>
  /(\.(part|partial|filepart|crdownload|tmp|temp|writing|incomplete)|~)$/i.test(name) || /^(~|\.#)/.test(name)

export interface WatchReport {
  arrival: string
  /** Of each delivery what was found. */
  deliveries: readonly Record<string, unknown>[]
  remarks: readonly string[]
  faults: readonly string[]
}

/** The text of the report that lies beside an arrival once it was put aside. */
export const reportText = (report: WatchReport): string =>
  `${JSON.stringify({ pour: 'watch-report', version: 1, ...report }, null, 2)}\n`

/** "2 deliveries, done.", or why not. */
export const sayArrival = ({ deliveries, faults }: WatchReport, done: boolean): string =>
  [
    `${deliveries.length} ${deliveries.length === 1 ? 'delivery' : 'deliveries'}`,
    done ? 'done.' : `failed (${faults[0] ?? 'a proof is broken'}).`
  ].join(', ')

/**
 * What a source is called that came of an arrival: a folder or an archive gives its own name, whatever its pictures are
 * called, and where several sources came of it each keeps its own behind that. `within` tells that the source's files
 * lie in the arrival, rather than being it.
 */
export function nameOfArrival(
  arrival: string,
  own: string,
  { within, alone }: { within: boolean; alone: boolean }
): string {
  if (!within) return own
  const base = withoutRate(arrival.replace(/\.zip$/i, ''))
  return alone || own === base ? base : `${base} ${own}`
}
