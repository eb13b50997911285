/** Looking at every frame of a source in the pool. A frame that cannot be read is a finding, not the end. */
import type { SourceFacts, SourceSpec } from '../../source/source'
import type { Examination } from './examination'
import { Looks, type Examining } from './looks'

/**
 * Examines the whole clip at low priority, unless it is urgent. Rejects when not one frame can be read, with the first
 * frame's reason, and on abort.
 */
export const examineSource = (spec: SourceSpec, facts: SourceFacts, how: Examining): Promise<Examination> =>
  new Looks(spec, facts, how).whole()
