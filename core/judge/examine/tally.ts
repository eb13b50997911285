/** Looks at frames, and what they add up to. */
import type { AlphaLook } from './look'
import type { Weighed } from './mode'

/** A look and the number of its frame, counted from 1. */
export interface FrameLook {
  frame: number
  look: AlphaLook
}

/** All that a clip's looks add up to; findings are judged from it. */
export interface Tally extends Weighed {
  seen: readonly FrameLook[]
  /** Pixels whose colour exceeds their alpha. */
  excess: number
  histogram: number[]
  levels: number
  fine: number
  least: number
  most: number
}
