/** What the ledger counts in a frame of a source. */
import type { Form } from '../../media/formats/form'
import { stepKindById } from '../../prepare/kinds'
import type { SourceSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { onFrames } from '../../source/at-hand'
import type { TasksOf } from '../../base/pool'
import { recipeFigures, stepFigures, stillSteps, type RecipeFigures, type StepFigures } from './measure'

export const ledgerTasks = {
  /** What each still step makes of a frame of the source, in their order; see `measure.ts`. */
  stepFigures: (context: WorkContext, spec: SourceSpec, index: number): Promise<StepFigures[]> =>
    onFrames(context, async frames => {
      if (spec.kind !== 'prepared') return []
      const steps = stillSteps(spec.steps)
      const figures: StepFigures[] = []
      let before = await frames.of(spec.of, index)
      for (const [n, step] of steps.entries()) {
        const made = { ...spec, steps: steps.slice(0, n + 1) }
        const after = await frames.of(made, index)
        figures.push(stepFigures(before.frame, after.frame, stepKindById(step.kind), context.host.kernels))
        before.end()
        before = after
      }
      return figures
    }),

  recipeFigures: (context: WorkContext, spec: SourceSpec, index: number, form: Form): Promise<RecipeFigures> =>
    onFrames(context, async frames => recipeFigures((await frames.of(spec, index)).frame, form, context.host.kernels))
}

export type LedgerTasks = TasksOf<typeof ledgerTasks>
