/**
 * A watched folder: what has arrived whole is delivered and put aside with its report, each arrival once, whatever
 * stops it in between. The folder, the clock and the delivery are ports: page and command line watch by this one
 * engine.
 */
import { isAbort, PourError, sentenceOf } from '../../base/errors'
import { freeName, Names } from '../../job/outlet/names'
import { DONE, FAILED, isArrival, reportText, type WatchReport } from './arrivals'
import { journalText, readJournal, type Journal } from './watch-journal'

/** An entry of the folder as it stands at a look. */
export interface FolderEntry {
  name: string
  /** All that tells whether it still grows: names, sizes and times of it and of all within. */
  state: string
  /** When it last changed, in milliseconds of the same clock as `now`; null where the place does not know. */
  changed: number | null
  /** Whether something within is named as a program names what it still writes. */
  unfinished: boolean
}

export interface WatchedPlace {
  /** Every entry but hidden ones, as they are now. Rejects where the folder cannot be read any more. */
  look(): Promise<FolderEntry[]>
  /** One entry as it is now; null where it is gone. */
  standing(name: string): Promise<FolderEntry | null>
  /** Names that stand in a folder for what was put aside; empty where there is none yet. */
  aside(into: string): Promise<Iterable<string>>
  /** Puts an entry aside under a name, with the text of its report beside it, replacing a report of that name. */
  putAside(name: string, into: string, as: string, report: string): Promise<void>
  /** Takes away a marker. */
  remove(name: string): Promise<void>
  /** What `keepJournal` kept last; null where nothing was. */
  journal(): Promise<string | null>
  keepJournal(text: string): Promise<void>
}

export interface Clock {
  now(): number
  /** Resolves after so many milliseconds; rejects at once when `signal` fires. */
  wait(ms: number, signal: AbortSignal): Promise<void>
}

/** What became of an arrival. `ended` is 0 where all was done, else the exit code that says why not. */
export interface ArrivalOutcome {
  deliveries: readonly Record<string, unknown>[]
  remarks: readonly string[]
  faults: readonly string[]
  ended: number
}

/** Names that deliveries of an arrival may take. */
export interface OutputNames {
  /**
   * A name for a delivery: the wanted one where nothing stands there or it is this arrival's own, else the next free.
   */
  own(wanted: string): Promise<string>
}

export interface Watching {
  place: WatchedPlace
  clock: Clock
  signal: AbortSignal
  /** Milliseconds without any change after which an arrival has settled. */
  settle: number
  /**
   * The ending of a file beside an arrival without which it is not taken, such as ".ready"; null where none is asked.
   */
  marker?: string | null
  /** Takes what is there, waits for what has not settled yet, and ends. */
  once?: boolean
  /** Whether a later arrival of the same name takes the place of what was delivered of the former. */
  replaces?: boolean
  /** Whether an arrival can be read to its end; false where it seems to be cut short, so that more of it may come. */
  isWhole(name: string): Promise<boolean>
  /** Delivers an arrival. Rejects only where nothing can be delivered at all: stopped, or no room on the disk. */
  deliver(name: string, names: OutputNames): Promise<ArrivalOutcome>
  /** Names that stand in the output already. */
  outputs(): Promise<Iterable<string>>
  told?(name: string, state: 'arriving' | 'working' | 'done' | 'failed' | 'waiting', sentence: string): void
  /** Called with each report that was put aside. */
  onReport?(report: WatchReport, done: boolean): void
}

/** Between two looks at the folder, in milliseconds. */
export const BETWEEN_LOOKS = 1000
/** How long an arrival may take until it has settled, in milliseconds, unless somebody says otherwise. */
export const SETTLE = 10_000
/** Settle times that an arrival which seems cut short is waited for before it is given up. */
const PATIENCE = 6
/** Between tries where the disk has no room, in milliseconds. */
const NO_ROOM = 10_000

interface Seen {
  state: string
  since: number
  looks: number
  /** Whether it could not be read to its end as it stands: it is not read again before it changes. */
  cut?: boolean
}

/**
 * Watches until `signal` fires, or with `once` until all that is there was taken. Resolves with the worst exit code.
 */
