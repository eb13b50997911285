/** What the proof place shows: a pour of the job, or a file from outside, brought to one shape. */
import { withOwnSteps } from '~~/core/job/outlet/own-steps'
import { computed, ref, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { resultBlobs, type StoredCheck, type StoredResult } from '~/db/database'
import { useChecks } from '~/stores/checks'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { sentenceOf } from '~~/core/base/errors'
import type { Form } from '~~/core/media/formats/form'
import { formatById } from '~~/core/open/registry'
import type { AlphaMode } from '~~/core/frame/frame'
import { splitCell } from '~~/core/job/job'
import type { AloneReport } from '~~/core/judge/proof/alone'
import { playsAsked } from '~~/core/judge/proof/expectation'
import type { ProofReport } from '~~/core/judge/proof/report'
import { storedFacts } from '~~/core/open/stored'
import type { SourceFacts, SourceSpec, FilesSpec } from '~~/core/source/source'

export interface Exhibit {
  id: string
  /** "moth → QuickTime PNG", or the name of a file from outside. */
  name: string
  fileName: string
  format: string
  bytes: number
  due: AlphaMode
  report: ProofReport | null
  alone: AloneReport | null
  /** The source it is held against, and which of its frames are due. */
  reference: SourceSpec | null
  frames: readonly number[] | null
  form: Form | null
  /** How often it should play, where that was asked; and where outlet and source stand. */
  plays: number | null
  stale: boolean
  result: StoredResult | null
  check: StoredCheck | null
}

/** The exhibit's bytes, opened. */
export interface OpenedExhibit {
  id: string
  spec: FilesSpec
  facts: SourceFacts
  /** The first file, which is the whole of a film. */
  file: Blob | null
}

export interface Exhibits {
  pours: ComputedRef<readonly { id: string; name: string }[]>
  outside: ComputedRef<readonly { id: string; name: string }[]>
  exhibit: ComputedRef<Exhibit | null>
  opened: Ref<OpenedExhibit | null>
  failure: Ref<string | null>
}

/** Follows `wanted`, the id of a result or check; without one, the newest pour is shown. */
export function useExhibit(wanted: () => string | null): Exhibits {
  const jobs = useJob()
  const pours = usePours()
  const sources = useSources()
  const workshop = useWorkshop()
  const checks = useChecks()
  const proven = computed(() =>
    pours.results.filter(r => r.report && !pours.gone.has(r.id) && jobs.job.sources[splitCell(r.cell).sourceId])
  )

  function nameOf(r: StoredResult): string {
    const { sourceId, outletId } = splitCell(r.cell)
    return (
      `${jobs.job.sources[sourceId]?.name ?? 'removed'} → ` +
      `${jobs.job.outlets[outletId]?.name ?? r.plan.outlet.name}`
    )
  }

  function ofResult(result: StoredResult): Exhibit {
    const source = jobs.job.sources[splitCell(result.cell).sourceId]!
    const own = sources.specOf(source)
    return {
      id: result.id,
      name: nameOf(result),
      fileName: result.fileName,
      format: result.plan.outlet.format,
      bytes: result.bytes,
      due: result.plan.due.alpha,
      report: result.report,
      alone: null,
      reference: own && withOwnSteps(own, result.plan.steps),
      frames: result.plan.frames,
      form: result.plan.due,
      plays: playsAsked(result.plan),
      stale: pours.outOfDate(result),
      result,
      check: null
    }
  }

  function ofCheck(check: StoredCheck): Exhibit {
    const source = check.against ? jobs.job.sources[check.against.sourceId] : undefined
    return {
      id: check.id,
      name: check.name,
      fileName: check.name,
      format: check.format,
      bytes: check.bytes,
      due: check.alpha,
      report: check.against?.report ?? null,
      alone: check.alone,
      reference: source ? sources.specOf(source) : null,
      frames: check.against ? Array.from({ length: check.against.expected.frames }, (_, i) => i) : null,
      form: check.against?.expected ?? null,
      plays: null,
      stale: false,
      result: null,
      check
    }
  }

  const exhibit = computed<Exhibit | null>(() => {
    const id = wanted()
    const check = checks.checks.find(c => c.id === id)
    if (check) return ofCheck(check)
    const result = proven.value.find(r => r.id === id) ?? proven.value.at(-1)
    if (result) return ofResult(result)
    const last = checks.checks.at(-1)
    return last ? ofCheck(last) : null
  })

  const opened = shallowRef<OpenedExhibit | null>(null)
  const failure = ref<string | null>(null)
  watch(
    () => exhibit.value?.id,
    async () => {
      const now = exhibit.value
      opened.value = null
      failure.value = null
      if (!now) return
      try {
        const spec = now.result ? await pours.deliveredAsKnown(now.result) : await checks.specOf(now.check!)
        const facts = await storedFacts(spec, await workshop.host())
        const [first] = spec.files
        const file =
          formatById(now.format).delivers === 'film'
            ? now.result
              ? (await resultBlobs(now.result))[0]!.blob
              : first?.kind === 'blob'
                ? first.blob
                : null
            : null
        if (exhibit.value?.id === now.id) opened.value = { id: now.id, spec, facts, file }
      } catch (error) {
        failure.value = sentenceOf(error)
      }
    },
    { immediate: true }
  )

  return {
    pours: computed(() => proven.value.map(r => ({ id: r.id, name: nameOf(r) }))),
    outside: computed(() => checks.checks.map(c => ({ id: c.id, name: c.name }))),
    exhibit,
    opened,
    failure
  }
}
