/** Files from outside: brought to the proof, judged by themselves, and against a source where one is named. */
import { liveQuery } from 'dexie'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { database, type StoredCheck, type StoredRef } from '~/db/database'
import { fromStored, keepFiles, toStored, type Given } from '~/db/files'
import { isAbort, sentenceOf, wrongCall } from '~~/core/base/errors'
import { modeAdvised } from '~~/core/judge/examine/mode'
import type { FileRef } from '~~/core/base/files/file'
import { takeIn } from '~~/core/run/intake/intake'
import { proveAlone } from '~~/core/judge/proof/alone'
import { expectedOutside } from '~~/core/judge/proof/outside'
import { prove } from '~~/core/judge/proof/prove'
import { AS_FOUND, type FilesSpec } from '~~/core/source/source'
import { useJob } from './job'
import { useSources } from './sources'
import { useWorkshop } from './workshop'

export const useChecks = defineStore('checks', () => {
  const jobs = useJob()
  const sources = useSources()
  const workshop = useWorkshop()
  const checks = shallowRef<StoredCheck[]>([])
  /** What is being read just now. */
  const running = ref<{ name: string; done: number; total: number } | null>(null)
  let stop: AbortController | null = null

  function open(): void {
    liveQuery(() => database.checks.where('jobId').equals(jobs.job.id).sortBy('at')).subscribe(
      rows => (checks.value = rows)
    )
  }

  /** The file as workers open it, in the mode it is taken to have. */
  async function specOf(check: StoredCheck): Promise<FilesSpec> {
    return {
      kind: 'files',
      id: check.id,
      name: check.name,
      format: check.format,
      files: await fromStored(check),
      numbers: check.numbers,
      common: check.common ?? null,
      interpretation: { ...AS_FOUND, alpha: check.alpha, rate: check.rate, rateFrom: check.rate ? 'name' : null },
      findings: []
    }
  }

  /**
   * Reads the files whole and keeps what came of it; of several sources among them, the longest is taken. Resolves to
   * its id, or null when stopped.
   */
  async function add(given: readonly Given[], sourceId: string | null): Promise<string | null> {
    stop = new AbortController()
    const { signal } = stop
    const [first] = given
    if (!first) return null
    running.value = { name: first.path, done: 0, total: 0 }
    try {
      const host = await workshop.host()
      const files: FileRef[] = given.map(({ path, file }) => ({ kind: 'blob', path, size: file.size, blob: file }))
      const intake = await takeIn(files, host)
      const [found] = [...intake.found].sort((a, b) => b.facts.frames - a.facts.frames)
      if (!found) throw wrongCall(intake.findings[0]?.sentence ?? 'There is nothing among the files that Pour reads.')
      const id = crypto.randomUUID()
      const spec: FilesSpec = { ...found.spec, id }
      const tell = (done: number, total: number): void => void (running.value = { name: spec.name, done, total })
      const alone = await proveAlone(spec, { host, pool: workshop.pool, signal }, tell)
      const alpha = modeAdvised(alone.answer, found.facts.claim)
      const reference = sourceId ? jobs.job.sources[sourceId] : undefined
      const referenceSpec = reference && sources.specOf(reference)
      let against: StoredCheck['against'] = null
      if (reference && referenceSpec) {
        const referenceFacts = sources.factsOf(reference)
        const expected = expectedOutside(referenceFacts, found.facts, alpha)
        const delivered: FilesSpec = { ...spec, interpretation: { ...spec.interpretation, alpha } }
        const report = await prove(
          {
            reference: referenceSpec,
            frames: Array.from({ length: referenceFacts.frames }, (_, i) => i),
            expected,
            delivered,
            origin: sources.originOf(reference.id)
          },
          { host, pool: workshop.pool, signal },
          tell
        )
        against = { sourceId: reference.id, name: reference.name, expected, report }
      }
      const ids = await keepFiles(given)
      const stored: StoredRef[] = found.spec.files.map(file =>
        toStored(file, blob => ids[given.findIndex(g => g.file === blob)]!)
      )
      await database.checks.add({
        id,
        jobId: jobs.job.id,
        at: Date.now(),
        name: spec.name,
        format: spec.format,
        files: stored,
        numbers: spec.numbers ? [...spec.numbers] : null,
        ...(spec.common ? { common: structuredClone(spec.common) } : {}),
        bytes: found.facts.bytes,
        alpha,
        rate: found.spec.interpretation.rate,
        against,
        alone
      })
      return id
    } catch (error) {
      if (isAbort(error)) return null
      throw new Error(sentenceOf(error), { cause: error })
    } finally {
      running.value = null
    }
  }

  return {
    checks,
    running,
    open,
    specOf,
    add,
    cancel: () => stop?.abort(),
    forget: (id: string) => database.checks.delete(id)
  }
})
