/** Sources of the job as they can be worked with: their files, what was found in them, and bringing new ones in. */
import { sameJson } from '~~/core/base/canonical'
import { sceneFile, sceneSpec } from '~~/core/draw/scene/as-file'
import type { Scene } from '~~/core/draw/scene/scene'
import { until, useThrottleFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowReactive, watch } from 'vue'
import { watchEach } from '~/composables/computedEach'
import { codeVersion, keepLook, keptLook } from '~/db/looks'
import { database, type StoredRef } from '~/db/database'
import { sayStore } from '~/db/words'
import { fromStored, keepFiles, NeedsPermission, toStored, type Given } from '~/db/files'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import type { Examination } from '~~/core/judge/examine/examination'
import { examineSource } from '~~/core/judge/examine/examine-source'
import { modeAdvised } from '~~/core/judge/examine/mode'
import { standingOf as findingsStanding, type Standing } from '~~/core/judge/examine/standing'
import type { Origin } from '~~/core/judge/ledger/ledger-of'
import type { FileRef } from '~~/core/base/files/file'
import { takeInBy } from '~~/core/run/intake/intake'
import { lookingThrough } from '~~/core/run/intake/through-pool'
import { undecided } from '~~/core/job/damaged'
import type { JobSource } from '~~/core/job/job'
import { shownIn as sourcesShown, shownOf, withShown } from '~~/core/job/shown'
import type { AlphaMode } from '~~/core/frame/frame'
import type { NamedSpan } from '~~/core/job/span-list'
import { stepKindById } from '~~/core/prepare/kinds'
import { newStep, othersOf, preparedFacts, type Step } from '~~/core/prepare/preparation'
import { fewAtATime } from '~~/core/base/few'
import { interpretedFacts } from '~~/core/open/open'
import {
  beneath,
  keepsCodes,
  type Finding,
  type SourceFacts,
  type SourceSpec,
  type FilesSpec,
  preparedSpec,
  type SceneSpec
} from '~~/core/source/source'
import { useDesk } from './desk'
import { useJob } from './job'
import { useWorkshop } from './workshop'

export type SourceState =
  | { state: 'opening' }
  | { state: 'locked'; handles: FileSystemFileHandle[]; sentence: string }
  | { state: 'failed'; sentence: string }
  | { state: 'ready'; files: FileRef[]; format: string; numbers: number[] | null }

/** Times that an examination is begun by itself. */
const MOST_TRIES = 2

/** Wait for the hand to rest on a setting before a prepared clip is gone through. */
const REST = 1500

/** Findings of a clip change with gaps held or closed, and with nothing else of its interpretation. */
const ownKey = (source: JobSource): string =>
  sameJson([
    source.interpretation.holdGaps,
    ...(source.interpretation.damaged ? [source.interpretation.damaged] : []),
    source.interpretation.rate,
    ...(source.interpretation.eachPicture ? ['each'] : []),
    ...(source.interpretation.layer === undefined ? [] : ['layer', source.interpretation.layer]),
    ...(source.scene ? [sceneFile(source.scene).stamp] : [])
  ])

/** Files of a source: of a scene, those that its description makes. */
const filesOf = (source: JobSource, files: readonly FileRef[]): readonly FileRef[] =>
  source.scene ? [sceneFile(source.scene).file] : files

/** Sources whose files are sought, and that are looked at, at once. */
const OPENED_AT_ONCE = 4
const EXAMINED_AT_ONCE = 3
/** Milliseconds between two counts of the frames looked at: more often nobody reads them. */
const TOLD_EVERY = 150

