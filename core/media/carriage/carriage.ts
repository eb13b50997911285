/**
 * How alpha travels. A carriage splits a frame into the pictures that are stored, and puts what was stored together
 * again; what the pictures are written as is no matter of its.
 */
import type { HexColour } from '../../base/colour'
import type { Content } from '../formats/form'
import type { AlphaMode, Frame } from '../../frame/frame'
import type { AlphaHalf } from '../../frame/stacked'

export const CARRIAGE_IDS = [
  'colour-alpha',
  'fill-key',
  'alpha-below',
  'alpha-beside',
  'alpha-only',
  'colour-only'
] as const
export type CarriageId = (typeof CARRIAGE_IDS)[number]

/** What an outlet asks of its carriage: how colour stands to alpha, and what colour alone is laid on. */
export interface CarriageAsked {
  alpha: AlphaMode
  backing: HexColour
}

export interface Carriage {
  readonly id: CarriageId
  readonly name: string
  /** What is delivered, in a sentence for the outlet's form. */
  readonly help: string
  /** Whether stored pictures have an alpha channel. */
  readonly channel: boolean
  /** Whether colour and alpha are stored apart, for the receiver to put together. */
  readonly apart?: true
  /** The half of the stored picture that holds alpha, where it is one of two. */
  readonly half?: AlphaHalf
  /**
   * How a frame is split: what each stored picture holds (`storedFrame` makes it), one, or a fill and the key that
   * belongs to it.
   */
  contents(asked: CarriageAsked): readonly [Content] | readonly [Content, Content]
  /** How colour stands to alpha once the parts are together again. */
  joinedAlpha(asked: CarriageAsked): AlphaMode
  /** The frame that stored pictures make; the number of them is that of `contents`. */
  join(stored: readonly Frame[]): Frame
}
