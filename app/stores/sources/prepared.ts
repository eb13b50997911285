/** Findings of sources as they stand once prepared: mended, gone, or brought by the preparation. */
import { shallowReactive } from 'vue'
import { watchEach } from '~/composables/computedEach'
import { keepLook, keptLook } from '~/db/looks'
import { sameJson } from '~~/core/base/canonical'
import { isAbort } from '~~/core/base/errors'
import type { JobSource } from '~~/core/job/job'
import { examineSource } from '~~/core/judge/examine/examine-source'
import { standingOf as findingsStanding, type FindingState } from '~~/core/judge/examine/standing'
import { keepsCodes, type Finding } from '~~/core/source/source'
import type { Around } from './looking'

/** Wait for the hand to rest on a setting before a prepared clip is gone through. */
const REST = 1500

/** Reads findings again as preparations change. */
export function usePreparedFindings({
  jobs,
  workshop,
  files: { states },
  examinations,
  describing
}: Omit<Around, 'desk'>) {
  const { examinationKey, factsOf, foundFactsOf, modeOf, specOf } = describing

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
  function standingOf(source: JobSource): FindingState[] {
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

  return { standingOf }
}
