/** Changing the preparation of a source: one undoable edit, and nothing that could not be read back. */
import { z } from 'zod'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { stepKindById } from '~~/core/prepare/kinds'
import { sayIssue } from '~~/core/base/say-issue'
import { newStep, Step } from '~~/core/prepare/preparation'
import { mendingStep } from '~~/core/judge/examine/standing'
import type { Finding } from '~~/core/source/source'

const Steps = z.array(Step).max(200)

export interface StepEdits {
  /**
   * Replaces the steps by what `change` makes of those that stand. Settings out of bounds are refused with a sentence
   * at the foot.
   */
  edit(sourceId: string, label: string, change: (steps: Step[]) => unknown[]): Promise<void>
  /** A new step at the end. */
  add(sourceId: string, label: string, kind: string, settings: Step['settings']): Promise<void>
  /**
   * A new step at the end that mends a finding, one of its ways where it has two. Where there is one, it is turned on.
   */
  mend(sourceId: string, finding: Finding, chosen?: Finding['mend']): Promise<void>
  /** Takes the step away that mends a finding. */
  unmend(sourceId: string, finding: Finding): Promise<void>
}

export function useSteps(): StepEdits {
  const jobs = useJob()
  const desk = useDesk()
  async function edit(sourceId: string, label: string, change: (steps: Step[]) => unknown[]): Promise<void> {
    const source = jobs.job.sources[sourceId]
    if (!source) return
    const next = Steps.safeParse(change(source.steps))
    if (!next.success) {
      desk.message = `Not done. ${sayIssue(next.error.issues[0]!)}`
      return
    }
    await jobs.edit(label, draft => void (draft.sources[sourceId]!.steps = next.data))
  }
  return {
    edit,
    add: (sourceId, label, kind, settings) =>
      edit(sourceId, label, steps => [...steps, newStep(crypto.randomUUID(), stepKindById(kind), settings)]),
    async mend(sourceId, finding, mend = finding.mend) {
      if (mend?.id !== 'step') return
      await edit(sourceId, mend.label, steps => {
        const there = mendingStep(finding, steps)
        // what was set by hand stays, unless one of two ways is chosen
        const settings = finding.orElse ? mend.settings : {}
        if (there)
          return steps.map(step =>
            step === there ? { ...step, on: true, settings: { ...step.settings, ...settings } } : step
          )
        const step = newStep(crypto.randomUUID(), stepKindById(mend.kind), mend.settings)
        return [...steps, { ...step, mends: finding.id }]
      })
    },
    unmend: (sourceId, finding) =>
      edit(sourceId, `Take back: ${finding.mend?.label ?? ''}`, steps => {
        const there = mendingStep(finding, steps)
        return steps.filter(step => step !== there)
      })
  }
}
