/** What steps ask of a frame before they are set. */
import type { HexColour } from '../base/colour'
import type { Box } from '../base/settings/box'
import type { SourceSpec } from '../source/source'
import { onFrames, type SourcesAtHand } from '../source/at-hand'
import type { TasksOf } from '../base/pool'
import { contentOf } from './content'
import { screenFound } from './kinds/chroma-key'
import { toPicture } from './picture'

export const prepareTasks = {
  /** The smallest rectangle that holds every pixel with any alpha; null for a clear frame. */
  contentBox: (context: SourcesAtHand, spec: SourceSpec, index: number): Promise<Box | null> =>
    onFrames(context, async frames => contentOf((await frames.of(spec, index)).frame)),

  /** The screen's colour, as a chroma key would be set to it. */
  screenColour: (context: SourcesAtHand, spec: SourceSpec, index: number): Promise<HexColour> =>
    onFrames(context, async frames =>
      screenFound(toPicture((await frames.of(spec, index)).frame, context.host.kernels))
    )
}

export type PrepareTasks = TasksOf<typeof prepareTasks>
