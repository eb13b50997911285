/** How counters and clocks are described. */
import { z } from 'zod'
import { Ease, lacking, Marks, Paint, size } from '../../values'

const number = z.number().min(-1e9).max(1e9)

export const schema = z.object({
  kind: z.literal('counter'),
  from: lacking(number, 0),
  to: lacking(number, 100),
  /** Seconds in which it goes from one to the other, once it has come. */
  takes: lacking(z.number().min(0).max(3600), 2),
  ease: lacking(Ease, 'linear'),
  /** A number, or its value as seconds on a clock. */
  shows: lacking(z.enum(['number', 'minutes', 'hours']), 'number'),
  decimals: lacking(z.number().int().min(0).max(6), 0),
  marks: lacking(Marks, '1000.5'),
  /** Words before and behind it. */
  before: lacking(z.string().max(80), ''),
  behind: lacking(z.string().max(80), ''),
  face: lacking(z.string().min(1).max(60), 'sans'),
  size: size.min(1).max(2000),
  colour: lacking(Paint, '#ffffff'),
  tracking: lacking(z.number().min(-200).max(2000), 0),
  align: lacking(z.enum(['left', 'centre', 'right']), 'centre')
})
export type CounterLook = z.infer<typeof schema>
