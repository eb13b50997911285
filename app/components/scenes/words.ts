/** How the running order speaks of what elements are and do. */
import { heldTo } from '~~/core/draw/scene/elements/entry'
import { kindOf, type Look } from '~~/core/draw/scene/elements/kinds'
import type { Element } from '~~/core/draw/scene/scene'
import { EVERY_MOVE, Move } from '~~/core/draw/scene/values'

export const COMES: Record<Move['kind'], string> = {
  none: 'is there at once',
  fade: 'fades in',
  slide: 'slides in',
  grow: 'grows',
  wipe: 'is uncovered',
  trace: 'draws itself',
  letters: 'comes letter by letter',
  words: 'comes word by word',
  lines: 'comes line by line',
  scatter: 'gathers from pieces'
}

export const GOES: Record<Move['kind'], string> = {
  none: 'is gone at once',
  fade: 'fades out',
  slide: 'slides out',
  grow: 'shrinks away',
  wipe: 'is covered',
  trace: 'is drawn back',
  letters: 'goes letter by letter',
  words: 'goes word by word',
  lines: 'goes line by line',
  scatter: 'scatters'
}

/** What a sentence calls an element. */
export function calledOf({ look }: Element): string {
  const kind = kindOf(look)
  return kind.called?.(look) ?? kind.name
}

/** Movements that an element of this look can make. */
export const movesOf = (look: Look): Move['kind'][] => [...EVERY_MOVE, ...kindOf(look).moves]

/** Seconds that were typed, held to what a scene takes. */
export const secondsIn = (text: string): number => heldTo(Move.shape.seconds, Number(text))
