/** Handing over: pours with their papers into one ZIP or a folder; and received folders, checked against their manifest. */
import { makeZip } from 'client-zip'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import type { Given } from '~/db/files'
import type { StoredResult } from '~/db/database'
import { impossible, isAbort } from '~~/core/errors'
import { baseName, type FileRef } from '~~/core/files/file'
import { listZip, looksLikeZip } from '~~/core/files/zip'
import { formatById } from '~~/core/formats/registry'
import type { AlphaMode } from '~~/core/frame/frame'
import { checkHandOver, type HandOverCheck } from '~~/core/handover/check'
import type { DocumentPicture } from '~~/core/handover/document'
import { MANIFEST_VERSION, type Manifest } from '~~/core/handover/manifest'
import type { StationWord, Told } from '~~/core/handover/note'
import { describe, papers, type Packed } from '~~/core/handover/pack'
import { splitCell } from '~~/core/job/job'
import { freeName } from '~~/core/outlet/names'
import { storedFacts } from '~~/core/source/open'
import { flatScene } from '~~/core/stations/scene'
import { screenPng } from '~~/core/stations/show'
import { stations } from '~~/core/stations/stations'
import type { Visit } from '~~/core/stations/visit'
import { thumbnail } from '~~/core/view/thumb'
import { saveInto } from '~~/platform/browser/sinks'
import { useJob } from './job'
import { usePours } from './pours'
import { useWorkshop } from './workshop'

const BACKDROP = '#4a7ba6'
/** Longer side of a picture in the papers, in pixels. */
const SHOWN = 460
/** Stations whose wrong picture teaches most. */
const TAUGHT = ['always-straight', 'always-premultiplied', 'alpha-off', 'engine-straight']

