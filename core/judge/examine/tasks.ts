/** What an examination counts in a frame. */
import { withDepth } from '../../frame/depth'
import type { SourceSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { onFrames } from '../../source/at-hand'
import type { TasksOf } from '../../base/pool'
import type { ExaminedShare } from './examination'
import { lookAtStored, type AlphaLook } from './look'

export const examineTasks = {
  /** The stored samples, judged under no interpretation. */
  look: (context: WorkContext, spec: SourceSpec, index: number): Promise<AlphaLook> =>
    onFrames(context, async frames => lookAtStored((await frames.of(spec, index)).frame, context.host.kernels)),

  /** Pixels of one frame by alpha, 256 bins. */
  alphaLevels: (context: WorkContext, spec: SourceSpec, index: number): Promise<number[]> =>
    onFrames(context, async frames => {
      const { kernels } = context.host
      const deep = frames.made(withDepth((await frames.seen(spec, index)).frame, 16, kernels))
      return [...kernels.look(deep.frame.samples as Uint16Array).histogram]
    }),

  /** Shares of clear, partial and solid pixels. */
  coverage: (context: WorkContext, spec: SourceSpec, index: number): Promise<ExaminedShare> =>
    onFrames(context, async frames => {
      const { kernels } = context.host
      const { frame } = frames.made(withDepth((await frames.of(spec, index)).frame, 16, kernels))
      const pixels = frame.width * frame.height
      const { clear, solid } = kernels.look(frame.samples as Uint16Array)
      return { clear: clear / pixels, partial: (pixels - clear - solid) / pixels, solid: solid / pixels }
    })
}

export type ExamineTasks = TasksOf<typeof examineTasks>
