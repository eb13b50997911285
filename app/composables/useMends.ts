/** One-click mends: what a finding offers, done as one undoable edit. */
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'

export function useMends(): (sourceId: string, mend: string) => Promise<void> {
  const jobs = useJob()
  const sources = useSources()
  return async (sourceId, mend) => {
    const source = jobs.job.sources[sourceId]
    if (!source) return
    const { frames } = sources.factsOf(source)
    if (mend === 'ask-rate') sources.asking = [sourceId]
    if (mend === 'hold-gaps') await jobs.edit('Hold the picture before a gap', draft => void (draft.sources[sourceId]!.interpretation.holdGaps = true))
    if (mend === 'drop-last-frame') await jobs.edit('Leave the repeated frame out', draft => void (draft.sources[sourceId]!.marks = { from: source.marks?.from ?? 1, to: frames - 1 }))
  }
}
