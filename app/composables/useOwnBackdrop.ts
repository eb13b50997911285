/**
 * A source of the job that stands behind the others in the viewer, as the receiver's picture will; it is never
 * rendered.
 */
import { viewerClip } from '~/composables/viewerClip'
import { computed, type ComputedRef } from 'vue'
import type { ViewerClip } from '~/components/viewer/FrameViewer.vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { framesPerSecond } from '~~/core/base/rate'
import type { SourceSpec } from '~~/core/source/source'

export interface OwnBackdrop {
  /** Its source's id; empty while none is chosen. */
  id: ComputedRef<string>
  choices: ComputedRef<{ id: string; name: string }[]>
  clip: ComputedRef<ViewerClip | null>
  /** The same as workers open it. */
  spec: ComputedRef<SourceSpec | null>
  /** The frame of it to be seen after so many seconds; it begins again where it ends. */
  frameAt(seconds: number): number
  choose(id: string): Promise<void>
}

const DEFAULT_RATE = 25

export function useOwnBackdrop(): OwnBackdrop {
  const jobs = useJob()
  const sources = useSources()
  const source = computed(() => jobs.job.sources[jobs.job.backdrop ?? ''] ?? null)
  const spec = computed(() => (source.value ? (sources.specOf(source.value) ?? null) : null))
  return {
    id: computed(() => source.value?.id ?? ''),
    choices: computed(() => jobs.sources),
    spec,
    clip: computed(() => (spec.value && source.value ? viewerClip(spec.value, source.value.name) : null)),
    frameAt(seconds) {
      if (!source.value) return 0
      const { frames, rate } = sources.factsOf(source.value)
      return Math.floor(seconds * (rate ? framesPerSecond(rate) : DEFAULT_RATE) + 1e-6) % Math.max(1, frames)
    },
    async choose(id) {
      await jobs.edit('Choose a backdrop', draft => {
        draft.backdrop = id
      })
    }
  }
}
