/** Which values over time do something to an element. */
import type { LaidFinding } from './elements/kind'
import { kindOf } from './elements/kinds'
import type { Element } from './scene'
import type { Keyed } from './values'

/** What a camera has. */
const LENS: ReadonlySet<Keyed> = new Set(['x', 'y', 'scale', 'rotation', 'depth'])

/** Whether a value of this name changes what an element is. */
export function actsOn({ look, rides, inside }: Pick<Element, 'look' | 'rides' | 'inside'>, of: Keyed): boolean {
  if (of === 'trace') return kindOf(look).moves.includes('trace')
  if (of === 'along') return rides !== undefined
  if (of === 'seconds') return look.kind === 'clip'
  if (kindOf(look).unseen) return LENS.has(of)
  if (of === 'depth') return inside === undefined
  if (of === 'dashes') return 'stroke' in look && look.stroke?.dashes !== undefined
  return true
}

const IDLE: Readonly<Partial<Record<Keyed, string>>> = {
  trace: 'nothing of it is drawn along a line',
  along: 'it moves along no path',
  dashes: 'its line has no dashes',
  seconds: 'it shows no other source',
  depth: 'it lies in a group, as deep as that'
}

/** What is to be said of values over time that change nothing. */
export const idleValues = (element: Element): LaidFinding[] =>
  element.tracks
    .filter(({ of }) => !actsOn(element, of))
    .map(({ of }) => ({
      id: 'values-idle',
      severity: 'warning',
      sentence: `Values over time of “${element.name || element.id}” (${of}) change nothing: ${IDLE[of] ?? 'a camera has none'}.`
    }))
