/** Opening a stored job whatever has become of it: what can be opened is, what cannot is set aside and told. */
import { z } from 'zod'
import { FORMAT_IDS } from '../open/registry'
import { formatById } from '../open/registry'
import { newOutlet, Outlet } from './outlet/outlet'
import { FIELD_LABELS, settingsInOrder } from './outlet/settings'
import { Preparation, Step } from '../prepare/preparation'
import { sayIssue } from '../base/say-issue'
import { heldAspect } from '../source/held-facts'
import { AS_FOUND, Finding, Interpretation } from '../source/source'
import { emptyJob, Job, JobSource } from './job'
import { Marks } from './marks'

/** Something stored that could not be opened as it was. */
export interface SetAside {
  /** What it is, in words: "outlet Web page", "a step of moth". */
  what: string
  why: string
  /** As it was stored. */
  value: unknown
}

export interface Opened {
  job: Job
  aside: SetAside[]
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

const nameIn = (value: unknown): string =>
  isRecord(value) && typeof value.name === 'string' ? value.name.slice(0, 80) : ''

function why(schema: z.ZodType, value: unknown): string {
  const read = schema.safeParse(value)
  return read.success ? '' : sayIssue(read.error.issues[0]!, FIELD_LABELS)
}

/** The members of a list that can be read; the others are handed to `refused`. */
function whole<T>(schema: z.ZodType<T>, list: unknown, refused?: (value: unknown, why: string) => void): T[] {
  if (!Array.isArray(list)) return []
  return list.flatMap((value: unknown) => {
    const read = schema.safeParse(value)
    if (read.success) return [read.data]
    refused?.(value, sayIssue(read.error.issues[0]!, FIELD_LABELS))
    return []
  })
}

/**
 * `value` with each member that `shape` does not take replaced by what `otherwise` has; null where that does not help.
 */
function mended<T>(schema: z.ZodType<T>, value: Record<string, unknown>, otherwise: Record<string, unknown>): T | null {
  const read = schema.safeParse(value)
  if (read.success) return read.data
  const next = { ...value }
  for (const issue of read.error.issues) {
    const [key] = issue.path
    if (typeof key !== 'string' || !(key in otherwise)) return null
    next[key] = otherwise[key]
  }
  const again = schema.safeParse(next)
  return again.success ? again.data : null
}

function openOutlet(id: string, stored: unknown, aside: SetAside[]): Outlet | null {
  const exact = Outlet.safeParse(stored)
  if (exact.success) return exact.data
  const name = nameIn(stored)
  const told = (): void =>
    void aside.push({ what: `outlet ${name || 'without a name'}`, why: why(Outlet, stored), value: stored })
  told()
  if (!isRecord(stored)) return null
  const format = FORMAT_IDS.find(known => known === stored.format)
  if (!format) return null
  const fresh = newOutlet(id, formatById(format))
  // words that are too long are kept as far as they may go
  const shorter = Object.fromEntries(
    settingsInOrder.flatMap(([key, { schema }]) => {
      const [value, most] = [stored[key], schema instanceof z.ZodString ? schema.maxLength : null]
      return typeof value === 'string' && value && most ? [[key, value.slice(0, most)]] : []
    })
  )
  return mended(Outlet, stored, { ...fresh, ...shorter, id })
}

function openSteps(stored: Record<string, unknown>, name: string, aside: SetAside[]): Step[] {
  return whole(Step, stored.steps, (value, because) =>
    aside.push({ what: `a step of ${name || 'a source'}`, why: because, value })
  )
}

function openSource(id: string, stored: unknown, aside: SetAside[]): JobSource | null {
  const exact = JobSource.safeParse(stored)
  if (exact.success) return exact.data
  const name = nameIn(stored)
  const before = aside.length
  if (isRecord(stored)) {
    const facts = isRecord(stored.facts)
      ? {
          ...stored.facts,
          pixelAspect: heldAspect(stored.facts.pixelAspect),
          findings: whole(Finding, stored.facts.findings)
        }
      : stored.facts
    const interpretation = isRecord(stored.interpretation)
      ? (mended(Interpretation, stored.interpretation, { ...AS_FOUND, pixelAspect: null, colour: null }) ?? AS_FOUND)
      : AS_FOUND
    const next = {
      ...stored,
      id,
      name: name || 'source',
      facts,
      interpretation,
      findings: whole(Finding, stored.findings),
      steps: openSteps(stored, name, aside),
      marks: Marks.nullable().safeParse(stored.marks).data ?? null
    }
    const opened = mended(JobSource, next, { marks: null, steps: [], span: undefined })
    if (opened) {
      // its steps were told one by one; anything else is told as the source
      if (aside.length === before)
        aside.push({ what: `part of source ${name || id}`, why: why(JobSource, stored), value: stored })
      return opened
    }
    const withoutRate = JobSource.safeParse({
      ...next,
      facts: isRecord(facts) ? { ...facts, rate: null, rateFrom: 'unknown' } : facts
    })
    if (withoutRate.success) {
      aside.push({ what: `the rate of source ${name || id}`, why: why(JobSource, stored), value: stored })
      return withoutRate.data
    }
  }
  aside.push({ what: `source ${name || id}`, why: why(JobSource, stored), value: stored })
  return null
}

/** Ids in an order, each once, all that are known and nothing else. */
function orderOf(list: unknown, known: Record<string, unknown>): string[] {
  const named = Array.isArray(list)
    ? list.filter((key): key is string => typeof key === 'string' && Object.hasOwn(known, key))
    : []
  return [...new Set([...named, ...Object.keys(known)])]
}

/** A job whose orders name what there is, and whose sources and outlets know their own ids. What is mended is told. */
function ordered(job: Job, aside: SetAside[]): Job {
  const owned = <T extends { id: string }>(record: Record<string, T>): Record<string, T> =>
    Object.fromEntries(Object.entries(record).map(([id, each]) => [id, each.id === id ? each : { ...each, id }]))
  const next = {
    ...job,
    sources: owned(job.sources),
    outlets: owned(job.outlets),
    sourceOrder: orderOf(job.sourceOrder, job.sources),
    outletOrder: orderOf(job.outletOrder, job.outlets)
  }
  for (const [what, list, known] of [
    ['sources', job.sourceOrder, job.sources],
    ['outlets', job.outletOrder, job.outlets]
  ] as const) {
    const lost = list.filter(id => !Object.hasOwn(known, id))
    if (lost.length)
      aside.push({ what: `an order of ${what}`, why: `it names ${lost.length} that are not in the job`, value: lost })
  }
  return next
}

/**
 * The job that `stored` holds, under the id `id`. Never throws: what does not fit is left out or set to what a new one
 * has, and listed with its reason and its value as it was stored.
 */
export function openJob(stored: unknown, id: string, untitled: string): Opened {
  const exact = Job.safeParse(stored)
  const aside: SetAside[] = []
  if (exact.success) return { job: ordered(exact.data, aside), aside }
  const job = emptyJob(id, nameIn(stored) || untitled)
  if (!isRecord(stored)) return { job, aside: [{ what: 'the whole job', why: why(Job, stored), value: stored }] }
  for (const [key, value] of Object.entries(isRecord(stored.sources) ? stored.sources : {})) {
    const source = openSource(key, value, aside)
    if (source) job.sources[key] = source
  }
  for (const [key, value] of Object.entries(isRecord(stored.outlets) ? stored.outlets : {})) {
    const outlet = openOutlet(key, value, aside)
    if (outlet) job.outlets[key] = outlet
  }
  job.sourceOrder = orderOf(stored.sourceOrder, job.sources)
  job.outletOrder = orderOf(stored.outletOrder, job.outlets)
  job.preparations = whole(Preparation, stored.preparations, (value, because) =>
    aside.push({ what: `the kept preparation ${nameIn(value) || 'without a name'}`, why: because, value })
  )
  if (aside.length === 0) aside.push({ what: 'part of the job', why: why(Job, stored), value: stored })
  return { job, aside }
}
