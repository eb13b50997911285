/** Sources of the job as they can be worked with: their files, what was found in them, and bringing new ones in. */
import { defineStore } from 'pinia'
import { computed, shallowReactive } from 'vue'
import type { Examination } from '~~/core/judge/examine/examination'
import { useDesk } from '../desk'
import { useJob } from '../job'
import { useWorkshop } from '../workshop'
import { useBringing } from './bringing'
import { useDescribing } from './describing'
import { useSourceFiles } from './files'
import { useLooking } from './looking'
import { usePreparedFindings } from './prepared'

export const useSources = defineStore('sources', () => {
  const jobs = useJob()
  const workshop = useWorkshop()
  const examinations = shallowReactive(new Map<string, Examination>())
  const spreads = shallowReactive(new Map<string, Examination>())
  const files = useSourceFiles(id => jobs.job.sources[id])
  const { states, unlock, openFiles: reopen } = files
  const describing = useDescribing({ job: () => jobs.job, states, examinations, spreads })
  const around = { jobs, desk: useDesk(), workshop, files, examinations, spreads, describing }
  const { standingOf } = usePreparedFindings(around)
  const looking = useLooking(around)
  const bringing = useBringing(around)
  const { modeOf, originOf, factsOf, foundFactsOf, specOf, shownIn, shownKey, sceneAsSpec } = describing
  const counts = computed(() => ({ sources: jobs.sources.length, looking: looking.looking.size }))

  return {
    states,
    examinations,
    ...looking,
    ...bringing,
    counts,
    modeOf,
    originOf,
    standingOf,
    factsOf,
    foundFactsOf,
    specOf,
    shownIn,
    shownKey,
    sceneAsSpec,
    unlock,
    reopen
  }
})
