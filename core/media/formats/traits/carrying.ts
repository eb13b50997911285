/** What the files of a format hold: depths, alpha and how they declare it, colours, sound, sizes and rates. */
import type { Rate } from '../../../base/rate'
import type { Fields, OptionValues } from '../../../base/settings/field'
import type { ColourTags } from '../../../frame/colour-tags'
import type { Depth, Transfer } from '../../../frame/frame'
import type { Capability, Container } from '../../containers/container'
import type { Deliverable } from '../deliverable'
import type { Form } from '../form'

export interface DepthChoice {
  depth: Depth
  colourBits: number
  alphaBits: number
}

/** Whether its files have room for alpha; others carry it as a film of its own, a key beside a fill, or not at all. */
export const holdsAlpha = ({ alpha }: Pick<Carrying, 'alpha'>): boolean => alpha.straight.can || alpha.premultiplied.can

export interface Carrying {
  /** Whether every code of colour and alpha comes back, and whether alpha alone does. */
  readonly lossless: boolean
  readonly exactAlpha: boolean
  /** Whether every code comes back under these options, of formats that are lossy or not by an option. */
  exact?(options: OptionValues): boolean
  readonly depths: readonly DepthChoice[]
  readonly alpha: { readonly straight: Capability; readonly premultiplied: Capability; readonly none: Capability }
  /** Matte colours a file can declare; others are held by the pixels alone and need a note to the receiver. */
  readonly declaredMattes: readonly string[]
  /**
   * How its files say what colours mean that are not sRGB's: by the numbers of H.273, or by a profile; not at all where
   * this is absent.
   */
  readonly labels?: 'numbers' | 'profile'
  /** Whether its numbers know these tags; all of them where this is absent. */
  says?(tags: ColourTags): boolean
  readonly limits: { readonly width: number; readonly height: number; readonly rate: string }
  readonly options: Fields
  /** Bits of alpha under these options, where an option decides them; else the depth's. */
  alphaBits?(options: OptionValues): number
  /** Bits that codes of 16 hold under these options, where an option decides them. */
  codeBits?(options: OptionValues): number
  /** Linear light for formats that hold it; else sRGB-coded. */
  readonly transfer?: Transfer
  halfFloat?(options: OptionValues): boolean
  cut?(options: OptionValues): Form['cut']
  /** Codings of sound that its files take; none where this is absent. */
  readonly sound?: Container['sound']
  /** Tracks of sound they take at most. */
  readonly soundTracks?: number
  /**
   * Units a second that its times are whole numbers of; a rate between them is held so that it does not drift. Absent
   * where rates are exact.
   */
  readonly clock?: number
  /** A sentence if this rate cannot be written exactly, else null. */
  refusesRate(rate: Rate): string | null
  /** A sentence if these options cannot be kept at this rate, else null. */
  refuses?(options: OptionValues, rate: Rate | null): string | null
  /** A sentence if a clip of this size and length cannot be held, else null. */
  refusesClip?(clip: Pick<Deliverable, 'width' | 'height' | 'frames' | 'depth' | 'options'>): string | null
  /** How the frames of a clip will lie in the file, in words, where a receiver must know it. */
  layout?(clip: Pick<Deliverable, 'width' | 'height' | 'frames' | 'options'>): string
}