export const useHandOver = defineStore('handover', () => {
  const jobs = useJob()
  const pours = usePours()
  const workshop = useWorkshop()
  const running = ref<{ what: string; done: number; total: number } | null>(null)
  const checked = ref<HandOverCheck | null>(null)
  let stop: AbortController | null = null

  /** A file's bytes as a blob that is read when it is its turn. */
  async function blobOf(file: FileRef): Promise<Blob> {
    if (file.kind === 'blob') return file.blob
    const reader = await (await workshop.host()).openFile(file)
    const bytes = await reader.read(0, file.size)
    await reader.close()
    return new Blob([bytes as Uint8Array<ArrayBuffer>])
  }

  async function pictureOf(visit: Visit, caption: string): Promise<DocumentPicture> {
    const small = thumbnail(visit, SHOWN)
    return { png: screenPng(await workshop.host(), small), width: small.width, height: small.height, caption }
  }

  /** How the stations take it, at its worst frame or the middle, with the pictures that teach most. */
  async function visited({ spec, facts, report }: Packed, due: AlphaMode, signal: AbortSignal): Promise<Pick<Told, 'stations' | 'pictures'>> {
    const index = (report.worstFrame ?? Math.ceil(facts.frames / 2)) - 1
    const words: StationWord[] = []
    const pictures: DocumentPicture[] = []
    for (const station of stations) {
      if (station.kind !== 'picture' || station.refuses({ facts, due })) continue
      const visit = await workshop.pool.run('station', [{ station: station.id, delivered: spec, index, due, scene: flatScene(BACKDROP) }], { signal })
      words.push({ station, standing: visit.standing, sentence: visit.sentence })
      if (station.id === 'asks') pictures.unshift(await pictureOf(visit, `Right: frame ${index + 1} over ${BACKDROP}.`))
      else if (TAUGHT.includes(station.id) && visit.standing !== 'right') pictures.push(await pictureOf(visit, `Wrong, in ${station.family}. ${visit.seen ?? visit.sentence}`))
    }
    return { stations: words, pictures: due.mode === 'none' ? [] : pictures }
  }

  async function packedOf(result: StoredResult, taken: Set<string>): Promise<Packed & { due: AlphaMode }> {
    const { sourceId } = splitCell(result.cell)
    const spec = await pours.deliveredAsKnown(result)
    const facts = await storedFacts(spec, await workshop.host())
    const film = formatById(spec.format).delivers === 'film'
    const stem = result.fileName.replace(/\.[^.]*$/, '')
    const folder = film ? '' : `${freeName(stem, name => taken.has(name))}/`
    const paths = [...spec.files, ...(spec.key ?? [])].map(file => {
      const path = folder + freeName(baseName(file.path), name => taken.has(folder + name))
      taken.add(path)
      return path
    })
    taken.add(folder.slice(0, -1))
    return { name: result.fileName, source: jobs.job.sources[sourceId]?.name ?? stem, spec, facts, report: result.report!, paths, due: result.plan.due.alpha }
  }

  /** Everything that goes into the hand-over, papers first; files are read when they are asked for. */
  async function gathered(results: readonly StoredResult[], signal: AbortSignal): Promise<{ name: string; blob(): Promise<Blob> }[]> {
    const host = await workshop.host()
    const taken = new Set<string>()
    const total = results.reduce((sum, r) => sum + r.plan.frames.length, 0)
    let done = 0
    const told: Told[] = []
    const files: { name: string; blob(): Promise<Blob> }[] = []
    const all: Packed[] = []
    for (const result of results) {
      const packed = await packedOf(result, taken)
      all.push(packed)
      const what = `Reading ${packed.name}`
      const delivery = await describe(packed, host, workshop.pool, () => (running.value = { what, done: ++done, total }), signal)
      told.push({ delivery, report: packed.report, ...(await visited(packed, packed.due, signal)) })
      for (const [i, file] of [...packed.spec.files, ...(packed.spec.key ?? [])].entries()) files.push({ name: packed.paths[i]!, blob: () => blobOf(file) })
    }
    const manifest: Manifest = { pour: 'hand-over', version: MANIFEST_VERSION, job: jobs.job.name, made: new Date().toISOString(), deliveries: told.map(t => t.delivery) }
    const pages = await papers(manifest, told)
    return [...pages.map(({ name, bytes }) => ({ name, blob: () => Promise.resolve(new Blob([bytes as Uint8Array<ArrayBuffer>])) })), ...files]
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

  /** The hand-over as one ZIP; null when it was stopped. */
  function zipped(results: readonly StoredResult[]): Promise<Blob | null> {
    return working('Packing', async signal => {
      const files = await gathered(results, signal)
      async function* entries(): AsyncGenerator<{ name: string; input: Blob; lastModified: Date }> {
        for (const [i, file] of files.entries()) {
          signal.throwIfAborted()
          running.value = { what: `Packing ${file.name}`, done: i, total: files.length }
          yield { name: file.name, input: await file.blob(), lastModified: new Date() }
        }
      }
      return new Response(makeZip(entries())).blob()
    })
  }

  /** One paper of a result by itself; null when it was stopped. */
  function paper(result: StoredResult, name: 'proof.html' | 'proof.pdf' | 'note.html'): Promise<Blob | null> {
    return working('Writing', async signal => (await gathered([result], signal)).find(file => file.name === name)!.blob())
  }

  /** The same into a folder that the user chose, within a new folder of the job's name. Resolves to that name, or null when stopped. */
  function saved(folder: FileSystemDirectoryHandle, results: readonly StoredResult[]): Promise<string | null> {
    return working('Saving', async signal => {
      const files = await gathered(results, signal)
      const taken = new Set<string>()
      for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys()) taken.add(name)
      const name = freeName(`${jobs.job.name} hand-over`, n => taken.has(n))
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
      checked.value = await checkHandOver(files, host, workshop.pool, (done, total) => (running.value = { what: 'Checking', done, total }), signal)
    })
  }

  return { running, checked, zipped, paper, saved, check, cancel: () => stop?.abort() }
})
