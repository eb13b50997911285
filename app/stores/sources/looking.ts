/** Looking at sources: each is examined once for what it is taken to be, a few at a time, what is waited for first. */
import { until, useThrottleFn } from '@vueuse/core'
import { computed, reactive, ref, shallowReactive, watch } from 'vue'
import { watchEach } from '~/composables/computedEach'
import { database } from '~/db/database'
import { codeVersion } from '~/db/looks'
import { sayStore } from '~/db/words'
import { fewAtATime } from '~~/core/base/few'
import { isAbort } from '~~/core/base/errors'
import type { JobSource } from '~~/core/job/job'
import type { Examination } from '~~/core/judge/examine/examination'
import { Looks } from '~~/core/judge/examine/looks'
import { passingOf, type Passing } from '~~/core/run/pour/passing'
import { beneath, type SourceSpec } from '~~/core/source/source'
import type { useDesk } from '../desk'
import type { useJob } from '../job'
import type { useWorkshop } from '../workshop'
import type { Describing } from './describing'
import type { useSourceFiles } from './files'

/** Times that an examination is begun by itself. */
const MOST_TRIES = 2
/** Sources that are looked at, at once. */
const EXAMINED_AT_ONCE = 3
/** Milliseconds between two counts of the frames looked at: more often nobody reads them. */
const TOLD_EVERY = 150

export interface Around {
  jobs: ReturnType<typeof useJob>
  desk: ReturnType<typeof useDesk>
  workshop: ReturnType<typeof useWorkshop>
  files: ReturnType<typeof useSourceFiles>
  examinations: Map<string, Examination>
  /** What a few frames said of sources that are still being examined. */
  spreads: Map<string, Examination>
  describing: Describing
}

/** Examines what is open, and again whenever it is taken otherwise. */
export function useLooking({ jobs, desk, workshop, files, examinations, spreads, describing }: Around) {
  const { states, openFiles } = files
  const { examinationKey, foundFactsOf, shownIn, specOf } = describing
  const examining = fewAtATime(EXAMINED_AT_ONCE)
  /** Frames looked at, of each source being examined. */
  const looking = reactive(new Map<string, number>())
  /** The looks at each of them. */
  const looks = new Map<string, Looks>()
  /** What each of them is looked at for, and an end to it: once it is taken for something else, that says nothing. */
  const running = new Map<string, { key: string; stop: AbortController }>()
  /** How many are in line for it. */
  const coming = ref(0)

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
    const before = running.get(source.id)
    if (before && before.key !== examinationKey(source)) before.stop.abort()
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
    const stop = new AbortController()
    running.set(source.id, { key, stop })
    looking.set(source.id, 0)
    const tried = await database.tries.get(source.id)
    const tries = tried?.key === stored ? tried.tries : 0
    if (tries >= MOST_TRIES) {
      looking.delete(source.id)
      running.delete(source.id)
      unexamined.set(source.id, 'It was started twice and never finished.')
      return
    }
    unexamined.delete(source.id)
    await database.tries.put({ sourceId: source.id, key: stored, tries: tries + 1 })
    try {
      // what a scene lacks, letters for one, shows only once it is laid out
      const facts = source.scene ? await workshop.pool.run('describe', [beneath(spec)]) : foundFactsOf(source)
      const tell = useThrottleFn((done: number) => looking.set(source.id, done), TOLD_EVERY)
      const own = new Looks(spec, facts, {
        pool: workshop.pool,
        signal: stop.signal,
        onProgress: done => void tell(done),
        urgent: () => isAwaited(source.id)
      })
      looks.set(source.id, own)
      const few = await own.spread()
      if (few) spreads.set(source.id, few)
      const examination = await own.whole()
      examinations.set(source.id, examination)
      await database.examinations.put({ sourceId: source.id, key: stored, examination })
      await database.tries.delete(source.id)
    } catch (error) {
      // given up, it was no try that failed
      if (stop.signal.aborted) await database.tries.delete(source.id)
      if (!isAbort(error)) states.set(source.id, { state: 'failed', sentence: sayStore(error) })
    } finally {
      looking.delete(source.id)
      running.delete(source.id)
      looks.delete(source.id)
      spreads.delete(source.id)
    }
    // what it is taken for may have changed meanwhile
    const now = jobs.job.sources[source.id]
    const otherwise = now && examinations.has(now.id) && examinationKey(now) !== key
    if (now && (stop.signal.aborted || otherwise)) void examineNow(now)
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

  const isDone = (id: string): boolean => {
    const state = states.get(id)
    return (
      state !== undefined &&
      state.state !== 'opening' &&
      (state.state !== 'ready' || examinations.has(id) || unexamined.has(id))
    )
  }

  /** Resolves when `done` of a source that is waited for: it is looked at before others. */
  async function awaiting(id: string, done: (id: string) => boolean, signal: AbortSignal): Promise<void> {
    awaited.set(id, (awaited.get(id) ?? 0) + 1)
    examining.hurry()
    try {
      await Promise.race([
        until(computed(() => done(id))).toBe(true),
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

  /**
   * Resolves when the source is open and has been looked at, or cannot be: only then is it known how its alpha is to be
   * taken.
   */
  const settled = (id: string, signal: AbortSignal): Promise<void> => awaiting(id, isDone, signal)

  /** Resolves when enough of it has been looked at to begin on, for whoever holds what is made against the whole. */
  const begun = (id: string, signal: AbortSignal): Promise<void> =>
    awaiting(id, each => isDone(each) || spreads.has(each), signal)

  /**
   * What a pour of `poured` looks at for the examination of its source, which waits meanwhile; null where it needs no
   * looks, or cannot take them. `letGo` ends it.
   */
  function lookWhilePoured(id: string, poured: SourceSpec): { passing: Passing; letGo: () => void } | null {
    const own = looks.get(id)
    const passing = own && passingOf(poured, own)
    if (!passing) return null
    // it waits for as long as the pour takes: a page that is closed meanwhile is no examination that failed
    void database.tries.delete(id)
    return { passing, letGo: own.hold() }
  }

  return { looking, coming, unexamined, lookAgain, settled, begun, lookWhilePoured }
}
