/** How the running order speaks of what elements are and do. */
import { heldTo } from './elementParts'
import { Move, type Element, type Look } from '~~/core/draw/scene/scene'

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

export const KINDS: Record<Look['kind'], string> = {
  text: 'Lettering',
  shape: 'Shape',
  path: 'Path',
  picture: 'Picture',
  clip: 'Source',
  group: 'Group'
}

export const FORMS = { rectangle: 'Rectangle', ellipse: 'Ellipse', polygon: 'Polygon', star: 'Star' } as const

/** What a sentence calls an element. */
export const calledOf = ({ look }: Element): string => (look.kind === 'shape' ? FORMS[look.form] : KINDS[look.kind])

/** Movements that an element of this look can make. */
export function movesOf({ kind }: Look): Move['kind'][] {
  if (kind === 'text') return ['none', 'fade', 'slide', 'grow', 'wipe', 'letters', 'words', 'lines', 'scatter']
  const moves: Move['kind'][] = ['none', 'fade', 'slide', 'grow', 'wipe']
  return kind === 'picture' || kind === 'clip' || kind === 'group' ? moves : [...moves, 'trace']
}

/** Seconds that were typed, held to what a scene takes. */
export const secondsIn = (text: string): number => heldTo(Move.shape.seconds, Number(text))
