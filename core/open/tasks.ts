/** Frames and sound of a source. */
import type { Frame } from '../frame/frame'
import { peaksOf } from '../media/sound/peaks'
import type { SoundForm } from '../source/sound'
import type { WorkContext } from './context'
import { onFrames } from '../source/at-hand'
import type { TasksOf } from '../base/pool'
import { soundTrackOf } from './sounding'
import type { SourceSpec } from '../source/source'

export const sourceTasks = {
  /** A frame for whoever asked: its samples are theirs, and may travel on. */
  frame: (context: WorkContext, spec: SourceSpec, index: number): Promise<Frame> =>
    onFrames(context, async frames => (await frames.of(spec, index)).keep()),

  /** The outline of a source's sound; null where it has none any more. */
  async soundPeaks(
    context: WorkContext,
    spec: SourceSpec,
    form: SoundForm,
    how: { columns: number; length: number }
  ): Promise<Float32Array | null> {
    const found = await soundTrackOf(spec, context.host, form.track)
    if (!found) return null
    try {
      return await peaksOf(found.reader, found.track, form, how)
    } finally {
      await found.reader.close()
    }
  }
}

export type SourceTasks = TasksOf<typeof sourceTasks>
