/**
 * The rows of the board as this visitor has them: found by words, under headings, folded away. Never part of the job.
 */
import { useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { useJob } from './job'
import { useSources } from './sources'
import { grouped } from '~~/core/job/grouping'
import type { JobSource } from '~~/core/job/job'
import { sayAlpha } from '~~/core/job/outlet/outlet'
import { formatRate } from '~~/core/base/rate'

/** What rows can stand under, and how that is chosen. */
export const GROUPINGS = [
  { id: 'none', name: 'One after the other' },
  { id: 'state', name: 'By what is to be done' },
  { id: 'kind', name: 'By kind of file' },
  { id: 'size', name: 'By size' },
  { id: 'rate', name: 'By rate' },
  { id: 'alpha', name: 'By alpha mode' }
] as const
export type Grouping = (typeof GROUPINGS)[number]['id']

/** Headings by what is to be done, gravest first. */
const STATES = [
  'Cannot be read',
  'Must be allowed again',
  'Faults found',
  'Warnings',
  'Being looked at',
  'Nothing amiss'
]

/** The line of a source, the one at `at` of all that are shown. */
export interface BoardLine {
  kind: 'row'
  source: JobSource
  at: number
}
export type BoardItem = { kind: 'heading'; heading: string; sources: JobSource[]; folded: boolean } | BoardLine

export const useRows = defineStore('rows', () => {
  const jobs = useJob()
  const sources = useSources()
  /** Words that rows are found by; all are shown where there are none. */
  const sought = ref('')
  const grouping = useStorage<Grouping>('pour-grouping', 'none')
  const folded = ref<ReadonlySet<string>>(new Set())
  /** Whether the board is being scrolled: what costs much is left until it stands. */
  const moves = ref(false)

  function toggleFold(heading: string): void {
    const next = new Set(folded.value)
    if (!next.delete(heading)) next.add(heading)
    folded.value = next
  }

  function stateOf(source: JobSource): string {
    const state = sources.states.get(source.id)?.state
    if (state === 'failed') return 'Cannot be read'
    if (state === 'locked') return 'Must be allowed again'
    const standing = sources.standingOf(source).filter(({ state }) => state === 'stands' || state === 'brought')
    if (standing.some(({ finding }) => finding.severity === 'fault')) return 'Faults found'
    if (standing.some(({ finding }) => finding.severity === 'warning')) return 'Warnings'
    return sources.examinations.has(source.id) ? 'Nothing amiss' : 'Being looked at'
  }

  function headingOf(source: JobSource): string {
    const facts = sources.factsOf(source)
    if (grouping.value === 'state') return stateOf(source)
    if (grouping.value === 'kind') return facts.kind
    if (grouping.value === 'size') return `${facts.width}×${facts.height}`
    if (grouping.value === 'rate') return facts.rate ? `${formatRate(facts.rate)} frames/s` : 'Rate not known'
    const mode = sources.modeOf(source)
    return mode ? `Alpha ${sayAlpha(mode)}` : 'Alpha mode not known yet'
  }

  const found = computed(() => {
    const words = sought.value.trim().toLowerCase().split(/\s+/)
    return jobs.sources.filter(({ name }) => words.every(word => name.toLowerCase().includes(word)))
  })

  /** Headings and rows as they stand on the board, top down. */
  const items = computed<BoardItem[]>(() => {
    if (grouping.value === 'none') return found.value.map((source, at) => ({ kind: 'row', source, at }))
    let at = 0
    return grouped(found.value, headingOf, STATES).flatMap(({ heading, members }): BoardItem[] => {
      const away = folded.value.has(heading)
      return [
        { kind: 'heading', heading, sources: members, folded: away },
        ...(away ? [] : members.map((source): BoardItem => ({ kind: 'row', source, at: at++ })))
      ]
    })
  })

  /** The sources whose rows are shown, top down. */
  const shown = computed(() => items.value.flatMap(item => (item.kind === 'row' ? item.source : [])))

  return { sought, grouping, folded, moves, toggleFold, items, shown }
})
