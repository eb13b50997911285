import { computed, type ComputedRef } from 'vue'

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
