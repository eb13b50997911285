/** `run JOB --to DIR`: pours every cell of a saved job, and proves each. */
import path from 'node:path'
import { stat } from 'node:fs/promises'
import { sentenceOf, unreadable, wrongCall } from '../core/base/errors'
import { mediaCheck, readJobFile, type OpenedJobFile } from '../core/run/job-file'
import { cellKey, type JobSource } from '../core/job/job'
import { filesSpecOf, heldScene, othersIn, shownOf } from '../core/job/resolve'
import { Names } from '../core/job/outlet/names'
import type { Outlet } from '../core/job/outlet/outlet'
import { preparationProblems, preparedFacts } from '../core/prepare/preparation'
import { takeInBy } from '../core/run/intake/intake'
import { lookingThrough } from '../core/run/intake/through-pool'
import { interpretedFacts } from '../core/open/interpret'
import { preparedSpec, type FilesSpec, type SourceSpec } from '../core/source/source'
import { identityAt } from '../platform/node/disk'
import { placeAsked } from '../platform/node/resolved'
import { decided, tellFindings, wholeSpec, type Brought } from './bring-in'
import { takingOf, type Taking } from './taking'
import type { Prepared } from './prepare'
import { deliver, placeIn, runsHere, waivedBy } from './convert'
import { needed, text, type Call, type Options } from './call'
import { EXIT, exitFor } from './exit'

/** What was asked, and by whom. */
interface Asked {
  options: Options
  call: Call
  /** Rejects where media are not those that the job was kept with. */
  verify: ReturnType<typeof mediaCheck>
}

/** The source's files as workers open them; null where the job's file does not hold them. */
function specOf(source: JobSource, { media }: OpenedJobFile): FilesSpec | null {
  const held = heldScene(source) ?? media.get(source.id)
  return held ? filesSpecOf(source, held) : null
}

/** The sources that a scene of the job shows, as they are prepared. Those without files are left out. */
async function showsOf(
  { id, scene }: JobSource,
  opened: OpenedJobFile,
  asked: Asked
): Promise<Record<string, SourceSpec>> {
  const shows: Record<string, SourceSpec> = {}
  for (const [name, other] of scene ? shownOf(opened.job.sources, scene, id) : []) {
    if (!specOf(other, opened)) continue
    const { taking, under } = await sourceOf(other, opened, asked)
    await taking.settle()
    shows[name] = under(taking.brought).spec
  }
  return shows
}

/**
 * A job's outlet as it is used here: what stands at its place is replaced only where that is asked. In the page a
 * delivery takes the place of its own former one; on a disk nobody knows whose it is.
 */
function asAsked(outlet: Outlet, options: Options): Outlet {
  if (options.replace === true) return { ...outlet, existing: 'replace' }
  return outlet.existing === 'replace' ? { ...outlet, existing: 'stop' } : outlet
}

/** Outlets of the job by name, or all of them. */
function outletsOf({ job }: OpenedJobFile, names: string | undefined): Outlet[] {
  const all = job.outletOrder.flatMap(id => job.outlets[id] ?? [])
  if (names === undefined) return all
  return names.split(',').map(name => {
    const found = all.find(outlet => outlet.name === name.trim())
    if (!found)
      throw wrongCall(`no outlet of the job is called "${name.trim()}"; there are ${all.map(o => o.name).join(', ')}`)
    return found
  })
}

/** The job in a file, with remarks on what of it is left out. */
export async function jobAt(location: string, call: Call): Promise<OpenedJobFile> {
  const { size } = await stat(location).catch((error: unknown) => {
    throw unreadable(location, null, `it cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)})`)
  })
  const is = await identityAt(location)
  const file = { kind: 'disk', path: path.basename(location), size, location: path.resolve(location), is } as const
  const opened = await readJobFile(file, call.host, 'run')
  for (const { what, why } of opened.aside) call.remark(`${what} is left out: ${why}`)
  return opened
}

