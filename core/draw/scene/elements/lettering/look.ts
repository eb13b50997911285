/** How lettering is described. */
import { z } from 'zod'
import { lacking, length, MOST, Paint, size } from '../../values'
import { Accent } from './accents'

/** A box that lettering is set in, from its place to the side that it is set to. */
export const LetteringBox = z.object({
  width: size.min(1),
  /** Lines at most. */
  lines: lacking(z.number().int().min(1).max(50), 1),
  /** How far it may shrink to fit, as a share of its size; 1 for not at all. */
  least: lacking(z.number().min(0.1).max(1), 1),
  /** What is still too much is cut off, and not left to stick out. */
  clip: lacking(z.boolean(), false)
})
export type LetteringBox = z.infer<typeof LetteringBox>

export const schema = z.object({
  kind: z.literal('text'),
  text: z.string().max(MOST.letters),
  /** The column of a table that fills it; null where it stays as it is. */
  field: lacking(z.string().min(1).max(60).nullable(), null),
  /** One that ships with Pour, or one of the scene's own. */
  face: lacking(z.string().min(1).max(60), 'sans'),
  size: size.min(1).max(2000),
  colour: lacking(Paint, '#ffffff'),
  /** Between letters, in thousandths of the size. */
  tracking: lacking(z.number().min(-200).max(2000), 0),
  /** From line to line, as a share of the size. */
  leading: lacking(z.number().min(0.5).max(4), 1.2),
  align: lacking(z.enum(['left', 'centre', 'right']), 'left'),
  /** Which way lines run; by their first letters, if nothing is said. */
  direction: z.enum(['ltr', 'rtl']).optional(),
  box: LetteringBox.optional(),
  /**
   * A path beside it that its letters stand on, each turned along it; so many pixels on from where it is set: from the
   * path's beginning, middle or end.
   */
  onto: z.object({ path: z.string().max(60), begins: lacking(length, 0) }).optional(),
  accents: z.array(Accent).max(MOST.accents).optional()
})
export type LetteringLook = z.infer<typeof schema>
