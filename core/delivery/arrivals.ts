/** A watched folder: what has arrived whole, what is left alone, and the report that is put beside what was poured. */

/** Where arrivals are put once they are poured, or could not be; and, in the page, what was poured of them. */
export const DONE = 'done'
export const FAILED = 'failed'
export const POURED = 'poured'

/** Between two looks at the folder, in milliseconds. What is the same at both has arrived whole. */
export const BETWEEN_LOOKS = 1000

/** Whether an entry of the folder is one to be poured: neither hidden nor what was put aside. */
export const isArrival = (name: string): boolean => !name.startsWith('.') && ![DONE, FAILED, POURED].includes(name)

/**
 * Of what was seen at two looks, each name with all that tells whether it still grows, the names that have arrived: the
 * same at both.
 */
export const arrived = (before: ReadonlyMap<string, string>, now: ReadonlyMap<string, string>): string[] =>
  [...now].filter(([name, state]) => before.get(name) === state).map(([name]) => name)

export interface WatchReport {
  arrival: string
  /** Of each delivery what was found. */
  deliveries: readonly object[]
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
