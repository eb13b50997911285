/** The proof of a delivery: reads it back whole, frame by frame in the pool, and reports. */
import { PourError } from '../../base/errors'
import { examine } from '../examine/examination'
import { formatById } from '../../open/registry'
import { withLedger, type Origin } from '../ledger/ledger-of'
import { soundsOf } from '../../source/sound'
import { openForProof } from '../../open/stored'
import type { Finding, SourceSpec, FilesSpec } from '../../source/source'
import { stampsOf, unchangedSince, type Stamps } from '../../source/stamp'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import type { LedgerTasks } from '../ledger/tasks'
import type { ReadBack } from './tasks'
import type { Compared, ProofTasks } from './tasks'
import { isLookedAt } from './looked-at'
import { displaced, sayDisplaced, sayShift, type Signature } from './displacement'
import type { ProofReport } from './report'
import { proveSounds } from './sound'
import type { Expectation } from './evidence'
import { likelyMistake } from './mistakes'
import { reportOf } from './verdict'

export interface ProofRequest {
  reference: SourceSpec
  /** Reference frame for each frame due, counted from 0. */
  frames: readonly number[]
  expected: Expectation
  delivered: FilesSpec
  /** How the reference came to be taken as it is, for the ledger. */
  origin?: Origin
  /** Of the reference's files when the delivery was poured: a reference that is not that any more proves nothing. */
  stamps?: Stamps | null
  /**
   * Fingerprints of the frames as they went into the encoder, where they are known. Once a few frames have been found
   * equal to the source, others that have theirs are not read from it again.
   */
  prints?: readonly string[] | null
  /**
   * What was found as frames were read back while they were poured. Once a few frames have been found to be as was said
   * then, others whose bytes in the file are the same are not compared again.
   */
  readBack?: readonly (ReadBack | null)[] | null
  /** Frames whose outcomes it holds are not compared again. */
  notebook?: Notebook
}

/** What came of one frame: its comparison, or why it could not be compared. */
export type FrameOutcome = Compared | string

/**
 * Where outcomes are kept while a proof runs, so that one that was cut off goes on where it was. Outcomes are in order
 * of frames.
 */
export interface Notebook {
  read(): Promise<readonly FrameOutcome[]>
  /** Adds the outcomes of the frames that follow those kept. */
  add(outcomes: readonly FrameOutcome[]): Promise<void>
}

/** Frames compared with the source whatever their fingerprints say: first, last, and between. */
const WITNESSES = 4

/** Frames kept in the notebook together. */
const PAGE = 24

/** Frames far off that are looked for elsewhere in the clip, and that are tried for a shift. */
const MOST_SOUGHT = 400
const MOST_SHIFTED = 3

/** Frames that are far off and that no mistake of the whole clip explains: are they others, or shifted? */
async function seekDisplaced(
  { reference, frames, expected, delivered }: ProofRequest,
  outcomes: readonly FrameOutcome[],
  deliveredFrames: number,
  { pool, signal }: Pick<Workshop<ProofTasks & LedgerTasks>, 'pool' | 'signal'>
): Promise<Finding[]> {
  const options = { signal }
  const comparisons = outcomes.flatMap(o => (typeof o === 'string' ? [] : [o.comparison]))
  if (likelyMistake(comparisons) !== null) return []
  const off = outcomes.flatMap((o, i) => (typeof o !== 'string' && o.comparison.explanations.length > 0 ? [i] : []))
  if (off.length === 0 && deliveredFrames === frames.length) return []
  const extra = Array.from({ length: Math.max(0, deliveredFrames - frames.length) }, (_, n) => frames.length + n)
  const sought = off.length + extra.length <= MOST_SOUGHT ? [...off, ...extra] : []
  const found = new Map<number, Signature>()
  const due: Signature[] = []
  if (sought.length) {
    await inOrder(
      frames.length,
      pool.size * 2,
      i => pool.run('dueSignature', [reference, frames[i]!, expected], options),
      signature => void due.push(signature)
    )
    await inOrder(
      sought.length,
      pool.size * 2,
      n => pool.run('foundSignature', [delivered, sought[n]!], options),
      (signature, n) => void found.set(sought[n]!, signature)
    )
  }
  const places = displaced(found, due)
  const findings = sayDisplaced(places, deliveredFrames, frames.length)
  const unexplained = places
    .filter(p => p.shows === null && p.alphaOf === null && p.frame < frames.length)
    .map(p => p.frame)
  if (unexplained.length === 0) return findings
  const asked = unexplained.filter((_, n) => n % Math.ceil(unexplained.length / MOST_SHIFTED) === 0)
  const shifts = await Promise.all(
    asked.map(i =>
      pool.run(
        'shift',
        [{ reference, referenceIndex: frames[i]!, delivered, deliveredIndex: i, form: expected }],
        options
      )
    )
  )
  const shift = sayShift(shifts, unexplained)
  return shift ? [...findings, shift] : findings
}

