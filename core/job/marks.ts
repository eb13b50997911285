/** The range marked on a source: frames counted from 1, both ends kept. */
import { z } from 'zod'

export const Marks = z.object({ from: z.number().int().min(1), to: z.number().int().min(1) })
export type Marks = z.infer<typeof Marks>
