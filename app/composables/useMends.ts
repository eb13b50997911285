/** One-click mends: what a finding offers, done as one undoable edit. */
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import type { Mend } from '~~/core/source/source'

export function useMends(): (sourceId: string, mend: Mend) => Promise<void> {
  const jobs = useJob()
  const sources = useSources()
  const steps = useSteps()
  return async (sourceId, mend) => {
    if (mend.id === 'step') await steps.add(sourceId, mend.label, mend.kind, mend.settings)
    else if (mend.id === 'ask-rate') sources.asking = [sourceId]
    else
      await jobs.edit(
        'Hold the picture before a gap',
        draft => void (draft.sources[sourceId]!.interpretation.holdGaps = true)
      )
  }
}