export async function runJob(location: string, options: Options, call: Call): Promise<number> {
  const to = await placeAsked(needed(options, 'to'))
  const opened = await jobAt(location, call)
  const asked = waivedBy(options)
  if (asked.length && !opened.job.receiver) throw wrongCall('--waive: the job has no receiver, who demands nothing')
  const outlets = outletsOf(opened, text(options, 'outlets')).map(outlet => asAsked(outlet, options))
  const verify = mediaCheck(call.host, call.signal)
  let worst: number = opened.aside.length ? EXIT.unreadable : EXIT.done
  const names = new Names()
  const free = (wanted: string): string => names.free(wanted)
  let poured = 0
  const failed = (what: string, error: unknown): void => {
    // one cell that cannot be poured does not hold up the others
    if (call.signal.aborted) throw error
    call.remark(`${what}: ${sentenceOf(error)}`)
    worst = Math.max(worst, exitFor(error))
  }
  for (const id of opened.job.sourceOrder) {
    const source = opened.job.sources[id]!
    try {
      const { taking, under } = await sourceOf(source, opened, { options, call, verify })
      for (const outlet of outlets) {
        const cell = `${source.name} through ${outlet.name}`
        try {
          runsHere(outlet)
          const waived = [...(opened.job.waived[cellKey(source.id, outlet.id)] ?? []), ...asked]
          const ended = await deliver(
            {
              taking,
              under,
              outlet,
              marks: source.marks,
              ...(source.span ? { span: source.span } : {})
            },
            plan => placeIn(to, plan, free),
            { ...call, receiver: opened.job.receiver && { demands: opened.job.receiver, waived } },
            { source: source.name, outlet: outlet.name }
          )
          poured++
          worst = Math.max(worst, ended)
        } catch (error) {
          failed(cell, error)
        }
      }
    } catch (error) {
      failed(source.name, error)
    }
  }
  call.remark(`${poured} of ${opened.job.sourceOrder.length * outlets.length} cells poured into ${to}.`)
  return worst
}

/**
 * A source as its files are found to be now: what the job noted of them is a hint, and what they hold is poured. What
 * was decided about the source stays. Says where the two differ.
 */
async function measured(
  source: JobSource,
  held: FilesSpec,
  call: Call
): Promise<{ spec: FilesSpec; facts: Brought['facts'] }> {
  const looking = lookingThrough(call.pool, call.signal, call.deadline)
  let spec = held
  if (held.numbers) {
    // depth and alpha that all pictures are brought to, from the pictures
    const { found } = await takeInBy(looking, held.files, undefined, call.signal)
    const same = found.find(each => each.spec.format === held.format && each.spec.files.length === held.files.length)
    if (!same) throw unreadable(source.name, null, 'its pictures in the job are not one sequence any more')
    spec = { ...held, common: same.spec.common ?? null }
  }
  const facts = await looking.describe(spec)
  const noted = interpretedFacts(source.facts, spec)
  for (const [what, said, is] of [
    ['frames', noted.frames, facts.frames],
    ['size', `${noted.width}x${noted.height}`, `${facts.width}x${facts.height}`],
    ['bits', noted.bitDepth, facts.bitDepth]
  ] as const)
    if (said !== is)
      call.remark(`${source.name}: the job notes ${what} ${said}, its files hold ${is}, which is poured.`)
  return { spec, facts }
}

async function sourceOf(
  source: JobSource,
  opened: OpenedJobFile,
  asked: Asked
): Promise<{ taking: Taking; under: (brought: Brought) => Prepared }> {
  const { options, call, verify } = asked
  const held = specOf(source, opened)
  if (!held)
    throw unreadable(source.name, null, 'its files are not in the job; save the job with its media, and run that')
  await verify(held.files)
  const { spec, facts } = await decided(await measured(source, held, call), options, call)
  tellFindings({ spec, facts }, call, source.name)
  const shows = await showsOf(source, opened, asked)
  const taking = await takingOf({ spec, facts, shows }, source.interpretation.alpha, call)
  const others: Record<string, SourceSpec> = {}
  for (const other of othersIn(opened.job.sources, source.id, source.steps)) {
    const found = specOf(other, opened)
    if (!found) continue
    await verify(found.files)
    others[other.id] = found
  }
  for (const [, problem] of preparationProblems(taking.brought.facts, source.steps))
    call.remark(`${source.name}: ${problem}`)
  return {
    taking,
    under: brought => ({
      spec: preparedSpec(wholeSpec(brought), source.steps, others),
      facts: preparedFacts(brought.facts, source.steps)
    })
  }
}
