/** One-click mends: what a finding offers, done or taken back as one undoable edit. */
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import type { Finding } from '~~/core/source/source'

export interface Mends {
  mend(sourceId: string, finding: Finding): Promise<void>
  takeBack(sourceId: string, finding: Finding): Promise<void>
}

export function useMends(): Mends {
  const jobs = useJob()
  const sources = useSources()
  const steps = useSteps()
  const holdGaps = (sourceId: string, hold: boolean): Promise<unknown> =>
    jobs.edit(
      hold ? 'Hold the picture before a gap' : 'Close gaps',
      draft => void (draft.sources[sourceId]!.interpretation.holdGaps = hold)
    )
  const eachPicture = (sourceId: string, each: boolean): Promise<unknown> =>
    jobs.edit(
      each ? 'Take the pictures one by one' : 'Show the pictures as the film does',
      draft => void (draft.sources[sourceId]!.interpretation.eachPicture = each)
    )
  return {
    async mend(sourceId, finding) {
      if (finding.mend?.id === 'step') await steps.mend(sourceId, finding)
      else if (finding.mend?.id === 'ask-rate') sources.asking = [sourceId]
      else if (finding.mend?.id === 'each-picture') await eachPicture(sourceId, true)
      else await holdGaps(sourceId, true)
    },
    async takeBack(sourceId, finding) {
      if (finding.mend?.id === 'step') await steps.unmend(sourceId, finding)
      else if (finding.mend?.id === 'each-picture') await eachPicture(sourceId, false)
      else await holdGaps(sourceId, false)
    }
  }
}
