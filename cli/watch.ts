/**
 * `watch FOLDER --job JOB --to DIR`: what comes into a folder is poured through a job's outlets, proven, and put aside
 * with its report.
 */
import { mkdir, readdir, rename, stat, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { impossible, sentenceOf, unreadable, wrongCall } from '../core/errors'
import { BETWEEN_LOOKS, DONE, FAILED, isArrival, reportText, sayArrival } from '../core/delivery/arrivals'
import { freeName } from '../core/outlet/names'
import type { Outlet } from '../core/outlet/outlet'
import { exists } from '../platform/node/disk'
import { parseRate, type Rate } from '../core/rate'
import { bringIn, tellFindings, withMode, type Brought } from './bring-in'
import { delivered, placeIn, runsHere } from './convert'
import { needed, text, type Call, type Options } from './call'
import { EXIT, exitFor } from './exit'
import { jobAt } from './run'

/** All that tells whether something is still arriving: names, sizes and times of it and of all within. */
async function stateOf(place: string): Promise<string> {
  const found = await stat(place)
  if (!found.isDirectory()) return `${found.size} ${found.mtimeMs}`
  const within = await readdir(place, { recursive: true })
  const each = await Promise.all(
    within.sort().map(async name => {
      const { size, mtimeMs } = await stat(path.join(place, name))
      return `${name} ${size} ${mtimeMs}`
    })
  )
  return each.join('\n')
}

const waits = (ms: number, signal: AbortSignal): Promise<void> =>
  new Promise((resolve, reject) => {
    const stop = (): void => {
      clearTimeout(timer)
      reject(signal.reason instanceof Error ? signal.reason : new Error('stopped'))
    }
    const timer = setTimeout(() => {
      signal.removeEventListener('abort', stop)
      resolve()
    }, ms)
    signal.addEventListener('abort', stop, { once: true })
  })

/** What is in the folder to be poured, oldest name first: neither hidden files nor what was put aside. */
async function arrivals(folder: string): Promise<string[]> {
  const names = await readdir(folder).catch((error: unknown) => {
    throw unreadable(
      folder,
      null,
      `the folder cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)})`
    )
  })
  return names.filter(isArrival).sort()
}

interface Watching {
  folder: string
  to: string
  outlets: readonly Outlet[]
  /** What pictures play at that say nothing of it themselves. */
  rate: Rate | null
  call: Call
}

/** The source with a rate, where neither its file nor its name nor a note says one. */
function rated(brought: Brought, rate: Rate | null): Brought {
  if (!rate || brought.facts.rate) return brought
  const interpretation = { ...brought.spec.interpretation, rate, rateFrom: 'asked' as const }
  return { spec: { ...brought.spec, interpretation }, facts: { ...brought.facts, rate, rateFrom: 'asked' } }
}

/** Pours one arrival through all outlets, and puts it aside with its report. Whether all of it was done. */
async function pourArrival(name: string, { folder, to, outlets, rate, call }: Watching): Promise<boolean> {
  const reports: object[] = []
  const remarks: string[] = []
  const faults: string[] = []
  let worst: number = EXIT.done
  const failed = (what: string, error: unknown): void => {
    if (call.signal.aborted) throw error
    faults.push(`${what}: ${sentenceOf(error)}`)
    worst = Math.max(worst, exitFor(error))
  }
  const quiet: Call = { ...call, remark: text => void remarks.push(text) }
  try {
    for (const each of await bringIn(path.join(folder, name), quiet)) {
      tellFindings(each, quiet)
      const brought = await withMode(rated(each, rate), null, quiet)
      for (const outlet of outlets)
        try {
          runsHere(outlet)
          const { data, heavy, ends } = await delivered(
            { spec: brought.spec, facts: brought.facts, origin: brought.origin, marks: null, outlet },
            plan => placeIn(to, plan),
            quiet
          )
          reports.push({ source: brought.facts.name, outlet: outlet.name, ...data })
          faults.push(...heavy)
          worst = Math.max(worst, ends)
        } catch (error) {
          failed(`${brought.facts.name} through ${outlet.name}`, error)
        }
    }
  } catch (error) {
    failed(name, error)
  }
  const aside = path.join(folder, worst === EXIT.done ? DONE : FAILED)
  await mkdir(aside, { recursive: true })
  const taken = new Set(await readdir(aside))
  const free = freeName(name, each => taken.has(each))
  await rename(path.join(folder, name), path.join(aside, free))
  const report = { arrival: name, deliveries: reports, remarks, faults }
  await writeFile(path.join(aside, `${free}.report.json`), reportText(report))
  const done = worst === EXIT.done
  call.print(`${name}: ${sayArrival(report, done)}`)
  return done
}

export async function watch(folder: string, options: Options, call: Call): Promise<number> {
  const to = path.resolve(needed(options, 'to'))
  const within = path.relative(path.resolve(folder), to)
  if (within === '' || (!within.startsWith('..') && !path.isAbsolute(within)))
    throw wrongCall('--to lies within the watched folder; what is poured would be poured again')
  const { job } = await jobAt(needed(options, 'job'), call)
  const receiver = job.receiver && { demands: job.receiver, waived: [] }
  const outlets = job.outletOrder.flatMap(id => job.outlets[id] ?? [])
  if (outlets.length === 0) throw impossible('the job has no outlets to pour through')
  if (!(await exists(to))) await mkdir(to, { recursive: true })
  const said = text(options, 'rate')
  const rate = said === undefined ? null : parseRate(said)
  if (said !== undefined && !rate)
    throw wrongCall(`--rate takes frames per second as N, N/D or a decimal, not "${said}"`)
  const watching = { folder, to, outlets, rate, call: { ...call, receiver } }
  let seen = new Map<string, string>()
  let all = true
  // what cannot be moved aside is not poured again and again
  const stuck = new Set<string>()
  for (;;) {
    const now = new Map<string, string>()
    for (const name of await arrivals(folder)) {
      if (stuck.has(name)) continue
      const state = await stateOf(path.join(folder, name)).catch(() => null)
      if (state === null) continue
      if (options.once || seen.get(name) === state) {
        try {
          if (!(await pourArrival(name, watching))) all = false
        } catch (error) {
          if (call.signal.aborted) throw error
          call.remark(`${name}: it cannot be put aside, and is left where it is (${sentenceOf(error)})`)
          stuck.add(name)
          all = false
        }
      } else now.set(name, state)
    }
    if (options.once) return all ? EXIT.done : EXIT.unreadable
    seen = now
    await waits(BETWEEN_LOOKS, call.signal)
  }
}
