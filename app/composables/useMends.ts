/** One-click mends: what a finding offers, done or taken back as one undoable edit. */
import { useSteps } from '~/composables/useSteps'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { decideOnPictures } from '~~/core/job/damaged'
import { sayTags } from '~~/core/frame/colour-tags'
import type { Finding } from '~~/core/source/source'

export interface Mends {
  /** Does what a finding offers: its own mend, or the other of two. */
  mend(sourceId: string, finding: Finding, chosen?: Finding['mend']): Promise<void>
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
  const keepCodes = (sourceId: string, kept: boolean): Promise<unknown> => {
    const { tags } = sources.foundFactsOf(jobs.job.sources[sourceId]!)
    return jobs.edit(kept ? 'Keep the codes of its colour' : 'Decide on its colour again', draft => {
      const { interpretation } = draft.sources[sourceId]!
      if (kept && tags) interpretation.codesKept = sayTags(tags)
      else delete interpretation.codesKept
    })
  }
  const damaged = (sourceId: string, finding: Finding, as: 'hold' | 'skip' | null): Promise<unknown> => {
    const state = sources.states.get(sourceId)
    const numbers = state?.state === 'ready' ? state.numbers : null
    return jobs.edit(
      as === 'hold' ? 'Hold the picture before' : as === 'skip' ? 'Leave pictures out' : 'Decide on pictures again',
      draft => decideOnPictures(draft.sources[sourceId]!, { finding, numbers, as })
    )
  }
  return {
    async mend(sourceId, finding, chosen = finding.mend) {
      if (chosen?.id === 'step') await steps.mend(sourceId, finding, chosen)
      else if (chosen?.id === 'ask-rate') sources.asking = [sourceId]
      else if (chosen?.id === 'each-picture') await eachPicture(sourceId, true)
      else if (chosen?.id === 'keep-codes') await keepCodes(sourceId, true)
      else if (chosen?.id === 'hold-damaged') await damaged(sourceId, finding, 'hold')
      else if (chosen?.id === 'skip-damaged') await damaged(sourceId, finding, 'skip')
      else await holdGaps(sourceId, true)
    },
    async takeBack(sourceId, finding) {
      if (finding.mend?.id === 'step') await steps.unmend(sourceId, finding)
      else if (finding.mend?.id === 'each-picture') await eachPicture(sourceId, false)
      else if (finding.mend?.id === 'keep-codes') await keepCodes(sourceId, false)
      else if (finding.mend?.id === 'ask-rate') sources.asking = [sourceId]
      else if (finding.mend?.id === 'hold-damaged' || finding.mend?.id === 'skip-damaged')
        await damaged(sourceId, finding, null)
      else await holdGaps(sourceId, false)
    }
  }
}
