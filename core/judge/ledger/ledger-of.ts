/** The ledger of a delivery, from the source as it was brought in to the file, and the report with its headline. */
import type { AlphaAnswer } from '../examine/mode'
import type { Host } from '../../frame/host'
import { soundsOf } from '../../source/sound'
import { preparedFacts, sourceFrames } from '../../prepare/preparation'
import type { ProofReport } from '../proof/report'
import type { Expectation } from '../proof/evidence'
import { modeTaken } from '../../open/interpret'
import { openSource } from '../../open/open'
import { AS_FOUND, type SourceFacts, type SourceSpec, beneath, keepsCodes } from '../../source/source'
import type { Workshop } from '../../frame/workshop'
import type { LedgerTasks } from './tasks'
import { headlineTitle, headlineVerdict, onlySoundLost, worstLine, type LedgerLine } from './ledger'
import { fileLines, formatCarries, preparedLines, recipeLines, takenLines } from './lines'
import { mayChange } from './measure'
import { measureRecipe, measureSteps } from './measured'

/** How a source came to be taken as it is. */
export interface Origin {
  answer: AlphaAnswer | null
  /** Whether somebody chose the mode. */
  byHand: boolean
}

export interface LedgerSubject {
  reference: SourceSpec
  /** Reference frame for each frame due, counted from 0. */
  frames: readonly number[]
  expected: Expectation
  delivered: SourceFacts
  origin: Origin
}

async function factsOf(spec: SourceSpec, host: Host): Promise<SourceFacts> {
  const source = await openSource(spec, host)
  await source.close()
  return source.facts
}

/** The source as its files are, and as taken; headers alone are read. */
async function broughtFacts(reference: SourceSpec, host: Host): Promise<{ found: SourceFacts; taken: SourceFacts }> {
  const base = beneath(reference)
  const { holdGaps, eachPicture, layer, damaged } = base.interpretation
  return {
    found: await factsOf(
      {
        ...base,
        interpretation: {
          ...AS_FOUND,
          holdGaps,
          ...(damaged ? { damaged } : {}),
          ...(eachPicture ? { eachPicture } : {}),
          ...(layer === undefined ? {} : { layer })
        }
      },
      host
    ),
    taken: await factsOf(base, host)
  }
}

/**
 * Every line of the way to the file. Reads the source again where a preparation or a recipe may have changed what is
 * seen.
 */
async function linesOf(way: LedgerSubject, workshop: Workshop<LedgerTasks>): Promise<LedgerLine[]> {
  const { reference, frames, expected, delivered, origin } = way
  const { found, taken } = await broughtFacts(reference, workshop.host)
  const steps = reference.kind === 'prepared' ? reference.steps : []
  const prepared = preparedFacts(taken, steps)
  const used = sourceFrames(taken, steps)
  const asked = [...new Set(frames.map(i => used[i] ?? i))].sort((a, b) => a - b)
  const { interpretation } = beneath(reference)
  const mode = modeTaken(taken.claim, interpretation)
  // a step computes on straight colour
  const made = steps.some(step => step.on) && mode.mode === 'premultiplied' ? { mode: 'straight' as const } : mode
  const changes = mayChange(expected, prepared.bitDepth, made.mode === 'premultiplied')
  return [
    ...takenLines(found, interpretation, origin.answer, origin.byHand),
    ...preparedLines(taken, steps, await measureSteps(reference, asked, workshop)),
    ...recipeLines({
      prepared,
      mode: made,
      form: expected,
      delivered,
      frames: frames.length,
      carries: formatCarries(expected, expected.paired ?? false),
      figures: changes ? await measureRecipe(reference, { frames, form: expected }, workshop) : null,
      sounds: soundsOf(expected),
      silent: expected.silent ?? false,
      codesKept: keepsCodes(interpretation, prepared.tags)
    })
  ]
}

/** The report of the file alone, with its ledger and the headline that follows from both. */
export async function withLedger(
  file: ProofReport,
  way: LedgerSubject,
  workshop: Workshop<LedgerTasks>
): Promise<ProofReport> {
  const ledger = [...(await linesOf(way, workshop)), ...fileLines(file)]
  const verdict = headlineVerdict(ledger, file.verdict)
  const solid = file.findings.some(f => f.id === 'nothing-see-through')
  const carries = formatCarries(way.expected, way.expected.paired ?? false)
  const worst = worstLine(ledger)
  const lost = worst && worst.severity === 'loss' && worst.stage !== 'file' ? worst : null
  // where nothing was lost, what made the file less than the source is still told first
  const lessened =
    lost ??
    (verdict === file.verdict ? null : (ledger.find(line => line.id === 'depth' || line.id === 'mode-change') ?? null))
  return {
    ...file,
    verdict,
    title: headlineTitle(verdict, carries, solid, onlySoundLost(ledger, file.verdict)),
    sentence: lessened ? `${lessened.sentence} The file holds the rest as it should: ${file.sentence}` : file.sentence,
    file: { verdict: file.verdict, sentence: file.sentence },
    ledger
  }
}
