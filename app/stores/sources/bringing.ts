/** Bringing sources into the job: from files, as spans of others, from another layer of the same files. */
import { ref } from 'vue'
import { database, type StoredRef } from '~/db/database'
import { keepFiles, toStored, type Given } from '~/db/files'
import { sayStore } from '~/db/words'
import { isAbort } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import type { Scene } from '~~/core/draw/scene/scene'
import type { JobSource } from '~~/core/job/job'
import type { NamedSpan } from '~~/core/job/span-list'
import { stepKindById } from '~~/core/prepare/kinds'
import { newStep } from '~~/core/prepare/preparation'
import { takeInBy } from '~~/core/run/intake/intake'
import { lookingThrough } from '~~/core/run/intake/through-pool'
import type { Finding, Interpretation, SourceFacts } from '~~/core/source/source'
import type { Around } from './looking'

/** Each way is one edit of the job. */
export function useBringing({
  jobs,
  workshop,
  describing: { specOf }
}: Pick<Around, 'jobs' | 'workshop' | 'describing'>) {
  const intake = ref<{ done: number; total: number } | null>(null)
  /** What the last bringing in left out, and sources whose rate must be asked. */
  const left = ref<Finding[]>([])
  const asking = ref<string[]>([])

  let bringing: AbortController | null = null

  /**
   * Takes files in, keeps them, and adds what they hold to the job. With `ask`, rates that nothing says are asked for.
   */
  async function bringIn(given: readonly Given[], { label = 'Bring in', ask = true } = {}): Promise<string[]> {
    if (given.length === 0) return []
    left.value = []
    const stop = new AbortController()
    bringing = stop
    intake.value = { done: 0, total: given.length }
    try {
      const files: FileRef[] = given.map(({ path, file }) => ({ kind: 'blob', path, size: file.size, blob: file }))
      const result = await takeInBy(
        lookingThrough(workshop.pool, stop.signal),
        files,
        (done, total) => (intake.value = { done, total }),
        stop.signal
      )
      left.value = result.findings
      if (result.found.length === 0) return []
      // only what sources use is kept
      const used = new Set<Blob>()
      const collect = (ref: FileRef): void =>
        void (ref.kind === 'blob' ? used.add(ref.blob) : ref.kind === 'zipped' && collect(ref.archive))
      result.found.forEach(found => found.spec.files.forEach(collect))
      const kept = given.filter(g => used.has(g.file))
      const ids = await keepFiles(kept)
      const idByBlob = new Map(kept.map(({ file }, i) => [file, ids[i]!]))
      const idOf = (blob: Blob): string => idByBlob.get(blob)!
      const added = result.found.map(found => {
        const id = crypto.randomUUID()
        const stored: StoredRef[] = found.spec.files.map(file => toStored(file, idOf))
        return {
          found,
          id,
          row: {
            id,
            format: found.spec.format,
            files: stored,
            numbers: found.spec.numbers ? [...found.spec.numbers] : null
          }
        }
      })
      // of a scene its description is kept in the job, where it is edited
      const scenes = new Map<string, Scene>()
      for (const { found, id } of added)
        if (found.spec.format === 'scene')
          scenes.set(id, await workshop.pool.run('readSceneFile', [found.spec.files[0]!]))
      await database.sources.bulkAdd(added.filter(a => !scenes.has(a.id)).map(a => a.row))
      await jobs.edit(label, draft => {
        for (const { found, id } of added) {
          draft.sources[id] = {
            id,
            name: found.spec.name,
            facts: {
              ...found.facts,
              // those of the description come first, and are kept apart
              findings: found.facts.findings.slice(found.spec.findings.length),
              rate: null,
              rateFrom: 'unknown'
            },
            findings: [...found.spec.findings],
            interpretation: found.spec.interpretation,
            marks: null,
            steps: [],
            ...(scenes.has(id) ? { scene: scenes.get(id)! } : {})
          }
          // a rate the file itself carries stays with its facts
          if (found.facts.rateFrom === 'file')
            Object.assign(draft.sources[id], {
              facts: { ...draft.sources[id].facts, rate: found.facts.rate, rateFrom: 'file' }
            })
          draft.sourceOrder.push(id)
        }
      })
      if (ask) asking.value = added.filter(a => a.found.facts.frames > 1 && !a.found.facts.rate).map(a => a.id)
      return added.map(({ id }) => id)
    } catch (error) {
      if (isAbort(error)) return []
      left.value = [...left.value, { id: 'intake-failed', severity: 'fault', frames: [], sentence: sayStore(error) }]
      return []
    } finally {
      intake.value = null
      bringing = null
    }
  }

  /**
   * Keeps ranges of a source as spans: sources of their own over the same files, with the same preparation and the
   * range at its end, so that every outlet pours them as it pours any other. One edit, whatever their number.
   */
  async function keepSpans(of: JobSource, spans: readonly NamedSpan[]): Promise<void> {
    const row = of.scene ? null : await database.sources.get(of.id)
    if (!row && !of.scene) throw new Error('The files of this source are no longer in the browser.')
    const kept = spans.map(span => ({ ...span, id: crypto.randomUUID() }))
    if (row) await database.sources.bulkAdd(kept.map(({ id }) => ({ ...row, id })))
    await jobs.edit(kept.length === 1 ? 'Keep a span' : `Keep ${kept.length} spans`, draft => {
      for (const { id, name, from, to } of kept) {
        const steps = [
          ...draft.sources[of.id]!.steps,
          newStep(crypto.randomUUID(), stepKindById('range'), { from, to })
        ]
        draft.sources[id] = { ...draft.sources[of.id]!, id, name: `${of.name} ${name}`, span: name, marks: null, steps }
      }
      draft.sourceOrder.splice(draft.sourceOrder.indexOf(of.id) + 1, 0, ...kept.map(({ id }) => id))
    })
  }

  /** Width and height of a film's picture before it is taken apart; null where its files are not at hand. */
  async function wholeSizeOf(source: JobSource): Promise<Pick<SourceFacts, 'width' | 'height'> | null> {
    const spec = specOf(source, { raw: true, steps: [] })
    if (spec?.kind !== 'files') return null
    const whole = { ...spec, findings: [], interpretation: { ...spec.interpretation, alpha: null, stacked: null } }
    return workshop.pool.run('describe', [whole], { priority: 'now' })
  }

  /**
   * Takes another layer of the files, or their picture as halves: what they say of themselves is read again, as it may
   * differ from one to the other.
   */
  async function takeFrom(
    source: JobSource,
    label: string,
    change: Pick<Interpretation, 'layer'> | Pick<Interpretation, 'stacked'>
  ): Promise<void> {
    const spec = specOf(source, { raw: true, steps: [] })
    if (spec?.kind !== 'files') return
    const interpretation = { ...spec.interpretation, alpha: null, ...change }
    const taken = { ...spec, common: null, findings: [], interpretation }
    const described = await workshop.pool.run('describe', [taken], { priority: 'now' })
    await jobs.edit(label, draft => {
      // what was asked for stays; what the files say may differ from layer to layer
      const { rate, rateFrom } = source.facts
      const kept = rateFrom === 'file' ? {} : { rate, rateFrom }
      Object.assign(draft.sources[source.id]!, { facts: { ...described, ...kept } })
      Object.assign(draft.sources[source.id]!.interpretation, 'stacked' in change ? { ...change, alpha: null } : change)
    })
  }

  return { intake, left, asking, bringIn, keepSpans, takeFrom, wholeSizeOf, stopBringing: () => bringing?.abort() }
}
