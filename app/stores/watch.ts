/** A folder that is watched: what comes into it is brought in, poured through the job's outlets, proven, put aside. */
import { until } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Given } from '~/db/files'
import { useJob } from './job'
import { usePours } from './pours'
import { useSources } from './sources'
import { isArrival, isUnfinished, nameOfArrival, POURED, sayArrival } from '~~/core/run/delivery/arrivals'
import {
  SETTLE,
  watchFolder,
  type ArrivalOutcome,
  type OutputNames,
  type FolderEntry,
  type WatchedPlace
} from '~~/core/run/delivery/watch'
import { isAllRead, takeInBy } from '~~/core/run/intake/intake'
import { wallClock } from '~~/platform/clock'
import { lookingThrough } from '~~/core/run/intake/through-pool'
import { useWorkshop } from './workshop'
import { impossible, isAbort, sentenceOf } from '~~/core/base/errors'
import { cellKey } from '~~/core/job/job'
import type { Rate } from '~~/core/base/rate'

export interface Arrival {
  name: string
  state: 'arriving' | 'waiting' | 'working' | 'done' | 'failed'
  sentence: string
}

type Folder = FileSystemDirectoryHandle & {
  values(): AsyncIterable<FileSystemFileHandle | FileSystemDirectoryHandle>
}

/** All files of an entry, with their paths. */
async function filesOf(entry: FileSystemFileHandle | FileSystemDirectoryHandle, within = ''): Promise<Given[]> {
  const path = `${within}${entry.name}`
  // the page keeps their bytes: once put aside they lie elsewhere
  if (entry.kind === 'file') return [{ path, file: await (entry as FileSystemFileHandle).getFile(), handle: null }]
  const found: Given[] = []
  for await (const each of (entry as Folder).values())
    if (!each.name.startsWith('.')) found.push(...(await filesOf(each, `${path}/`)))
  return found
}

async function namesIn(folder: FileSystemDirectoryHandle): Promise<Set<string>> {
  const names = new Set<string>()
  for await (const { name } of (folder as Folder).values()) names.add(name)
  return names
}

async function copyInto(
  folder: FileSystemDirectoryHandle,
  entry: FileSystemFileHandle | FileSystemDirectoryHandle,
  name: string
): Promise<void> {
  if (entry.kind === 'file') {
    const to = await (await folder.getFileHandle(name, { create: true })).createWritable()
    await (await (entry as FileSystemFileHandle).getFile()).stream().pipeTo(to)
    return
  }
  const inner = await folder.getDirectoryHandle(name, { create: true })
  for await (const each of (entry as Folder).values()) await copyInto(inner, each, each.name)
}

const JOURNAL = '.pour-watch.json'

async function written(folder: FileSystemDirectoryHandle, name: string, text: string): Promise<void> {
  // what is written takes its place when it is closed, not before
  const file = await (await folder.getFileHandle(name, { create: true })).createWritable()
  await file.write(text)
  await file.close()
}

type Entry = FileSystemFileHandle | FileSystemDirectoryHandle

const entryIn = (root: FileSystemDirectoryHandle, name: string): Promise<Entry> =>
  root.getFileHandle(name).catch(() => root.getDirectoryHandle(name))

async function standingOf(root: FileSystemDirectoryHandle, name: string): Promise<FolderEntry | null> {
  try {
    const files = await filesOf(await entryIn(root, name))
    return {
      name,
      state: files
        .map(({ path, file }) => `${path} ${file.size} ${(file as File).lastModified}`)
        .sort()
        .join('\n'),
      changed: null,
      unfinished: files.some(({ path }) => isUnfinished(path.slice(path.lastIndexOf('/') + 1)))
    }
  } catch (error) {
    if (error instanceof DOMException && error.name === 'NotFoundError') return null
    throw error
  }
}