/** Whether two comparisons found the same, to the last count. */
function sameComparison(a: Compared, b: Compared | null): boolean {
  return JSON.stringify(a.comparison) === JSON.stringify(b?.comparison)
}

/**
 * Proves a delivery. Delivered frames that cannot be read make the verdict, not an exception. It rejects when it is
 * stopped, when the reference cannot be read or has changed since `stamps`, and when code or store cannot be got at:
 * then nothing is proven. Memory is bounded by the frames in flight.
 */
export async function prove(
  request: ProofRequest,
  { host, pool, signal }: Workshop<ProofTasks & LedgerTasks>,
  onProgress: (done: number, total: number) => void = () => undefined
): Promise<ProofReport> {
  const { reference, delivered, expected, frames, notebook } = request
  const format = formatById(delivered.format)
  const options = { signal }
  const stamps = request.stamps ?? (await stampsOf(reference, host))
  await unchangedSince(stamps, reference, host)
  const source = await openForProof(delivered, host)
  const facts = source.facts
  await source.close()
  const count = Math.min(frames.length, facts.frames)
  const outcomes: FrameOutcome[] = [...((await notebook?.read()) ?? [])].slice(0, count)
  const kept = outcomes.length
  let written = kept
  const note = async (): Promise<void> => {
    await notebook?.add(outcomes.slice(written))
    written = outcomes.length
  }
  onProgress(kept, count)
  const sum = pool.run('digest', [[...delivered.files, ...(delivered.key ?? [])]], options)
  // it is waited for below; where a frame rejects first, that is the error that counts
  sum.catch(() => undefined)
  const compared = async (i: number, print: string | null): Promise<FrameOutcome> => {
    try {
      return await pool.run(
        'compare',
        [
          {
            reference,
            referenceIndex: frames[i]!,
            delivered,
            deliveredIndex: i,
            form: expected,
            look: isLookedAt(i, count),
            print
          }
        ],
        options
      )
    } catch (error) {
      // only what the delivered bytes are to blame for is a verdict about them
      if (error instanceof PourError && error.kind === 'unreadable') return error.message
      throw error
    }
  }
  // a pour that had taken wrong frames would have noted them as right: so a few are held against the source itself, and
  // what they show decides
  const witnesses = new Map<number, FrameOutcome>()
  if (request.prints || request.readBack) {
    const asked = [
      ...new Set(Array.from({ length: WITNESSES }, (_, n) => Math.round((n * (count - 1)) / (WITNESSES - 1))))
    ].filter(i => i >= kept)
    await inOrder(
      asked.length,
      pool.size * 2,
      n => compared(asked[n]!, null),
      (outcome, n) => void witnesses.set(asked[n]!, outcome)
    )
  }
  const exact = [...witnesses.values()].every(
    outcome => typeof outcome !== 'string' && outcome.comparison.changed === 0
  )
  const asNoted = [...witnesses].every(
    ([i, outcome]) => typeof outcome !== 'string' && sameComparison(outcome, request.readBack?.[i]?.compared ?? null)
  )
  /** What was found while it was poured, if the file holds those very bytes. */
  const noted = async (i: number): Promise<FrameOutcome | null> => {
    const found = asNoted ? request.readBack?.[i] : null
    if (!found || (isLookedAt(i, count) && !found.compared.look)) return null
    try {
      return (await pool.run('encodedPrint', [delivered, i], options)) === found.print ? found.compared : null
    } catch (error) {
      if (!(error instanceof PourError)) throw error
      // the comparison that is made instead meets the same fault, and says it
      return null
    }
  }
  await inOrder(
    count - kept,
    pool.size * 2,
    async n =>
      witnesses.get(kept + n) ??
      (await noted(kept + n)) ??
      compared(kept + n, exact ? (request.prints?.[kept + n] ?? null) : null),
    async (outcome, n) => {
      outcomes.push(outcome)
      if (outcomes.length - written >= PAGE) await note()
      onProgress(kept + n + 1, count)
    }
  )
  if (outcomes.length > written) await note()
  const failures = outcomes.flatMap((o, i) => (typeof o === 'string' ? [{ frame: i + 1, sentence: o }] : []))
  const comparisons = outcomes.flatMap(o => (typeof o === 'string' ? [] : [o.comparison]))
  const seen = outcomes.flatMap((o, i) => (typeof o === 'string' || !o.look ? [] : [{ frame: i + 1, look: o.look }]))
  const sameSize = facts.width === expected.width && facts.height === expected.height
  const report = reportOf({
    expected,
    delivered: facts,
    format,
    comparisons,
    failures,
    answer: seen.length ? examine(seen, facts).alpha : null,
    sha256: await sum,
    sound: await proveSounds(reference, delivered, soundsOf(expected), host),
    displaced:
      sameSize && failures.length === 0 ? await seekDisplaced(request, outcomes, facts.frames, { pool, signal }) : []
  })
  await unchangedSince(stamps, reference, host)
  const origin = request.origin ?? { answer: null, byHand: false }
  return withLedger(report, { reference, frames, expected, delivered: facts, origin }, { host, pool, signal })
}
