/** Which values over time do something to an element. */
import type { LaidFinding } from './elements/kind'
import { kindOf } from './elements/kinds'
import type { Element } from './scene'
import type { Keyed } from './values'

/** Whether a value of this name changes what an element is. */
export function actsOn({ look, rides }: Pick<Element, 'look' | 'rides'>, of: Keyed): boolean {
  if (of === 'trace') return kindOf(look).moves.includes('trace')
  if (of === 'along') return rides !== undefined
  if (of === 'dashes') return 'stroke' in look && look.stroke?.dashes !== undefined
  return true
}

const IDLE: Readonly<Partial<Record<Keyed, string>>> = {
  trace: 'nothing of it is drawn along a line',
  along: 'it moves along no path',
  dashes: 'its line has no dashes'
}

/** What is to be said of values over time that change nothing. */
export const idleValues = (element: Element): LaidFinding[] =>
  element.tracks
    .filter(({ of }) => !actsOn(element, of))
    .map(({ of }) => ({
      id: 'values-idle',
      severity: 'warning',
      sentence: `Values over time of “${element.name || element.id}” (${of}) change nothing: ${IDLE[of]}.`
    }))
