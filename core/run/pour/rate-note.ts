/**
 * The note beside numbered pictures: what they cannot say themselves. It is plain text for whoever gets them, and is
 * read back by intake, so that a sequence comes home with its rate.
 */
import { rateNoteName } from '../intake/rate-hints'
import { sayAlpha } from '../../job/outlet/outlet'
import type { PourPlan } from '../../job/outlet/plan'
import { rateFraction } from '../../base/rate'

/** Name and text of the note of a sequence; null where no rate is known, or a single picture needs none. */
export function rateNote(plan: PourPlan): { name: string; bytes: Uint8Array } | null {
  const { rate, names, width, height } = plan.deliverable
  if (!rate || names.length < 2) return null
  const lines = [
    `${names.length} numbered pictures, ${names[0]} to ${names.at(-1)}.`,
    ...(plan.key ? [`Their key: ${plan.key.deliverable.names[0]} to ${plan.key.deliverable.names.at(-1)}.`] : []),
    `Frame rate: ${rateFraction(rate)}`,
    `Size: ${width} x ${height}`,
    `Alpha: ${sayAlpha(plan.due.alpha)}`,
    '',
    'Import the first picture as a sequence at this frame rate: the pictures cannot say it themselves.'
  ]
  return { name: rateNoteName(names[0]!), bytes: new TextEncoder().encode(`${lines.join('\n')}\n`) }
}
