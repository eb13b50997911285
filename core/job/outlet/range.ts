/** The frames an outlet takes of a source. */
import type { Marks } from '../marks'
import type { SourceFacts } from '../../source/source'
import type { Outlet } from './outlet'

export const wholeRange = 'all'

/**
 * The range an outlet takes of a source, from 1; it ends before it begins where the source has none of those frames.
 */
export function rangeTaken(
  outlet: Pick<Outlet, 'range'>,
  facts: Pick<SourceFacts, 'frames'>,
  marks: Marks | null
): Marks {
  const whole = { from: 1, to: facts.frames }
  const wanted = outlet.range === 'all' ? whole : outlet.range === 'marked' ? (marks ?? whole) : outlet.range
  return { from: Math.max(1, wanted.from), to: Math.min(facts.frames, wanted.to) }
}
