/** The report of a proof: plain data, the same in the browser, on the command line and in a hand-over. */
import { z } from 'zod'
import { LedgerLine } from '../ledger/ledger'
import { Verdict } from './grades'
import { Finding } from '../../source/source'

export const Reading = z.object({
  id: z.enum([
    'count',
    'rate',
    'duration',
    'size',
    'order',
    'loop',
    'sound',
    'tags',
    'mode',
    'alpha',
    'levels',
    'colour',
    'edges',
    'bytes',
    'digest'
  ]),
  name: z.string(),
  asked: z.string(),
  found: z.string(),
  /** The error in words and, where it is a number, as one. */
  error: z.string(),
  value: z.number().nullable(),
  state: z.enum(['good', 'warning', 'bad', 'plain'])
})
export type Reading = z.infer<typeof Reading>

export const ProofReport = z.object({
  version: z.literal(1),
  /** Of the whole way from the source as it was brought in: the worst that nobody asked for. */
  verdict: Verdict,
  /** The headline in words; empty in reports of before ledgers. */
  title: z.string().default(''),
  sentence: z.string(),
  /** Of the file alone, against what was due; null in reports of before ledgers. */
  file: z.object({ verdict: Verdict, sentence: z.string() }).nullable().default(null),
  /** What became of the source, stage by stage. */
  ledger: z.array(LedgerLine).default([]),
  readings: z.array(Reading),
  findings: z.array(Finding),
  /** Who read the delivered bytes, and whether that is the writer's own code. */
  reader: z.object({ name: z.string(), independent: z.boolean() }),
  /** For each frame: largest alpha error in codes, largest and mean colour difference, and the largest at edges. */
  frames: z.array(
    z.object({ alpha: z.number(), colour: z.number(), colourMean: z.number(), edge: z.number().default(0) })
  ),
  /** Pixels of the whole clip by alpha, in 256 bins of the full range: as due, and as delivered. */
  histogram: z
    .object({ due: z.array(z.number()), found: z.array(z.number()) })
    .nullable()
    .default(null),
  worstFrame: z.number().int().min(1).nullable(),
  depth: z.number(),
  sha256: z.string().nullable(),
  thresholds: z.object({
    alphaCodes: z.number(),
    alphaLossy: z.number(),
    colourMean: z.number(),
    colourHigh: z.number(),
    colourShare: z.number()
  })
})
export type ProofReport = z.infer<typeof ProofReport>