/** A folder that the page was given, as the watching engine sees it. */
function watchedHandle(root: FileSystemDirectoryHandle): WatchedPlace {
  return {
    async look() {
      const found: FolderEntry[] = []
      for (const name of [...(await namesIn(root))].filter(isArrival).sort()) {
        const each = await standingOf(root, name)
        if (each) found.push(each)
      }
      return found
    },
    standing: name => standingOf(root, name),
    aside: into => root.getDirectoryHandle(into).then(namesIn, () => []),
    async putAside(name, into, as, report) {
      const aside = await root.getDirectoryHandle(into, { create: true })
      const before = await standingOf(root, name)
      await written(aside, `${as}.report.json`, report)
      await copyInto(aside, await entryIn(root, name), as)
      // nothing is taken away from somebody who writes in it while it is copied
      if ((await standingOf(root, name))?.state !== before?.state)
        throw impossible(`${name} changed while it was put aside; it is left where it is`)
      await root.removeEntry(name, { recursive: true })
    },
    remove: name => root.removeEntry(name).catch(() => undefined),
    journal: () =>
      root
        .getFileHandle(JOURNAL)
        .then(handle => handle.getFile())
        .then(file => file.text())
        .catch(() => null),
    keepJournal: text => written(root, JOURNAL, text)
  }
}

