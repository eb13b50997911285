/** How lettering is described. */
import { z } from 'zod'
import { MOST, Paint, size } from '../../values'
import { Accent } from './accents'

/** A box that lettering is set in, from its place to the side that it is set to. */
export const LetteringBox = z.object({
  width: size.min(1),
  /** Lines at most. */
  lines: z.number().int().min(1).max(50),
  /** How far it may shrink to fit, as a share of its size; 1 for not at all. */
  least: z.number().min(0.1).max(1),
  /** What is still too much is cut off, and not left to stick out. */
  clip: z.boolean()
})
export type LetteringBox = z.infer<typeof LetteringBox>

export const schema = z.object({
  kind: z.literal('text'),
  text: z.string().max(MOST.letters),
  /** The column of a table that fills it; null where it stays as it is. */
  field: z.string().min(1).max(60).nullable(),
  /** One that ships with Pour, or one of the scene's own. */
  face: z.string().min(1).max(60),
  size: size.min(1).max(2000),
  colour: Paint,
  /** Between letters, in thousandths of the size. */
  tracking: z.number().min(-200).max(2000),
  /** From line to line, as a share of the size. */
  leading: z.number().min(0.5).max(4),
  align: z.enum(['left', 'centre', 'right']),
  /** Which way lines run; by their first letters, if nothing is said. */
  direction: z.enum(['ltr', 'rtl']).optional(),
  box: LetteringBox.optional(),
  accents: z.array(Accent).max(MOST.accents).optional()
})
export type LetteringLook = z.infer<typeof schema>
