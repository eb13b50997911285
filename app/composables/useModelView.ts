/** How a model is looked at: what of it is set, and setting it. */
import { computed, ref, type Ref } from 'vue'
import { useSources } from '~/stores/sources'
import { sentenceOf } from '~~/core/base/errors'
import { readView, writeView, VIEW, type AskedView, type ModelView } from '~~/core/draw/model/view'
import type { JobSource } from '~~/core/job/job'

export function useModelView(source: Readonly<Ref<JobSource>>) {
  const sources = useSources()
  const wrong = ref('')
  const facts = computed(() => sources.foundFactsOf(source.value))
  const isModel = computed(() => facts.value.format === 'model')
  const asked = computed(() => readView(isModel.value ? facts.value.layer : undefined))

  /** What is asked for and not taken yet: what is set next is set on top of it. */
  let next: { of: string; asked: AskedView } | null = null
  let turn: Promise<void> = Promise.resolve()

  function set(changes: Partial<ModelView>, size?: string): Promise<void> {
    const of = source.value
    const before = next?.of === of.id ? next.asked : asked.value
    const mine = { of: of.id, asked: { size: size ?? before.size, view: { ...before.view, ...changes } } }
    next = mine
    wrong.value = ''
    turn = turn.then(async () => {
      // one that came meanwhile says this as well
      if (next !== mine) return
      await sources
        .takeFrom(of, 'Take another layer', { layer: writeView(mine.asked) })
        .catch((error: unknown) => void (wrong.value = sentenceOf(error)))
      if (next === mine) next = null
    })
    return turn
  }

  const fields = computed(() =>
    Object.entries(VIEW).map(([key, field]) => ({ key, field, value: asked.value.view[key as keyof ModelView] }))
  )
  return { isModel, asked, fields, set, wrong }
}
