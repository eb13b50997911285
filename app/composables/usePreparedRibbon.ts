/** Coverage of every frame as it is prepared, a column at a time, when the workers have nothing else to do. */
import { shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { keepLook, keptLook } from '~/db/looks'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/base/errors'
import type { ExaminedShare } from '~~/core/judge/examine/examination'
import type { SourceSpec } from '~~/core/source/source'
import { inOrder } from '~~/core/base/pool'
import { specKey } from '~~/core/source/identity'

/** Wait for the hand to rest on a setting before the clip is gone through. */
const REST = 600
/** Columns drawn together. */
const STRIP = 6
const EMPTY: ExaminedShare = { clear: 0, partial: 0, solid: 0 }

/**
 * `spec` is null where there is nothing to go through; `quiet` holds it back. Columns that are not known yet are empty.
 */
export function usePreparedRibbon(
  spec: ComputedRef<SourceSpec | null>,
  frames: () => number,
  quiet: () => boolean
): Ref<readonly ExaminedShare[] | null> {
  const workshop = useWorkshop()
  const ribbon = shallowRef<readonly ExaminedShare[] | null>(null)
  let known: { key: string; columns: ExaminedShare[] } | null = null

  watch(
    [() => spec.value && specKey(spec.value), frames, quiet],
    async ([key, count, held], _before, onCleanup) => {
      if (known?.key !== key) {
        known = key ? { key, columns: [] } : null
        ribbon.value = null
      }
      const [of, mine] = [spec.value, known]
      if (!of || !mine || held || mine.columns.length >= count) return
      const stop = new AbortController()
      onCleanup(() => stop.abort())
      const kept = mine.columns.length ? undefined : await keptLook<ExaminedShare[]>('ribbon', `${key} ${count}`)
      if (stop.signal.aborted) return
      if (kept?.length === count) {
        mine.columns.push(...kept)
        ribbon.value = kept
        return
      }
      await new Promise(resolve => setTimeout(resolve, REST))
      const from = mine.columns.length
      const { signal } = stop
      try {
        signal.throwIfAborted()
        // one worker stays free for whoever goes on working
        await inOrder(
          count - from,
          Math.max(1, workshop.pool.size - 1),
          n => workshop.pool.run('coverage', [of, from + n], { signal, priority: 'later' }),
          column => {
            mine.columns.push(column)
            if (mine.columns.length % STRIP === 0 || mine.columns.length === count)
              ribbon.value = Array.from({ length: count }, (_, i) => mine.columns[i] ?? EMPTY)
          }
        )
        await keepLook('ribbon', `${key} ${count}`, mine.columns.slice())
      } catch (error) {
        // what cannot be read is said by the viewer; the ribbon keeps what it has
        if (!isAbort(error))
          ribbon.value = mine.columns.length ? Array.from({ length: count }, (_, i) => mine.columns[i] ?? EMPTY) : null
      }
    },
    { immediate: true }
  )
  return ribbon
}
