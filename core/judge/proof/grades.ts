/** What a proof comes to, the best first. */
import { z } from 'zod'

export const Verdict = z.enum(['identical', 'faithful', 'visible-loss', 'broken'])
export type Verdict = z.infer<typeof Verdict>
