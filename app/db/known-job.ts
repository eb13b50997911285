/** What is known of the job beside the database, so that a store that was cleared is not taken for a first visit. */
import type { Job } from '~~/core/job/job'

const KEY = 'pour-job'

export interface KnownJob {
  name: string
  sources: number
}

/** What this browser knew of the job when it was last written; null where it had no sources, or nothing is known. */
export function knownJob(): KnownJob | null {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? 'null') as KnownJob | null
    return kept && typeof kept.name === 'string' && kept.sources > 0 ? kept : null
  } catch {
    return null
  }
}

/** Notes the job's name and how many sources it has. */
export function noteJob({ name, sourceOrder }: Job): void {
  try {
    localStorage.setItem(KEY, JSON.stringify({ name, sources: sourceOrder.length }))
  } catch {
    // without this note a cleared store looks like a first visit; nothing else hangs on it
  }
}
