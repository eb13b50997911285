/**
 * The outline of a clip's sound, read when the workers have nothing else to do; null where there is none, or none that
 * can be drawn.
 */
import { shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/base/errors'
import { soundForm } from '~~/core/source/sound'
import type { SourceFacts, SourceSpec } from '~~/core/source/source'

/** Pairs of lowest and highest that are read: about as many as a ribbon is wide. */
const COLUMNS = 900

export function useSoundPeaks(
  spec: ComputedRef<SourceSpec | null>,
  facts: () => SourceFacts | null
): Ref<Float32Array | null> {
  const workshop = useWorkshop()
  const peaks = shallowRef<Float32Array | null>(null)
  watch(
    [() => spec.value?.id, () => JSON.stringify([facts()?.sound, facts()?.rate, facts()?.frames])],
    async (_now, _before, onCleanup) => {
      peaks.value = null
      const [of, now] = [spec.value, facts()]
      const form = now?.sound && now.rate ? soundForm(now.sound, now.rate, 0, now.frames) : null
      if (!of || !now?.rate || form?.coding !== 'pcm') return
      const stop = new AbortController()
      onCleanup(() => stop.abort())
      const length = Math.round((now.frames * now.rate[1] * form.rate) / now.rate[0])
      try {
        peaks.value = await workshop.pool.run('soundPeaks', [of, form, { columns: COLUMNS, length }], {
          signal: stop.signal,
          priority: 'later'
        })
      } catch (error) {
        // a sound that cannot be read is told by the pour; nothing is drawn of it here
        if (!isAbort(error)) peaks.value = null
      }
    },
    { immediate: true }
  )
  return peaks
}
