/** A file judged by itself: what it says, what its pixels say, and whether the two agree. */
import { z } from 'zod'
import { colourName } from '../../base/colour'
import { examineSource } from '../examine/examine-source'
import { AlphaAnswer, overrules, sameReading } from '../examine/mode'
import { rateFraction } from '../../base/rate'
import { openSource } from '../../open/open'
import { AlphaClaim, Finding, type SourceFacts, type FilesSpec } from '../../source/source'
import type { Workshop } from '../../frame/workshop'
import type { ExamineTasks } from '../examine/tasks'
import type { ProofTasks } from './tasks'

export const AloneReport = z.object({
  version: z.literal(1),
  /**
   * Whether the file's word and its pixels agree; 'unsaid' where the file says nothing, 'unsure' where the pixels
   * cannot tell.
   */
  agrees: z.enum(['yes', 'no', 'unsaid', 'unsure']),
  sentence: z.string(),
  claim: AlphaClaim,
  answer: AlphaAnswer,
  /** What it is, in name and figure. */
  facts: z.array(z.object({ name: z.string(), value: z.string() })),
  findings: z.array(Finding),
  /** Pixels of the clip by alpha, 256 bins. */
  histogram: z.array(z.number()),
  sha256: z.string()
})
export type AloneReport = z.infer<typeof AloneReport>

const mode = (said: { mode: string; matte?: string | null }): string =>
  said.mode === 'premultiplied'
    ? `premultiplied on ${colourName(said.matte ?? '#000000')}`
    : said.mode === 'none'
      ? 'without alpha'
      : said.mode

function agreement(claim: AlphaClaim, answer: AlphaAnswer): Pick<AloneReport, 'agrees' | 'sentence'> {
  if (claim.mode === 'none') return { agrees: 'yes', sentence: `The file has no alpha, and says so: ${claim.says}.` }
  const same = sameReading(answer, claim)
  const told = answer.mode !== 'unknown' && answer.evidence.decidedBy !== 'file'
  if (!told || (!same && claim.mode !== 'unknown' && !overrules(answer))) {
    const says = claim.mode === 'unknown' ? 'The file says nothing of its alpha mode' : `The file says ${mode(claim)}`
    return {
      agrees: claim.mode === 'unknown' ? 'unsaid' : 'unsure',
      sentence: `${says}, and its pixels cannot tell. ${answer.evidence.sentence}`
    }
  }
  const sure = `${Math.round(answer.confidence * 100)} % sure`
  if (claim.mode === 'unknown')
    return {
      agrees: 'unsaid',
      sentence:
        `The file says nothing of its alpha mode; its pixels are ${mode(answer)} (${sure}). The ` +
        'receiver must be told.'
    }
  return same
    ? { agrees: 'yes', sentence: `The file says ${mode(claim)}, and its pixels agree (${sure}).` }
    : {
        agrees: 'no',
        sentence:
          `The file says ${mode(claim)}, but its pixels are ${mode(answer)} (${sure}). Programs that ` +
          'believe the file will show wrong rims.'
      }
}

function factsOf(facts: SourceFacts): AloneReport['facts'] {
  return [
    { name: 'Kind', value: facts.kind },
    { name: 'Frame size', value: `${facts.width}×${facts.height}` },
    { name: 'Frames', value: String(facts.frames) },
    { name: 'Rate, f/s', value: facts.rate ? rateFraction(facts.rate) : 'not said' },
    { name: 'Depth', value: facts.bitDepth === 32 ? 'float' : `${facts.bitDepth} bit` },
    { name: 'Alpha, as said', value: `${mode(facts.claim)} (${facts.claim.says})` },
    { name: 'Colour tags', value: facts.colour ?? 'none' },
    ...(facts.plays === null
      ? []
      : [{ name: 'Plays', value: facts.plays === 0 ? 'for ever' : `${facts.plays} times` }]),
    ...(facts.timecode ? [{ name: 'Time code', value: facts.timecode }] : [])
  ]
}

/** Reads the whole clip. Rejects when not one frame can be read, and on abort. */
export async function proveAlone(
  spec: FilesSpec,
  { host, pool, signal }: Workshop<ProofTasks & ExamineTasks>,
  onProgress: (done: number, total: number) => void = () => undefined
): Promise<AloneReport> {
  const raw: FilesSpec = { ...spec, interpretation: { ...spec.interpretation, alpha: null } }
  const source = await openSource(raw, host)
  const { facts } = source
  await source.close()
  const examination = await examineSource(raw, facts, {
    pool,
    onProgress: done => onProgress(done, facts.frames),
    signal
  })
  return {
    version: 1,
    ...agreement(facts.claim, examination.alpha),
    claim: facts.claim,
    answer: examination.alpha,
    facts: factsOf(facts),
    findings: examination.findings,
    histogram: examination.histogram,
    sha256: await pool.run('digest', [[...spec.files, ...(spec.key ?? [])]], { signal })
  }
}