export async function watchFolder(watching: Watching): Promise<number> {
  const { place, clock, signal, once, marker } = watching
  const journal = readJournal(await place.journal())
  const watcher = new Watcher(watching, journal)
  await watcher.goOn()
  let seen = new Map<string, Seen>()
  for (;;) {
    signal.throwIfAborted()
    const entries = await place.look()
    const present = new Set(entries.map(({ name }) => name))
    const now = new Map<string, Seen>()
    let waiting = 0
    for (const entry of entries.filter(({ name }) => isArrival(name) && !(marker && name.endsWith(marker)))) {
      signal.throwIfAborted()
      if (watcher.stuck.has(entry.name)) continue
      const standing = stillSeen(seen.get(entry.name), entry, clock.now())
      if (!watcher.mayTake(entry, standing, present)) {
        now.set(entry.name, standing)
        if (!marker || present.has(entry.name + marker)) waiting++
        watching.told?.(entry.name, 'arriving', 'is arriving.')
        continue
      }
      const taken = await watcher.take(entry, standing)
      if (taken) continue
      now.set(entry.name, standing)
      waiting++
    }
    if (once && waiting === 0) return watcher.worst
    seen = now
    await clock.wait(Math.min(BETWEEN_LOOKS, Math.max(20, watching.settle / 4)), signal)
  }
}

function stillSeen(before: Seen | undefined, { state, changed }: FolderEntry, now: number): Seen {
  if (before?.state === state) return { ...before, looks: before.looks + 1 }
  // a disk whose clock runs ahead must not make an arrival wait for ever
  return { state, since: before ? now : Math.min(now, changed ?? now), looks: 1 }
}

/** A record without some of its keys. */
const without = <T>(record: Readonly<Record<string, T>>, which: (key: string) => boolean): Record<string, T> =>
  Object.fromEntries(Object.entries(record).filter(([key]) => !which(key)))

class Watcher {
  worst = 0
  /** What can neither be poured nor put aside is not tried again. */
  readonly stuck = new Set<string>()
  private readonly later = new Map<string, number>()

  constructor(
    private readonly watching: Watching,
    private readonly journal: Journal
  ) {}

  /** Whether an entry has been the same for the settle time, and nothing says that more of it comes. */
  mayTake({ name, unfinished }: FolderEntry, { since, looks }: Seen, present: ReadonlySet<string>): boolean {
    const { settle, marker, clock } = this.watching
    if (marker && !present.has(name + marker)) return false
    const quiet = clock.now() - since
    if (quiet < settle || (settle > 0 && looks < 2)) return false
    if ((this.later.get(name) ?? 0) > clock.now()) return false
    return !unfinished || quiet >= settle * PATIENCE
  }

  /** What a run that was cut off had proven and not put aside yet is put aside now; it is not delivered again. */
  async goOn(): Promise<void> {
    for (const [name, entry] of Object.entries(this.journal.taken)) {
      if (entry.stage !== 'proven') continue
      const standing = await this.watching.place.standing(name)
      try {
        if (standing?.state === entry.state) await this.finish(name)
        else {
          // it was put aside already, or another one came under its name
          this.journal.taken = without(this.journal.taken, each => each === name)
          await this.keep()
        }
      } catch (error) {
        // it stands in the journal, and is put aside when it is looked at and there is room
        if (!(error instanceof PourError && error.kind === 'no-room')) throw error
      }
    }
  }

  /** Takes an arrival. False where it turned out to be still arriving, or there is no room for what is made of it. */
  async take(entry: FolderEntry, seen: Seen): Promise<boolean> {
    const { clock, settle, told } = this.watching
    if (clock.now() - seen.since < settle * PATIENCE) {
      if (seen.cut) return false
      if (!(await this.watching.isWhole(entry.name))) {
        seen.cut = true
        told?.(entry.name, 'waiting', 'seems to be cut short; more of it may come.')
        return false
      }
    }
    try {
      return await this.deliver(entry)
    } catch (error) {
      if (!(error instanceof PourError && error.kind === 'no-room')) throw error
      told?.(entry.name, 'waiting', `is left where it is: ${sentenceOf(error)}`)
      this.worst = Math.max(this.worst, 5)
      this.later.set(entry.name, clock.now() + NO_ROOM)
      // whoever runs once does not wait for somebody to make room
      if (this.watching.once) this.stuck.add(entry.name)
      return false
    }
  }

