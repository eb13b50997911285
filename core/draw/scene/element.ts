/**
 * What every element of a scene has, whatever it looks like: its place, when it comes and goes, what changes over time,
 * and what lies under it.
 */
import { z } from 'zod'
import { ColourKey, Glow, KEYED, length, MOST, Move, seconds, Shadow, share, Track } from './values'

/** The fields of an element beside its look; bounds as in values.ts. */
export const ElementBase = z.object({
  id: z.string().min(1).max(60),
  name: z.string().max(80),
  hidden: z.boolean(),
  /** Shown without the others. */
  alone: z.boolean(),
  locked: z.boolean(),
  /** The group it belongs to; its place is then counted from the group's. */
  inside: z.string().max(60).optional(),
  /** Where its middle lies; of lettering its first line's left, middle or right end on the base line. */
  x: length,
  y: length,
  scale: z.number().min(0).max(100),
  rotation: z.number().min(-36_000).max(36_000),
  opacity: share,
  /** The corner or edge whose distance it keeps when the scene takes another size. */
  pin: z.enum(['middle', 'top left', 'top right', 'bottom left', 'bottom right']),
  /** From when on it is there: a time, or once the entrance of another element has ended; and how much later. */
  after: z.string().max(60).nullable(),
  delay: seconds,
  entrance: Move,
  /** Between entrance and exit; null until the exit ends with the scene. */
  hold: seconds.nullable(),
  exit: Move,
  tracks: z.array(Track).max(KEYED.length),
  /** Colours that the element takes over time, in place of its own. */
  colours: z.array(ColourKey).min(1).max(MOST.keys).optional(),
  shadow: Shadow.nullable(),
  glow: Glow.nullable()
})
export type ElementBase = z.infer<typeof ElementBase>
