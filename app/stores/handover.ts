/**
 * Handing over: pours with their papers into one ZIP or a folder; and received folders, checked against their manifest.
 */
import { useStorage } from '@vueuse/core'
import { makeZip } from 'client-zip'
import { liveQuery } from 'dexie'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { Given } from '~/db/files'
import { sayStore } from '~/db/words'
import { database, resultBlobs, type StoredResult } from '~/db/database'
import { impossible, isAbort } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import { listZip, looksLikeZip } from '~~/core/base/files/zip'
import { checkHandOver, type HandOverCheck } from '~~/core/run/handover/check'
import { bytesOfEntry, gather, type HandedOver, type HandoverFile } from '~~/core/run/handover/gather'
import { HouseKey, makeKey, readAs } from '~~/core/run/handover/seal'
import { splitCell } from '~~/core/job/job'
import { Names } from '~~/core/job/outlet/names'
import { unmet } from '~~/core/job/outlet/receiver'
import { storedFacts } from '~~/core/open/stored'
import { saveInto } from '~~/platform/browser/sinks'
import { useJob } from './job'
import { usePours } from './pours'
import { useWorkshop } from './workshop'

export const useHandOver = defineStore('handover', () => {
  const jobs = useJob()
  const pours = usePours()
  const workshop = useWorkshop()
  const running = ref<{ what: string; done: number; total: number } | null>(null)
  const checked = ref<HandOverCheck | null>(null)
  /** The house's key of this browser, and whether hand-overs are signed by it. */
  const key = shallowRef<HouseKey | null>(null)
  const signs = useStorage('pour-signs', true)
  // another page of this browser may make one, or forget it
  liveQuery(() => database.keys.get('house')).subscribe({
    next: row => (key.value = row?.key ?? null),
    error: (error: unknown) => (workshop.trouble = sayStore(error))
  })
  let stop: AbortController | null = null

  async function keepKey(given: HouseKey | null): Promise<void> {
    if (given) await database.keys.put({ id: 'house', key: { ...given } })
    else await database.keys.delete('house')
  }

  /** A key from a file, or a new one under a name. */
  const openKey = async (file: File): Promise<void> =>
    keepKey(readAs(HouseKey, await file.text(), { file: file.name, what: 'a key that signs' }))
  const newKey = async (name: string): Promise<void> => keepKey(await makeKey(name))

  /** An entry's bytes as a blob, read when it is its turn. */
  async function blobOf(entry: HandoverFile): Promise<Blob> {
    if (!(entry.content instanceof Uint8Array) && entry.content.kind === 'blob') return entry.content.blob
    return new Blob([(await bytesOfEntry(entry, await workshop.host())) as Uint8Array<ArrayBuffer>])
  }

  /** What was delivered and is not as its receiver asks, and was let be. */
  function waivedOf({ cell, plan, fileName, bytes }: StoredResult): string[] {
    const { receiver, waived } = jobs.job
    const ids = new Set(waived[cell] ?? [])
    const found = receiver && ids.size ? unmet({ ...plan, fileName }, receiver, bytes) : []
    return found.filter(({ id }) => ids.has(id)).map(({ sentence }) => sentence)
  }

  async function deliveredOf(result: StoredResult): Promise<HandedOver> {
    const spec = await pours.deliveredAsKnown(result)
    const facts = await storedFacts(spec, await workshop.host())
    return {
      name: result.fileName,
      source: jobs.job.sources[splitCell(result.cell).sourceId]?.name ?? result.plan.name,
      spec,
      facts,
      report: result.report!,
      due: result.plan.due.alpha,
      waived: waivedOf(result)
    }
  }

  /** Everything that goes into the hand-over, papers first; files are read when they are asked for. */
  async function gathered(
    results: readonly StoredResult[],
    signal: AbortSignal,
    whole = true
  ): Promise<{ name: string; blob(): Promise<Blob> }[]> {
    const entries = await gather(
      {
        deliveries: await Promise.all(results.map(deliveredOf)),
        job: jobs.job.name,
        made: new Date(),
        whole,
        key: signs.value && whole ? key.value : null
      },
      { host: await workshop.host(), pool: workshop.pool, signal },
      (what, done, total) => (running.value = { what, done, total })
    )
    return entries.map(entry => ({ name: entry.name, blob: () => blobOf(entry) }))
  }

  async function working<T>(what: string, work: (signal: AbortSignal) => Promise<T>): Promise<T | null> {
    stop = new AbortController()
    running.value = { what, done: 0, total: 0 }
    try {
      return await work(stop.signal)
    } catch (error) {
      if (isAbort(error)) return null
      throw error
    } finally {
      running.value = null
    }
  }

  /** Files as one ZIP, each read when it is its turn. */
  function zipOf(files: readonly { name: string; blob(): Promise<Blob> }[], signal: AbortSignal): Promise<Blob> {
    async function* entries(): AsyncGenerator<{ name: string; input: Blob; lastModified: Date }> {
      for (const [i, file] of files.entries()) {
        signal.throwIfAborted()
        running.value = { what: `Packing ${file.name}`, done: i, total: files.length }
        yield { name: file.name, input: await file.blob(), lastModified: new Date() }
      }
    }
    return new Response(makeZip(entries())).blob()
  }

  /** The hand-over as one ZIP; null when it was stopped. */
  function zipped(results: readonly StoredResult[]): Promise<Blob | null> {
    return working('Packing', async signal => zipOf(await gathered(results, signal), signal))
  }

  /**
   * Deliveries by themselves as one ZIP, without papers: films at its top, pictures with their rate note in a folder
   * each, no name twice. Null when it was stopped.
   */
  function deliveriesZipped(results: readonly StoredResult[]): Promise<Blob | null> {
    return working('Packing', async signal => {
      const host = await workshop.host()
      const names = new Names()
      const free = (name: string): string => names.free(name)
      const files: { name: string; blob(): Promise<Blob> }[] = []
      for (const result of results)
        for (const { name, blob } of await resultBlobs(result)) {
          const ref: FileRef = { kind: 'blob', path: name, size: blob.size, blob }
          const reader = await host.openFile(ref)
          try {
            const pictures = looksLikeZip(await reader.read(0, Math.min(4, blob.size)))
              ? await listZip(ref, reader)
              : null
            const folder = pictures && free(name.replace(/\.[^.]*$/, ''))
            if (pictures)
              for (const content of pictures) {
                const entry = { name: `${folder}/${content.path}`, content }
                files.push({ name: entry.name, blob: () => blobOf(entry) })
              }
            else files.push({ name: free(name), blob: () => Promise.resolve(blob) })
          } finally {
            await reader.close()
          }
        }
      return zipOf(files, signal)
    })
  }

  /** One paper of a result by itself; null when it was stopped. */
  function paper(result: StoredResult, name: 'proof.html' | 'proof.pdf' | 'note.html'): Promise<Blob | null> {
    return working('Writing', async signal =>
      (await gathered([result], signal, false)).find(file => file.name === name)!.blob()
    )
  }

  /**
   * The same into a folder that the user chose, within a new folder of the job's name. Resolves to that name, or null
   * when stopped.
   */
  function saved(folder: FileSystemDirectoryHandle, results: readonly StoredResult[]): Promise<string | null> {
    return working('Saving', async signal => {
      const files = await gathered(results, signal)
      const taken = new Names()
      for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys()) taken.add(name)
      const name = taken.free(`${jobs.job.name} hand-over`)
      const root = await folder.getDirectoryHandle(name, { create: true })
      for (const [i, file] of files.entries()) {
        signal.throwIfAborted()
        running.value = { what: `Saving ${file.name}`, done: i, total: files.length }
        const parts = file.name.split('/')
        let into = root
        for (const part of parts.slice(0, -1)) into = await into.getDirectoryHandle(part, { create: true })
        await saveInto(into, parts.at(-1)!, await file.blob())
      }
      return name
    })
  }

  /** Checks a received folder, ZIP, or loose files that lie with their manifest. */
  async function check(given: readonly Given[]): Promise<void> {
    checked.value = null
    await working('Checking', async signal => {
      const host = await workshop.host()
      const files: FileRef[] = []
      for (const { path, file } of given) {
        const ref: FileRef = { kind: 'blob', path, size: file.size, blob: file }
        const reader = await host.openFile(ref)
        const packed = looksLikeZip(await reader.read(0, 4))
        if (packed && given.length === 1) files.push(...(await listZip(ref, reader)))
        else files.push(ref)
        await reader.close()
      }
      if (files.length === 0) throw impossible('The folder is empty.')
      checked.value = await checkHandOver(
        files,
        { host, pool: workshop.pool, signal },
        { onProgress: (done, total) => (running.value = { what: 'Checking', done, total }) }
      )
    })
  }

  return {
    running,
    checked,
    key,
    signs,
    keepKey,
    openKey,
    newKey,
    zipped,
    deliveriesZipped,
    paper,
    saved,
    check,
    cancel: () => stop?.abort()
  }
})
