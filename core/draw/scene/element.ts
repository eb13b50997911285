/**
 * What every element of a scene has, whatever it looks like: its place, when it comes and goes, what changes over time,
 * and what lies under it.
 */
import { z } from 'zod'
import { Blend, ColourKey, Columns, Glow, KEYED, lacking, length, Matte, MOST, Move } from './values'
import { seconds, Shadow, share, still, Track } from './values'

/** The fields of an element beside its look; bounds as in values.ts. */
export const ElementBase = z.object({
  id: z.string().min(1).max(60),
  name: lacking(z.string().max(80), ''),
  hidden: lacking(z.boolean(), false),
  /** Shown without the others. */
  alone: lacking(z.boolean(), false),
  locked: lacking(z.boolean(), false),
  /** The group it belongs to; its place is then counted from the group's. */
  inside: z.string().max(60).optional(),
  /** Where its middle lies; of lettering its first line's left, middle or right end on the base line. */
  x: length,
  y: length,
  scale: lacking(z.number().min(0).max(100), 1),
  rotation: lacking(z.number().min(-36_000).max(36_000), 0),
  opacity: lacking(share, 1),
  /** How many times as wide and as tall it is as its scale makes it, before it is turned. */
  wide: z.number().min(0).max(100).optional(),
  tall: z.number().min(0).max(100).optional(),
  /** How far behind the picture's plane it lies, as a share of the way to it; of a camera how far it went in. */
  depth: z.number().min(-1000).max(1000).optional(),
  /** What stays where it is when values over time scale or turn it, from its place; its place if nothing is said. */
  about: z.object({ x: lacking(length, 0), y: lacking(length, 0) }).optional(),
  /** A path beside it that it moves along as its values over time say, its own place then none; turned along it. */
  rides: z.object({ path: z.string().max(60), turned: lacking(z.boolean(), true) }).optional(),
  /** The corner or edge whose distance it keeps when the scene takes another size. */
  pin: lacking(z.enum(['middle', 'top left', 'top right', 'bottom left', 'bottom right']), 'middle'),
  /** From when on it is there: a time, or once the entrance of another element has ended; and how much later. */
  after: lacking(z.string().max(60).nullable(), null),
  delay: lacking(seconds, 0),
  entrance: lacking(Move, still()),
  /** Between entrance and exit; null until the exit ends with the scene. */
  hold: lacking(seconds.nullable(), null),
  exit: lacking(Move, still()),
  tracks: lacking(z.array(Track).max(KEYED.length), []),
  /** Colours that the element takes over time, in place of its own. */
  colours: z.array(ColourKey).min(1).max(MOST.keys).optional(),
  columns: Columns.optional(),
  blend: Blend.optional(),
  /** What cuts it; another element that lies where it does. */
  matte: Matte.optional(),
  shadow: lacking(Shadow.nullable(), null),
  glow: lacking(Glow.nullable(), null)
})
export type ElementBase = z.infer<typeof ElementBase>
