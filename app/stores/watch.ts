/** A folder that is watched: what comes into it is brought in, poured through the job's outlets, proven, put aside. */
import { until } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Given } from '~/db/files'
import { useJob } from './job'
import { usePours } from './pours'
import { useSources } from './sources'
import {
  arrived,
  BETWEEN_LOOKS,
  DONE,
  FAILED,
  isArrival,
  POURED,
  reportText,
  sayArrival
} from '~~/core/delivery/arrivals'
import { isAbort, sentenceOf } from '~~/core/errors'
import { cellKey } from '~~/core/job/job'
import { freeName } from '~~/core/outlet/names'
import type { Rate } from '~~/core/rate'

export interface Arrival {
  name: string
  state: 'arriving' | 'working' | 'done' | 'failed'
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

export const useWatch = defineStore('watch', () => {
  const jobs = useJob()
  const sources = useSources()
  const pours = usePours()
  const folder = shallowRef<FileSystemDirectoryHandle | null>(null)
  /** What came, the last first. */
  const arrivals = ref<Arrival[]>([])
  const stopped = ref('')
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

  /** Pours what came through all outlets, and puts it aside with its report. */
  async function take(root: FileSystemDirectoryHandle, name: string, signal: AbortSignal): Promise<void> {
    const faults: string[] = []
    const remarks: string[] = []
    const deliveries: object[] = []
    const entry = await root.getFileHandle(name).catch(() => root.getDirectoryHandle(name))
    tell(name, 'working', 'is being brought in.')
    try {
      const brought = await bring(await filesOf(entry))
      remarks.push(...brought.remarks)
      if (brought.ids.length === 0) faults.push(remarks[0] ?? 'there is nothing that Pour reads')
      const cells = brought.ids.flatMap(id =>
        jobs.outlets.map(outlet => ({ id, outlet, cell: cellKey(id, outlet.id) }))
      )
      const can = cells.filter(({ cell }) => pours.canPour(cell))
      for (const { id, outlet, cell } of cells)
        if (!pours.canPour(cell))
          faults.push(`${jobs.job.sources[id]?.name} through ${outlet.name}: ${pours.planOf(cell).problems.join(' ')}`)
      signal.throwIfAborted()
      tell(name, 'working', `is poured through ${can.length} ${can.length === 1 ? 'cell' : 'cells'}.`)
      if (can.length) {
        pours.start(
          can.map(({ cell }) => cell),
          await root.getDirectoryHandle(POURED, { create: true })
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
    } catch (error) {
      if (isAbort(error)) throw error
      faults.push(sentenceOf(error))
    }
    signal.throwIfAborted()
    const done = faults.length === 0
    const report = { arrival: name, deliveries, remarks, faults }
    const aside = await root.getDirectoryHandle(done ? DONE : FAILED, { create: true })
    const taken = await namesIn(aside)
    const free = freeName(name, each => taken.has(each))
    await copyInto(aside, entry, free)
    await root.removeEntry(name, { recursive: true })
    const written = await (await aside.getFileHandle(`${free}.report.json`, { create: true })).createWritable()
    await written.write(reportText(report))
    await written.close()
    tell(name, done ? 'done' : 'failed', sayArrival(report, done))
  }

  async function look(root: FileSystemDirectoryHandle, signal: AbortSignal): Promise<void> {
    let seen = new Map<string, string>()
    // what cannot be put aside is not poured again and again
    const stuck = new Set<string>()
    while (!signal.aborted) {
      const now = new Map<string, string>()
      for (const name of [...(await namesIn(root))].filter(isArrival).sort()) {
        if (stuck.has(name)) continue
        const entry = await root.getFileHandle(name).catch(() => root.getDirectoryHandle(name))
        const files = await filesOf(entry)
        now.set(name, files.map(({ path, file }) => `${path} ${file.size} ${(file as File).lastModified}`).join('\n'))
        if (!arrivals.value.some(other => other.name === name && other.state === 'arriving'))
          tell(name, 'arriving', 'is arriving.')
      }
      for (const name of arrived(seen, now))
        try {
          await take(root, name, signal)
        } catch (error) {
          if (signal.aborted) return
          stuck.add(name)
          tell(name, 'failed', `It is left where it is: ${sentenceOf(error)}`)
        }
      seen = now
      await new Promise(resolve => setTimeout(resolve, BETWEEN_LOOKS))
    }
  }

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

  return { folder, arrivals, stopped, counts, begin, end }
})
