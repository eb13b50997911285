import { computed, watch, type ComputedRef } from 'vue'

/**
 * One computed value for each key, made when it is first asked for: a list made of them takes up again only those
 * whose own ground has changed.
 */
export function computedEach<T>(of: (key: string) => T): (key: string) => T {
  const kept = new Map<string, ComputedRef<T>>()
  return key => {
    let one = kept.get(key)
    if (!one) kept.set(key, (one = computed(() => of(key))))
    return one.value
  }
}

/**
 * Calls `changed` for each id of a list whose key is new or another than before, at once for all there are, and for no
 * other: of a thousand things one change costs one call.
 */
export function watchEach<T>(
  ids: () => readonly string[],
  of: (id: string) => T,
  changed: (id: string, key: T) => void
) {
  const keyOf = computedEach(of)
  let before = new Map<string, T>()
  return watch(
    () => new Map(ids().map(id => [id, keyOf(id)])),
    now => {
      const former = before
      before = now
      for (const [id, key] of now) if (!former.has(id) || former.get(id) !== key) changed(id, key)
    },
    { immediate: true }
  )
}
