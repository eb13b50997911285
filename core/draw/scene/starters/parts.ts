/** What starters are made of. */
import type { HexColour } from '../../../base/colour'
import type { SceneSize } from '../fresh'
import type { Scene } from '../scene'
import type { Move } from '../values'

/** What the form of a starter asks for, beside size, rate and length. */
export interface StarterField {
  id: string
  label: string
  kind: 'text' | 'colour'
  default: string
}

export interface Starter {
  id: string
  name: string
  /** What it is for, in one sentence. */
  help: string
  fields: readonly StarterField[]
  seconds: number
  make(fields: Readonly<Record<string, string>>, size: SceneSize): Scene
}

/** The colour that a field of a starter was given, in small letters; `fallback` where that is none. */
export const colourOf = (text: string | undefined, fallback: HexColour): HexColour =>
  /^#[0-9a-f]{6}$/i.test(text ?? '') ? (text!.toLowerCase() as HexColour) : fallback

/** A movement of so many seconds, from the left on a soft course unless `more` says otherwise. */
export const move = (kind: Move['kind'], seconds: number, more: Partial<Move> = {}): Move => ({
  kind,
  seconds,
  ease: 'soft',
  side: 'left',
  ...more
})

export const bar: StarterField = { id: 'bar', label: 'Bar', kind: 'colour', default: '#175c4e' }
export const ink: StarterField = { id: 'ink', label: 'Lettering', kind: 'colour', default: '#f6f3ea' }
export const accent: StarterField = { id: 'accent', label: 'Accent', kind: 'colour', default: '#e2b242' }

/** What a strap asks for: two lines of words, and its colours. */
export const strapFields: readonly StarterField[] = [
  { id: 'name', label: 'Name', kind: 'text', default: 'Ada Fernbrook' },
  { id: 'line', label: 'Second line', kind: 'text', default: 'Keeper of the Palm House' },
  bar,
  ink,
  accent
]
