/**
 * `watch FOLDER --job JOB --to DIR`: what comes into a folder is poured through a job's outlets, proven, and put aside
 * with its report.
 */
import { readdir, realpath } from 'node:fs/promises'
import path from 'node:path'
import { DONE, FAILED, sayArrival, nameOfArrival } from '../core/run/delivery/arrivals'
import { SETTLE, watchFolder, type ArrivalOutcome, type OutputNames } from '../core/run/delivery/watch'
import { impossible, isAbort, PourError, sentenceOf, wrongCall } from '../core/base/errors'
import { isAllRead, takeInBy } from '../core/run/intake/intake'
import { lookingThrough } from '../core/run/intake/through-pool'
import type { Outlet } from '../core/job/outlet/outlet'
import { parseRate, type Rate } from '../core/base/rate'
import { filesAt } from '../platform/node/disk'
import { asOnDisk } from '../platform/node/resolved'
import { wallClock } from '../platform/clock'
import { aloneIn, madeFolder, watchedFolder } from '../platform/node/watched'
import { bringIn, decided, tellFindings, type Brought } from './bring-in'
import { takingOf } from './taking'
import { delivered, placeIn, runsHere } from './convert'
import { needed, text, type Call, type Options } from './call'
import { EXIT, exitFor } from './exit'
import { jobAt } from './run'

interface Delivering {
  folder: string
  to: string
  outlets: readonly Outlet[]
  /** What pictures play at that say nothing of it themselves. */
  rate: Rate | null
  options: Options
  call: Call
}

/** The source with a rate, where neither its file nor its name nor a note says one. */
function rated(brought: Brought, rate: Rate | null): Brought {
  if (!rate || brought.facts.rate) return brought
  const interpretation = { ...brought.spec.interpretation, rate, rateFrom: 'asked' as const }
  return { spec: { ...brought.spec, interpretation }, facts: { ...brought.facts, rate, rateFrom: 'asked' } }
}

/** Pours one arrival through all outlets, each to a place of its own. */
async function pourArrival(name: string, names: OutputNames, given: Delivering): Promise<ArrivalOutcome> {
  const { folder, to, outlets, rate, options, call } = given
  const told = { deliveries: [] as Record<string, unknown>[], remarks: [] as string[], faults: [] as string[] }
  let ended: number = EXIT.done
  const failed = (what: string, error: unknown): void => {
    if (call.signal.aborted || isAbort(error)) throw error
    // a full disk is no fault of what arrived
    if (error instanceof PourError && error.kind === 'no-room') throw error
    told.faults.push(`${what}: ${sentenceOf(error)}`)
    ended = Math.max(ended, exitFor(error))
  }
  const quiet: Call = { ...call, remark: text => void told.remarks.push(text) }
  try {
    const arrived = await bringIn(path.join(folder, name), quiet)
    for (const found of arrived) {
      const within = found.spec.files[0]!.path !== name
      const called = nameOfArrival(name, found.facts.name, { within, alone: arrived.length === 1 })
      const named = { ...found, spec: { ...found.spec, name: called }, facts: { ...found.facts, name: called } }
      const each = await decided(named, options, quiet)
      tellFindings(each, quiet)
      const taking = await takingOf(rated(each, rate), null, quiet)
      const { name: sourceName } = taking.brought.facts
      for (const outlet of outlets)
        try {
          runsHere(outlet)
          // nothing but its own former delivery stands at a name of its own
          const own: Outlet = { ...outlet, existing: 'replace' }
          const { data, heavy, ends } = await delivered(
            { taking, under: brought => brought, marks: null, outlet: own },
            async plan => {
              const wanted = placeIn(to, plan)
              return path.join(path.dirname(wanted), await names.own(path.basename(wanted)))
            },
            quiet
          )
          // what is heavier than its receiver takes is not left there
          if (heavy.length) told.faults.push(...heavy)
          else told.deliveries.push({ source: sourceName, outlet: outlet.name, ...data })
          ended = Math.max(ended, ends)
        } catch (error) {
          failed(`${sourceName} through ${outlet.name}`, error)
        }
    }
  } catch (error) {
    failed(name, error)
  }
  return { ...told, ended }
}

/** Whether all of an arrival can be opened; what cannot may still be on its way. */
async function isWhole(place: string, call: Call): Promise<boolean> {
  try {
    const files = await filesAt(place)
    const looking = lookingThrough(call.pool, call.signal, call.deadline)
    return isAllRead(await takeInBy(looking, files, undefined, call.signal))
  } catch (error) {
    if (isAbort(error)) throw error
    return false
  }
}

/** Refuses places where what is poured, or put aside, would come in again. */
async function refuseInside(folder: string, to: string): Promise<void> {
  const lies = (inner: string, outer: string): boolean => {
    const way = path.relative(outer, inner)
    return way === '' || (way !== '..' && !way.startsWith(`..${path.sep}`) && !path.isAbsolute(way))
  }
  if (lies(to, folder)) throw wrongCall('--to lies within the watched folder; what is poured would be poured again')
  for (const name of [DONE, FAILED]) {
    const real = await realpath(path.join(folder, name)).catch(() => null)
    if (real !== null && real !== path.join(folder, name) && lies(real, folder))
      throw wrongCall(`${name} leads back into the watched folder (${real}); what is put aside would come in again`)
  }
}

/** Seconds as milliseconds. */
function settleOf(options: Options): number {
  const said = text(options, 'settle')
  if (said === undefined) return SETTLE
  const seconds = Number(said)
  if (said.trim() === '' || !(seconds >= 0 && seconds <= 86_400))
    throw wrongCall(`--settle takes seconds from 0 to 86400, not "${said}"`)
  return 1000 * seconds
}

export async function watch(given: string, options: Options, call: Call): Promise<number> {
  const folder = await asOnDisk(given)
  const to = await asOnDisk(needed(options, 'to'))
  await refuseInside(folder, to)
  const settle = settleOf(options)
  const marker = text(options, 'marker') ?? null
  if (marker !== null && !/^\.[\w.-]+$/.test(marker))
    throw wrongCall(`--marker takes an ending such as .ready, not "${marker}"`)
  const said = text(options, 'rate')
  const rate = said === undefined ? null : parseRate(said)
  if (said !== undefined && !rate)
    throw wrongCall(`--rate takes frames per second as N, N/D or a decimal, not "${said}"`)
  const { job } = await jobAt(needed(options, 'job'), call)
  const receiver = job.receiver && { demands: job.receiver, waived: [] }
  const outlets = job.outletOrder.flatMap(id => job.outlets[id] ?? [])
  if (outlets.length === 0) throw impossible('the job has no outlets to pour through')
  const place = watchedFolder(folder)
  await place.look()
  await madeFolder(to)
  const delivering: Delivering = { folder, to, outlets, rate, options, call: { ...call, receiver } }
  return aloneIn(folder, () =>
    watchFolder({
      ...{ place, clock: wallClock, signal: call.signal, settle, marker },
      once: options.once === true,
      replaces: options.replace === true,
      isWhole: name => isWhole(path.join(folder, name), call),
      deliver: (name, names) => pourArrival(name, names, delivering),
      outputs: () => readdir(to),
      told: (name, state, sentence) => {
        if (state === 'failed' || state === 'waiting') call.remark(`${name}: ${sentence}`)
      },
      onReport: (report, done) => call.print(`${report.arrival}: ${sayArrival(report, done)}`)
    })
  )
}
