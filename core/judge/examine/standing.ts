/** Which findings of a source still stand, once what its preparation mends is taken into account. */
import type { Step } from '../../prepare/preparation'
import { findingKind } from '../../source/finding-kinds'
import type { Finding } from '../../source/source'

export interface FindingState {
  finding: Finding
  /**
   * It stands; it was mended by its own mend; something else in the preparation did away with it; the preparation
   * brought it.
   */
  state: 'stands' | 'mended' | 'gone' | 'brought'
}

/** How a mend stands to what was decided about a source. */
export interface Decided {
  steps: readonly Step[]
  holdGaps: boolean
  eachPicture?: boolean | undefined
  damaged?: { as: 'hold' | 'skip' | null } | undefined
  codesKept?: boolean | undefined
  /** The rate that was given; nothing of it while none was. */
  rate?: unknown
}

/** Whether a step has these settings, whatever else it has. */
const sameSettings = (step: Step | null, settings: Readonly<Record<string, unknown>>): boolean =>
  step !== null &&
  Object.entries(settings).every(([key, value]) => JSON.stringify(step.settings[key]) === JSON.stringify(value))

/** The step that carries out a finding's mend; null where there is none. */
export function mendingStep(finding: Finding, steps: readonly Step[]): Step | null {
  const { mend } = finding
  if (mend?.id !== 'step') return null
  const same = (step: Step): boolean => step.mends === finding.id || sameSettings(step, mend.settings)
  return steps.find(step => step.kind === mend.kind && same(step)) ?? null
}

/** Whether it was decided that codes are kept, where a finding offers that. */
const codesKeptBy = ({ mend, orElse }: Finding, { codesKept }: Decided): boolean =>
  codesKept === true && (mend?.id === 'keep-codes' || orElse?.id === 'keep-codes')

/** Whether a finding's own mend is in force. */
export function isMended(finding: Finding, decided: Decided): boolean {
  const { steps, holdGaps, eachPicture, damaged, rate } = decided
  if (codesKeptBy(finding, decided)) return true
  if (finding.mend?.id === 'ask-rate') return Boolean(rate)
  if (finding.mend?.id === 'hold-damaged') return Boolean(damaged?.as)
  if (finding.mend?.id === 'each-picture') return eachPicture ?? false
  return finding.mend?.id === 'hold-gaps' ? holdGaps : (mendingStep(finding, steps)?.on ?? false)
}

/** A mended finding with the one of its two ways that was taken. */
function asChosen(finding: Finding, decided: Decided): Finding {
  const { damaged, steps } = decided
  const { mend, orElse } = finding
  if (!orElse) return finding
  // what is brought to sRGB has no codes left to keep
  if (orElse.id === 'keep-codes') return mendingStep(finding, steps)?.on ? finding : { ...finding, mend: orElse }
  const other =
    mend?.id === 'hold-damaged'
      ? damaged?.as === 'skip'
      : orElse.id === 'step' && sameSettings(mendingStep(finding, steps), orElse.settings)
  return other ? { ...finding, mend: orElse } : finding
}

/**
 * `found` are those of the source as it was brought in, `prepared` those of what its steps make of it, null while that
 * is not known. What stands comes first.
 */
export function standingOf(
  found: readonly Finding[],
  prepared: readonly Finding[] | null,
  decided: Decided
): FindingState[] {
  const own = found.map((finding): FindingState => {
    if (isMended(finding, decided)) return { finding: asChosen(finding, decided), state: 'mended' }
    if (!prepared || findingKind(finding.id).ofTheFile) return { finding, state: 'stands' }
    const now = prepared.find(other => other.id === finding.id)
    return now ? { finding: { ...now, mend: finding.mend ?? now.mend }, state: 'stands' } : { finding, state: 'gone' }
  })
  const known = new Set(found.map(finding => finding.id))
  const brought = (prepared ?? [])
    .filter(finding => !known.has(finding.id) && !findingKind(finding.id).ofTheFile)
    .map((finding): FindingState => ({ finding, state: 'brought' }))
  const rank = { stands: 0, brought: 1, mended: 2, gone: 3 }
  return [...own, ...brought].sort((a, b) => rank[a.state] - rank[b.state])
}
