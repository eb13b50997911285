/** The colour of an element as it changes over time, in place of the one it is given. */
import { eased } from './ease'
import type { ColourKey, Gradient, Paint } from './values'

/**
 * A colour on the way from one to another: a gradient of which one place is taken everywhere, so that nothing rounds.
 */
export interface Tint extends Gradient {
  /** How far it has come, 0 to 1. */
  share: number
}

/** Whether a paint is a colour on its way between two. */
export const isTint = (paint: Paint): paint is Tint => typeof paint !== 'string' && 'share' in paint

/** The colour at a time; null where none changes. Before the first key and after the last theirs stay. */
export function tintAt(keys: readonly ColourKey[] | undefined, at: number): Tint | null {
  if (!keys || keys.length === 0) return null
  const inOrder = [...keys].sort((a, b) => a.at - b.at)
  const next = inOrder.findIndex(key => key.at > at)
  const to = inOrder[next < 0 ? inOrder.length - 1 : next]!
  const from = next > 0 ? inOrder[next - 1]! : to
  const share = from === to || from.holds ? 0 : eased(from.ease, (at - from.at) / (to.at - from.at))
  // a course may go beyond its ends; a colour does not
  return { from: from.colour, to: to.colour, angle: 0, share: Math.min(1, Math.max(0, share)) }
}