export const useSources = defineStore('sources', () => {
  const jobs = useJob()
  const desk = useDesk()
  const workshop = useWorkshop()
  const states = shallowReactive(new Map<string, SourceState>())
  const examinations = shallowReactive(new Map<string, Examination>())
  const opening = fewAtATime(OPENED_AT_ONCE)
  const examining = fewAtATime(EXAMINED_AT_ONCE)
  /** Frames looked at, of each source being examined. */
  const looking = reactive(new Map<string, number>())
  /** How many are in line for it. */
  const coming = ref(0)
  const intake = ref<{ done: number; total: number } | null>(null)
  /** What the last bringing in left out, and sources whose rate must be asked. */
  const left = ref<Finding[]>([])
  const asking = ref<string[]>([])

  /** Mode frames are taken to have: what was decided by hand, else what the examination advises. */
  function modeOf(source: JobSource): AlphaMode | null {
    const examination = examinations.get(source.id)
    return source.interpretation.alpha ?? (examination ? modeAdvised(examination.alpha, source.facts.claim) : null)
  }

  /** The same of a scene changes with the sources that it shows as well. */
  function examinationKey(source: JobSource): string {
    const shown = source.scene ? shownKey(source.scene) : []
    return shown.length ? sameJson([ownKey(source), ...shown]) : ownKey(source)
  }

  /** How a source came to be taken as it is. */
  function originOf(id: string): Origin {
    return { answer: examinations.get(id)?.alpha ?? null, byHand: !!jobs.job.sources[id]?.interpretation.alpha }
  }

  /** What the source is before its preparation. */
  function foundFactsOf(source: JobSource): SourceFacts {
    const state = states.get(source.id)
    if (state?.state !== 'ready')
      return {
        ...source.facts,
        // noted when it came; whether it still does is known once it is open
        stops: undefined,
        name: source.name,
        rate: source.interpretation.rate ?? source.facts.rate
      }
    const facts = interpretedFacts(source.facts, {
      kind: 'files',
      name: source.name,
      format: state.format,
      files: filesOf(source, state.files),
      numbers: state.numbers,
      interpretation: source.interpretation,
      findings: source.findings
    })
    // what is known without looking comes first, in its own words
    const stops = facts.stops ?? undecided(source, examinations.get(source.id)?.findings ?? [])
    return stops ? { ...facts, stops } : facts
  }

  /** What the source is once prepared: what is poured. */
  const factsOf = (source: JobSource): SourceFacts => preparedFacts(foundFactsOf(source), source.steps)

  /**
   * The source as workers open it; null while its files are not at hand. `raw` leaves the stored samples uninterpreted.
   */
  function specOf(
    source: JobSource,
    { raw = false, steps = raw ? [] : source.steps }: { raw?: boolean; steps?: readonly Step[] } = {}
  ): SourceSpec | null {
    const state = states.get(source.id)
    if (state?.state !== 'ready') return null
    const alpha = raw ? source.interpretation.alpha : modeOf(source)
    const found: FilesSpec = {
      kind: 'files',
      // a scene is another with every edit
      id: source.scene ? `${source.id} ${sceneFile(source.scene).stamp}` : source.id,
      name: source.name,
      format: state.format,
      files: filesOf(source, state.files),
      numbers: state.numbers,
      common: state.numbers ? { bitDepth: source.facts.bitDepth, claim: source.facts.claim } : null,
      interpretation: {
        ...source.interpretation,
        rate: raw ? null : source.interpretation.rate,
        rateFrom: raw ? null : source.interpretation.rateFrom,
        alpha
      },
      findings: raw ? [] : source.findings
    }
    const base = source.scene ? showing(found, source.scene, source.id) : found
    return base && preparedSpec(base, steps, othersAt(source, steps))
  }

  /** Ids of the sources that a scene shows, and of those that they show. */
  const shownIn = (scene: Scene): Set<string> => sourcesShown(jobs.job.sources, scene)

  /** A scene of the source `own` as workers open it; null while what it shows is not at hand, but may be. */
  function showing(of: FilesSpec, scene: Scene, own: string | null): FilesSpec | SceneSpec | null {
    const others: Record<string, SourceSpec> = {}
    for (const [name, other] of shownOf(jobs.job.sources, scene, own)) {
      const spec = specOf(other)
      if (spec) others[name] = spec
      else if (states.get(other.id)?.state !== 'failed') return null
    }
    return withShown(of, others)
  }

  /** A scene that is no source of the job, one of its elements alone for one, as workers open it. */
  const sceneAsSpec = (scene: Scene): FilesSpec | SceneSpec | null => showing(sceneSpec(scene), scene, null)

  /** Changes when a source that a scene shows does: what was made of the scene is then out of date. */
  function shownKey(scene: Scene): string[] {
    return [...shownIn(scene)].flatMap(id => {
      const other = jobs.job.sources[id]
      return other ? [id, ownKey(other), sameJson([modeOf(other), other.steps.filter(({ on }) => on)])] : []
    })
  }

  /** The sources that steps look at; they are taken before their own preparation, so that none waits for itself. */
  function othersAt(source: JobSource, steps: readonly Step[]): Record<string, SourceSpec> {
    const others: Record<string, SourceSpec> = {}
    for (const id of othersOf(steps)) {
      const other = jobs.job.sources[id]
      const spec = other && other.id !== source.id ? specOf(other, { steps: [] }) : null
      if (spec) others[id] = spec
    }
    return others
  }

  async function openFiles(id: string): Promise<void> {
    states.set(id, { state: 'opening' })
    await opening.turn(() => openNow(id))
  }

  async function openNow(id: string): Promise<void> {
    const scene = jobs.job.sources[id]?.scene
    if (scene) {
      states.set(id, { state: 'ready', files: [sceneFile(scene).file], format: 'scene', numbers: null })
      return
    }
    try {
      const stored = await database.sources.get(id)
      if (!stored) throw new Error('This source is no longer in the browser. Remove it and bring it in again.')
      states.set(id, {
        state: 'ready',
        files: await fromStored(stored),
        format: stored.format,
        numbers: stored.numbers
      })
    } catch (error) {
      if (error instanceof NeedsPermission)
        states.set(id, { state: 'locked', handles: error.handles, sentence: error.message })
      else states.set(id, { state: 'failed', sentence: sentenceOf(error) })
    }
  }

  async function unlock(id: string): Promise<void> {
    const state = states.get(id)
    if (state?.state !== 'locked') return
    for (const handle of state.handles)
      await (
        handle as FileSystemFileHandle & { requestPermission?(o: { mode: 'read' }): Promise<string> }
      ).requestPermission?.({ mode: 'read' })
    await openFiles(id)
  }

  /** Sources whose examination is not begun again by itself, with the reason. */
  const unexamined = shallowReactive(new Map<string, string>())

  /**
   * Looks at a source again, by hand: the count of tries begins anew, so a page closed meanwhile is no third failure.
   */
  async function lookAgain(id: string): Promise<void> {
    await database.tries.delete(id)
    unexamined.delete(id)
    await openFiles(id)
    const source = jobs.job.sources[id]
    if (source && states.get(id)?.state === 'ready') await examineNow(source)
  }

  /** Sources that a pour waits for. */
  const awaited = new Map<string, number>()
  const isAwaited = (id: string): boolean => desk.lookedAt === id || awaited.has(id)
  watch(() => desk.lookedAt, examining.hurry)

  /** Looks at a source once it is its turn: with all at once, none would come to an end before the last had begun. */
  async function examineNow(source: JobSource): Promise<void> {
    coming.value++
    await examining.turn(
      async () => {
        coming.value--
        const now = jobs.job.sources[source.id]
        if (now) await examine(now)
      },
      () => isAwaited(source.id)
    )
  }

  async function examine(source: JobSource): Promise<void> {
    const key = examinationKey(source)
    const stored = `${codeVersion()} ${key}`
    const kept = await database.examinations.get(source.id)
    if (kept?.key === stored) {
      examinations.set(source.id, kept.examination)
      return
    }
    const spec = specOf(source, { raw: true })
    if (!spec || looking.has(source.id)) return
    looking.set(source.id, 0)
    const tried = await database.tries.get(source.id)
    const tries = tried?.key === stored ? tried.tries : 0
    if (tries >= MOST_TRIES) {
      looking.delete(source.id)
      unexamined.set(source.id, 'It was started twice and never finished.')
      return
    }
    unexamined.delete(source.id)
    await database.tries.put({ sourceId: source.id, key: stored, tries: tries + 1 })
    try {
      // what a scene lacks, letters for one, shows only once it is laid out
      const facts = source.scene ? await workshop.pool.run('describe', [beneath(spec)]) : foundFactsOf(source)
      const tell = useThrottleFn((done: number) => looking.set(source.id, done), TOLD_EVERY)
      const examination = await examineSource(spec, facts, {
        pool: workshop.pool,
        onProgress: done => void tell(done),
        urgent: () => isAwaited(source.id)
      })
      examinations.set(source.id, examination)
      await database.examinations.put({ sourceId: source.id, key: stored, examination })
      await database.tries.delete(source.id)
    } catch (error) {
      if (!isAbort(error)) states.set(source.id, { state: 'failed', sentence: sayStore(error) })
    } finally {
      looking.delete(source.id)
    }
    // what it is taken for may have changed meanwhile
    const now = jobs.job.sources[source.id]
    if (now && examinations.has(now.id) && examinationKey(now) !== key) void examineNow(now)
  }

  /** What was found in prepared clips, by source, and for which preparation. */
  const preparedFindings = shallowReactive(new Map<string, { key: string; findings: readonly Finding[] }>())
  const rereading = new Map<string, { key: string; stop: AbortController }>()
  const preparedKey = (source: JobSource): string =>
    source.steps.some(step => step.on) && examinations.has(source.id)
      ? sameJson([examinationKey(source), modeOf(source), source.steps.filter(step => step.on)])
      : ''

  /** Reads the findings of a prepared clip again once the hand has rested, and when the workers are free. */
  async function readAgain(source: JobSource, key: string): Promise<void> {
    rereading.get(source.id)?.stop.abort()
    rereading.delete(source.id)
    if (!key || preparedFindings.get(source.id)?.key === key) return
    const stop = new AbortController()
    rereading.set(source.id, { key, stop })
    const kept = await keptLook<Finding[]>('findings', `${source.id} ${key}`)
    if (stop.signal.aborted) return
    if (kept) {
      preparedFindings.set(source.id, { key, findings: kept })
      return
    }
    await new Promise(resolve => setTimeout(resolve, REST))
    const spec = specOf(source)
    if (!spec || stop.signal.aborted) return
    const ahead = Math.max(1, workshop.pool.size - 1)
    try {
      const { findings } = await examineSource(spec, factsOf(source), {
        pool: workshop.pool,
        signal: stop.signal,
        ahead
      })
      preparedFindings.set(source.id, { key, findings })
      await keepLook('findings', `${source.id} ${key}`, JSON.parse(JSON.stringify(findings)))
    } catch (error) {
      // a frame that cannot be prepared is told by the viewer and by the pour; findings stay those of the source as
      // found
      if (!isAbort(error)) preparedFindings.delete(source.id)
    }
  }

  watchEach(
    () => jobs.job.sourceOrder,
    id => {
      const source = jobs.job.sources[id]
      return source && states.get(id)?.state === 'ready' ? preparedKey(source) : ''
    },
    (id, key) => {
      const source = jobs.job.sources[id]
      if (source && (rereading.get(id)?.key ?? '') !== key) void readAgain(source, key)
    }
  )

  /** Findings of a source as they stand: mended, gone or brought by its preparation. */
  function standingOf(source: JobSource): Standing[] {
    const found = examinations.get(source.id)?.findings ?? foundFactsOf(source).findings
    const prepared = preparedFindings.get(source.id)
    const now = prepared && prepared.key === preparedKey(source) ? prepared.findings : null
    return findingsStanding(found, now, {
      steps: source.steps,
      holdGaps: source.interpretation.holdGaps,
      eachPicture: source.interpretation.eachPicture,
      damaged: source.interpretation.damaged,
      codesKept: keepsCodes(source.interpretation, foundFactsOf(source).tags),
      rate: source.interpretation.rate
    })
  }

  watchEach(
    () => jobs.job.sourceOrder,
    id => {
      const source = jobs.job.sources[id]
      if (!source) return ''
      // a scene waits for what it shows
      return [id, ...(source.scene ? shownIn(source.scene) : [])]
        .map(each => `${each} ${states.get(each)?.state}`)
        .concat(examinationKey(source))
        .join(' ')
    },
    id => {
      const source = jobs.job.sources[id]
      const state = states.get(id)
      if (source && !state) void openFiles(id)
      else if (source && state?.state === 'ready') void examineNow(source)
    }
  )

  /**
   * Resolves when the source is open and has been looked at, or cannot be: only then is it known how its alpha is to be
   * taken.
   */
  async function settled(id: string, signal: AbortSignal): Promise<void> {
    const done = computed(() => {
      const state = states.get(id)
      return (
        state !== undefined &&
        state.state !== 'opening' &&
        (state.state !== 'ready' || examinations.has(id) || unexamined.has(id))
      )
    })
    awaited.set(id, (awaited.get(id) ?? 0) + 1)
    examining.hurry()
    try {
      await Promise.race([
        until(done).toBe(true),
        new Promise((_, reject) =>
          signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true })
        )
      ])
    } finally {
      const others = awaited.get(id)! - 1
      if (others) awaited.set(id, others)
      else awaited.delete(id)
    }
  }

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

  /**
   * Takes another layer of the files: what they say of themselves is read again, as it may differ from layer to layer.
   */
  async function takeLayer(source: JobSource, layer: string): Promise<void> {
    const spec = specOf(source, { raw: true, steps: [] })
    if (spec?.kind !== 'files') return
    const described = await workshop.pool.run('describe', [
      { ...spec, common: null, findings: [], interpretation: { ...spec.interpretation, alpha: null, layer } }
    ])
    await jobs.edit('Take another layer', draft => {
      const { rate, rateFrom } = source.facts
      Object.assign(draft.sources[source.id]!, { facts: { ...described, rate, rateFrom } })
      draft.sources[source.id]!.interpretation.layer = layer
    })
  }

  const counts = computed(() => ({ sources: jobs.sources.length, looking: looking.size }))

  return {
    states,
    examinations,
    looking,
    coming,
    unexamined,
    lookAgain,
    intake,
    left,
    asking,
    counts,
    modeOf,
    originOf,
    standingOf,
    factsOf,
    foundFactsOf,
    specOf,
    shownIn,
    shownKey,
    sceneAsSpec,
    settled,
    unlock,
    bringIn,
    takeLayer,
    stopBringing: () => bringing?.abort(),
    keepSpans,
    reopen: openFiles
  }
})