  /** Rejects where the disk has no room, for what is made of it or for the journal; nothing is lost by it. */
  private async deliver({ name, state }: FolderEntry): Promise<boolean> {
    const { place, signal, told } = this.watching
    const before = this.journal.taken[name]
    if (before?.stage === 'proven' && before.state === state) {
      // only the journal could not be kept
      await this.keep()
      await this.finish(name)
      return true
    }
    // others were poured since the folder was looked at
    if ((await place.standing(name))?.state !== state) return false
    told?.(name, 'working', 'is being poured.')
    this.journal.taken[name] = { stage: 'pouring', state }
    await this.keep()
    let delivered: ArrivalOutcome
    try {
      delivered = await this.watching.deliver(name, await this.namesFor(name))
    } catch (error) {
      if (isAbort(error) || signal.aborted) throw error
      if (error instanceof PourError && error.kind === 'no-room') throw error
      delivered = { deliveries: [], remarks: [], faults: [sentenceOf(error)], ended: 3 }
    }
    const after = await place.standing(name)
    if (after?.state !== state) {
      // it changed while it was poured: what was made is not what it is now, and is made again in its place
      told?.(name, 'arriving', after ? 'changed while it was poured.' : 'was taken away while it was poured.')
      return after === null
    }
    const done = delivered.ended === 0
    const into = done ? DONE : FAILED
    const report = {
      arrival: name,
      deliveries: [...delivered.deliveries],
      remarks: [...delivered.remarks],
      faults: [...delivered.faults]
    }
    const as = new Names(await place.aside(into)).free(name)
    this.journal.taken[name] = { stage: 'proven', state, into, as, report, ended: delivered.ended }
    await this.keep()
    await this.finish(name)
    return true
  }

  /** Puts aside what is proven, and strikes it off. */
  private async finish(name: string): Promise<void> {
    const { place, marker, told } = this.watching
    const entry = this.journal.taken[name]
    if (entry?.stage !== 'proven') return
    this.worst = Math.max(this.worst, entry.ended)
    try {
      await place.putAside(name, entry.into, entry.as, reportText(entry.report))
      if (marker) await place.remove(name + marker)
    } catch (error) {
      if (error instanceof PourError && error.kind === 'no-room') throw error
      this.stuck.add(name)
      this.worst = Math.max(this.worst, 3)
      told?.(name, 'failed', `It cannot be put aside, and is left where it is: ${sentenceOf(error)}`)
      return
    }
    this.journal.taken = without(this.journal.taken, each => each === name)
    await this.keep()
    this.watching.onReport?.(entry.report, entry.ended === 0)
  }

  /** Every arrival has names of its own in the output: those of another stay as they are. */
  private async namesFor(name: string): Promise<OutputNames> {
    const { unfinished } = this.journal
    const there = new Names(await this.watching.outputs())
    const begun = new Names(unfinished[name] ?? [])
    // whoever took a delivery away gave its name back
    const owners = (this.journal.owners = without(this.journal.owners, each => !there.has(each) && !begun.has(each)))
    const former = new Names(Object.keys(owners).filter(each => owners[each] === name))
    const given = new Names()
    const mine = (each: string): boolean =>
      !given.has(each) && (begun.has(each) || (this.watching.replaces === true && former.has(each)))
    return {
      own: async wanted => {
        const free = freeName(wanted, each => !mine(each) && (there.has(each) || given.has(each)))
        given.add(free)
        this.journal.owners[free] = name
        this.journal.unfinished[name] = [...(this.journal.unfinished[name] ?? []), free]
        // before anything is written there: a run that is cut off finds its own again
        await this.keep()
        return free
      }
    }
  }

  private async keep(): Promise<void> {
    const { taken, unfinished } = this.journal
    this.journal.unfinished = without(unfinished, name => taken[name]?.stage !== 'pouring')
    await this.watching.place.keepJournal(journalText(this.journal))
  }
}
