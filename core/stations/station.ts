/** A station: how one family of programs takes a delivered file in. Each is plain data and a way of reading. */
import type { AlphaMode } from '../frame/frame'
import type { SourceFacts } from '../source/source'

export interface StationReading {
  /** The mode the station takes the stored samples to have. */
  alpha: AlphaMode
}

export interface Station {
  readonly id: string
  readonly name: string
  /** What kind of program it stands for. */
  readonly family: string
  /** 'decode' stations read the bytes here; the 'browser' one is played by the page it stands in. */
  readonly kind: 'decode' | 'browser'
  /** Format ids it opens; null opens all. */
  readonly opens: readonly string[] | null
  /** How it takes this file. */
  reads(delivered: SourceFacts): StationReading
  /** What the receiver must do when the picture is wrong. */
  remedy(delivered: SourceFacts): string
}
