/** The colour of an element as it changes over time, in place of the one it is given. */
import { eased } from './ease'
import type { Letter } from './lettering'
import type { ColourKey, Gradient, Look, Paint } from './scene'

/**
 * A colour on the way from one to another: a gradient of which one place is taken everywhere, so that nothing rounds.
 */
export interface Tint extends Gradient {
  /** How far it has come, 0 to 1. */
  share: number
}

export const isTint = (paint: Paint): paint is Tint => typeof paint !== 'string' && 'share' in paint

/** The colour at a time; null where none changes. Before the first key and after the last theirs stay. */
export function tintAt(keys: readonly ColourKey[] | undefined, at: number): Tint | null {
  if (!keys || keys.length === 0) return null
  const inOrder = [...keys].sort((a, b) => a.at - b.at)
  const next = inOrder.findIndex(key => key.at > at)
  const to = inOrder[next < 0 ? inOrder.length - 1 : next]!
  const from = next > 0 ? inOrder[next - 1]! : to
  const share = from === to ? 0 : eased(from.ease, (at - from.at) / (to.at - from.at))
  // a course may go beyond its ends; a colour does not
  return { from: from.colour, to: to.colour, angle: 0, share: Math.min(1, Math.max(0, share)) }
}

/** What of a look such a colour is of: lettering, the area of a shape, the line of a path; null where it has none. */
export function tintedOf(look: Look): Paint | null {
  if (look.kind === 'text') return look.colour
  if (look.kind === 'shape') return look.fill ?? look.stroke?.colour ?? null
  if (look.kind === 'path') return look.stroke?.colour ?? look.fill
  return null
}

/** The same look in a colour. Words that are set otherwise keep theirs. */
export function tinted<L extends Extract<Look, { kind: 'shape' | 'path' }>>(look: L, tint: Paint | null): L {
  if (!tint) return look
  const ofFill = look.kind === 'shape' ? look.fill !== null : look.stroke === null
  return ofFill ? { ...look, fill: tint } : { ...look, stroke: look.stroke && { ...look.stroke, colour: tint } }
}

/** Letters in a colour, but those whose own is another than the lettering's. */
export const tintedLetters = (letters: readonly Letter[], own: Paint, tint: Paint | null): readonly Letter[] =>
  tint ? letters.map(letter => (letter.colour === own ? { ...letter, colour: tint } : letter)) : letters
