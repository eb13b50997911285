/** Why an edit of a job cannot be kept: the one door at which a job is held to its schema before it is stored. */
import type { z } from 'zod'
import { Outlet } from './outlet/outlet'
import { FIELD_LABELS } from './outlet/settings'
import { Preparation } from '../prepare/preparation'
import { deepest, sayIssue } from '../base/say-issue'
import { Job, JobSource } from './job'

export interface Refusal {
  /** Where in the job, as in its document: `outlets`, an id, `digits`. */
  path: readonly (string | number)[]
  sentence: string
}

const keyed = (path: readonly PropertyKey[]): (string | number)[] =>
  path.map(part => (typeof part === 'number' ? part : String(part)))

/**
 * What stands against keeping `next`, or null. Only what the edit touched is looked at, by the paths of its patches, so
 * that an edit of a large job costs what the edit costs.
 */
export function refusalOf(
  next: Job,
  touched: readonly { readonly path: readonly (string | number)[] }[]
): Refusal | null {
  const looked = new Set<string>()
  for (const { path } of touched) {
    const [field, id] = path
    const key = `${String(field)} ${String(id)}`
    if (looked.has(key)) continue
    looked.add(key)
    const refused = refusedAt(next, field, id)
    if (refused) return refused
  }
  return null
}

function refusedAt(next: Job, field: string | number | undefined, id: string | number | undefined): Refusal | null {
  const of = <T>(schema: z.ZodType<T>, value: unknown, at: (string | number)[]): Refusal | null => {
    const read = schema.safeParse(value)
    const issue = read.success ? null : read.error.issues[0]!
    return issue ? { path: [...at, ...keyed(deepest(issue).path)], sentence: sayIssue(issue, FIELD_LABELS) } : null
  }
  if ((field === 'sources' || field === 'outlets') && id !== undefined) {
    const value = next[field][id]
    // what an edit removes needs no check
    if (value === undefined) return null
    return field === 'sources' ? of(JobSource, value, [field, id]) : of(Outlet, value, [field, id])
  }
  if (field === 'preparations' && typeof id === 'number')
    return next.preparations[id] ? of(Preparation, next.preparations[id], [field, id]) : null
  return of(Job, next, [])
}