export const useWatch = defineStore('watch', () => {
  const jobs = useJob()
  const sources = useSources()
  const pours = usePours()
  const workshop = useWorkshop()
  const folder = shallowRef<FileSystemDirectoryHandle | null>(null)
  /** What came, the last first. */
  const arrivals = ref<Arrival[]>([])
  const stopped = ref('')
  /** Milliseconds without a change after which something has arrived. */
  const settle = ref(SETTLE)
  /** What pictures play at that say nothing of it themselves. */
  let rate: Rate | null = null
  let stop: AbortController | null = null

  function tell(name: string, state: Arrival['state'], sentence: string): void {
    arrivals.value = [{ name, state, sentence }, ...arrivals.value.filter(other => other.name !== name)]
  }

  /** Brings an arrival in: the sources that came of it, and why others did not. */
  async function bring(given: readonly Given[]): Promise<{ ids: string[]; remarks: string[] }> {
    // one bringing in at a time: a person's own goes first
    await until(() => sources.intake).toBe(null)
    const ids = await sources.bringIn(given, { label: 'Bring in what arrived', ask: false })
    const remarks = sources.left.map(({ sentence }) => sentence)
    const unrated = ids.filter(id => !sources.factsOf(jobs.job.sources[id]!).rate)
    if (rate && unrated.length)
      await jobs.edit('Give what arrived its rate', draft => {
        for (const id of unrated) Object.assign(draft.sources[id]!.interpretation, { rate, rateFrom: 'asked' as const })
      })
    const looked = (id: string): boolean =>
      !jobs.job.sources[id] ||
      sources.examinations.has(id) ||
      sources.unexamined.has(id) ||
      sources.states.get(id)?.state === 'failed'
    await until(() => ids.every(looked)).toBe(true)
    return { ids, remarks }
  }

  const busy = (cell: string): boolean =>
    ['waiting', 'pouring', 'proving', 'elsewhere'].includes(pours.work.get(cell)?.state ?? '')

  /** What is not as it should be of a cell that is not busy any more; null where all is. */
  function faultOf(cell: string): string | null {
    const now = pours.work.get(cell)
    if (now && 'sentence' in now) return now.sentence
    const report = pours.latest.get(cell)?.report
    if (!report) return 'it was not poured, or not proven'
    return report.verdict === 'broken' ? report.sentence : null
  }

  /** Pours what came through all outlets. */
  async function deliver(
    root: FileSystemDirectoryHandle,
    name: string,
    { own, signal }: OutputNames & { signal: AbortSignal }
  ): Promise<ArrivalOutcome> {
    const faults: string[] = []
    const deliveries: Record<string, unknown>[] = []
    const given = await filesOf(await entryIn(root, name))
    const { ids, remarks } = await bring(given)
    const within = given.some(({ path }) => path !== name) || /\.zip$/i.test(name)
    const called = ids.flatMap((id): [string, string][] => {
      const own = jobs.job.sources[id]!.name
      const wanted = nameOfArrival(name, own, { within, alone: ids.length === 1 })
      return wanted === own ? [] : [[id, wanted]]
    })
    if (called.length) await jobs.renameSources(new Map(called))
    if (ids.length === 0) faults.push(remarks[0] ?? 'there is nothing that Pour reads')
    const cells = ids.flatMap(id => jobs.outlets.map(outlet => ({ id, outlet, cell: cellKey(id, outlet.id) })))
    const can = cells.filter(({ cell }) => pours.canPour(cell))
    for (const { id, outlet, cell } of cells)
      if (!pours.canPour(cell))
        faults.push(`${jobs.job.sources[id]?.name} through ${outlet.name}: ${pours.planOf(cell).problems.join(' ')}`)
    signal.throwIfAborted()
    tell(name, 'working', `is poured through ${can.length} ${can.length === 1 ? 'cell' : 'cells'}.`)
    if (can.length) {
      pours.start(
        can.map(({ cell }) => cell),
        await root.getDirectoryHandle(POURED, { create: true }),
        own
      )
      await until(() => can.some(({ cell }) => busy(cell))).toBe(false)
    }
    for (const { id, outlet, cell } of can) {
      const fault = faultOf(cell)
      if (fault) faults.push(`${jobs.job.sources[id]?.name} through ${outlet.name}: ${fault}`)
      const result = pours.latest.get(cell)
      if (result?.report)
        deliveries.push({
          source: jobs.job.sources[id]?.name,
          outlet: outlet.name,
          to: result.folder ?? result.fileName,
          bytes: result.bytes,
          verdict: result.report.verdict,
          sentence: result.report.sentence
        })
    }
    signal.throwIfAborted()
    return { deliveries, remarks, faults, ended: faults.length === 0 ? 0 : 1 }
  }

  /** Whether all of an arrival can be opened; what cannot may still be on its way. */
  async function isWhole(root: FileSystemDirectoryHandle, name: string, signal: AbortSignal): Promise<boolean> {
    try {
      const given = await filesOf(await entryIn(root, name))
      const files = given.map(({ path, file }) => ({ kind: 'blob' as const, path, size: file.size, blob: file }))
      return isAllRead(await takeInBy(lookingThrough(workshop.pool, signal), files, undefined, signal))
    } catch (error) {
      if (isAbort(error)) throw error
      return false
    }
  }

  const look = (root: FileSystemDirectoryHandle, signal: AbortSignal): Promise<number> =>
    watchFolder({
      ...{ place: watchedHandle(root), clock: wallClock, signal, settle: settle.value },
      isWhole: name => isWhole(root, name, signal),
      deliver: (name, { own }) => deliver(root, name, { own, signal }),
      outputs: () => root.getDirectoryHandle(POURED).then(namesIn, () => []),
      told: (name, state, sentence) => {
        const now = arrivals.value.find(other => other.name === name)
        if (state !== 'arriving' || now?.state !== 'arriving') tell(name, state, sentence)
      },
      onReport: (report, done) => tell(report.arrival, done ? 'done' : 'failed', sayArrival(report, done))
    })

  /** Begins to watch; ends by itself, and says why, when the folder cannot be read any more. */
  function begin(root: FileSystemDirectoryHandle, plays: Rate | null): void {
    end()
    const own = new AbortController()
    stop = own
    rate = plays
    folder.value = root
    arrivals.value = []
    stopped.value = ''
    look(root, own.signal).catch((error: unknown) => {
      if (own.signal.aborted) return
      end()
      stopped.value = `${root.name} is not watched any more: ${sentenceOf(error)}`
    })
  }

  function end(): void {
    stop?.abort()
    stop = null
    folder.value = null
  }

  // another job has other outlets
  watch(
    () => jobs.job?.id,
    () => end()
  )

  const counts = computed(() => ({
    done: arrivals.value.filter(({ state }) => state === 'done').length,
    failed: arrivals.value.filter(({ state }) => state === 'failed').length
  }))

  return { folder, arrivals, stopped, settle, counts, begin, end }
})
