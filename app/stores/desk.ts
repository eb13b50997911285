/** What this visitor is looking at: chosen rows, columns and cells; theme; open panels. Never part of the job. */
import { useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import { useJob } from './job'
import { cellKey } from '~~/core/job/job'

export type Choice =
  | { kind: 'source'; id: string }
  | { kind: 'outlet'; id: string }
  | { kind: 'cell'; sourceId: string; outletId: string }
  | null

export const useDesk = defineStore('desk', () => {
  const jobs = useJob()
  const theme = useStorage<'light' | 'dim'>('pour-theme', 'light')
  /** Columns of the board side by side as narrow as can be read. */
  const narrow = useStorage('pour-narrow', false)
  watch(theme, value => document.documentElement.classList.toggle('dim', value === 'dim'), { immediate: true })
  const choice = ref<Choice>(null)
  /** The source that lies on the bench. */
  const onBench = ref<string | null>(null)
  /** The source that this visitor looks at. */
  const lookedAt = computed(() => {
    const now = choice.value
    return onBench.value ?? (now?.kind === 'cell' ? now.sourceId : now?.kind === 'source' ? now.id : null)
  })
  const keysShown = ref(false)
  const aboutShown = ref(false)
  const watchShown = ref(false)
  const message = ref<string | null>(null)

  /** Cells picked for pouring; empty means all that can be. */
  const picked = ref<Set<string>>(new Set())

  function togglePick(cell: string): void {
    const next = new Set(picked.value)
    if (!next.delete(cell)) next.add(cell)
    picked.value = next
  }

  /** Cells of what is chosen: a whole row, a column, or one. */
  const chosenCells = computed<string[]>(() => {
    const now = choice.value
    if (!now) return []
    if (now.kind === 'cell') return [cellKey(now.sourceId, now.outletId)]
    if (now.kind === 'source') return jobs.job.outletOrder.map(id => cellKey(now.id, id))
    return jobs.job.sourceOrder.map(id => cellKey(id, now.id))
  })

  return {
    theme,
    narrow,
    choice,
    onBench,
    lookedAt,
    keysShown,
    aboutShown,
    watchShown,
    message,
    picked,
    togglePick,
    chosenCells
  }
})
