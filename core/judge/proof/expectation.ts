/** What the proof of a pour expects, from its plan: the same for the page and the command line. */
import { isApart, type PourPlan } from '../../job/outlet/plan'
import type { Expectation } from './evidence'

/** Times the outlet asks it to be played, 0 for ever; null where it asks nothing. */
export function playsAsked(plan: PourPlan): number | null {
  const { plays } = plan.deliverable.options
  return typeof plays === 'number' ? plays : null
}

/** `bytes` is the size estimated before, where it was. */
export function expectationOf(plan: PourPlan, bytes: number | null): Expectation {
  const { size } = plan.deliverable.options
  return {
    ...plan.deliverable,
    ...plan.due,
    ...plan.deliverable.joined,
    paired: isApart(plan),
    silent: plan.outlet.sound === 'none',
    bytes,
    plays: playsAsked(plan),
    ...(typeof size === 'number' && size > 0 ? { most: 1000 * size } : {})
  }
}
