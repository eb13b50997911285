/** How lettering is described. */
import { z } from 'zod'
import { MOST, Paint, size } from '../../values'
import { Accent } from './accents'

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
  accents: z.array(Accent).max(MOST.accents).optional()
})
export type LetteringLook = z.infer<typeof schema>
