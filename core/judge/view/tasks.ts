/** Pixels for the screen, made of frames. */
import { foundAndDue, type FramePair } from '../proof/tasks'
import type { SourceSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { onFrames } from '../../source/at-hand'
import type { TasksOf } from '../../base/pool'
import { decidingPixels } from './deciding'
import { differencePixels, viewPixels, type View, type ViewPixels } from './pixels'
import { surenessPixels } from './sureness'
import { thumbnail } from './thumb'

const view = (context: WorkContext, spec: SourceSpec, index: number, kind: View): Promise<ViewPixels> =>
  onFrames(context, async frames => viewPixels((await frames.seen(spec, index)).frame, kind, context.host.kernels))

export const viewTasks = {
  view,

  /** Which pixels decided the mode, and how. */
  deciding: (context: WorkContext, spec: SourceSpec, index: number): Promise<ViewPixels> =>
    onFrames(context, async frames => decidingPixels((await frames.seen(spec, index)).frame, context.host.kernels)),

  /**
   * Where a step of the preparation is unsure; null for one that cannot say. `index` is of the clip up to that step.
   */
  async unsure(context: WorkContext, spec: SourceSpec, index: number, stepId: string): Promise<ViewPixels | null> {
    const found = await (await context.source(spec)).sureness?.(stepId, index)
    return found ? surenessPixels(found) : null
  },

  thumb: async (context: WorkContext, spec: SourceSpec, index: number, side: number): Promise<ViewPixels> =>
    thumbnail(await view(context, spec, index, 'over'), side),

  difference: (context: WorkContext, request: FramePair): Promise<ViewPixels> =>
    onFrames(context, async frames => {
      const { due, found } = await foundAndDue(request, frames, context.host.kernels)
      return differencePixels(due, found, context.host.kernels)
    })
}

export type ViewTasks = TasksOf<typeof viewTasks>
