/** Results that were kept: all of them, the newest of each cell, and those whose bytes are gone. */
import { computed, shallowReactive } from 'vue'
import { assertWhole, type StoredResult } from '~/db/database'
import { sentenceOf } from '~~/core/base/errors'

/** Follows rows of the store that `takeResult` is given. */
export function useResults() {
  /** All kept results by id, newest last. */
  const held = shallowReactive(new Map<string, StoredResult>())
  const results = computed(() => [...held.values()])
  /** The newest of each cell: what one cell shows does not depend on what another becomes. */
  const latest = shallowReactive(new Map<string, StoredResult>())

  /** Takes in a row of the store; a null one is gone. */
  function takeResult(id: string, row: StoredResult | null): void {
    const cell = (row ?? held.get(id))?.cell
    if (cell === undefined) return
    if (row) held.set(id, row)
    else held.delete(id)
    const shown = latest.get(cell)
    if (row && (!shown || shown.id === id || shown.at <= row.at)) latest.set(cell, row)
    else if (!row && shown?.id === id) {
      const before = results.value.filter(result => result.cell === cell).at(-1)
      if (before) latest.set(cell, before)
      else latest.delete(cell)
    }
    if (row) count(row)
  }

  /** Results whose bytes are not all in the store any more, by id, with the sentence that says so. */
  const gone = shallowReactive(new Map<string, string>())
  const counted = new Set<string>()

  let counting: Promise<unknown> = Promise.resolve()

  /** Counts the stored bytes of a result, once and one result after the other. */
  function count(result: StoredResult): void {
    if (counted.has(result.id)) return
    counted.add(result.id)
    counting = counting
      .then(() => assertWhole(result))
      .catch((error: unknown) => gone.set(result.id, sentenceOf(error)))
  }

  return { results, latest, gone, takeResult }
}
