/**
 * The ledger: what became of the source on its way to the file, one line for each thing that happened, stage by stage.
 * The headline of a proof is its worst line that nobody asked for.
 */
import { z } from 'zod'
import type { Verdict } from '../proof/grades'

export const STAGES = ['taken', 'prepared', 'recipe', 'file'] as const
export type Stage = (typeof STAGES)[number]

/** What a stage is called where it is shown. */
export const STAGE_NAMES: Record<Stage, string> = {
  taken: 'Taken as',
  prepared: 'Prepared',
  recipe: 'Recipe',
  file: 'File'
}

export const LedgerLine = z.object({
  stage: z.enum(STAGES),
  id: z.string(),
  severity: z.enum(['none', 'note', 'loss', 'broken']),
  /** Whether somebody asked for it on the bench or in the outlet, and so knows of it. */
  asked: z.boolean(),
  sentence: z.string(),
  /** Of a step: sums over the frames delivered and extremes, before and after it; see `light.ts`. */
  figures: z.record(z.string(), z.tuple([z.number(), z.number()])).optional()
})
export type LedgerLine = z.infer<typeof LedgerLine>

const RANK: Record<LedgerLine['severity'], number> = { none: 0, note: 1, loss: 2, broken: 3 }

/**
 * The line that the headline is about: the worst that nobody asked for, the nearest to the source where several are as
 * bad.
 */
export function worstLine(lines: readonly LedgerLine[]): LedgerLine | null {
  const open = lines.filter(line => !line.asked)
  return open.reduce<LedgerLine | null>(
    (worst, line) => (worst && RANK[worst.severity] >= RANK[line.severity] ? worst : line),
    null
  )
}

/** Lines that change codes and cost nothing that is seen. */
const CHANGES = new Set(['depth', 'mode-change'])

/**
 * The verdict of the whole way: that of the file, or worse where something before it was lost that nobody asked for.
 */
export function headlineVerdict(lines: readonly LedgerLine[], file: Verdict): Verdict {
  if (file === 'broken') return 'broken'
  const severity = worstLine(lines)?.severity ?? 'none'
  if (severity === 'broken') return 'broken'
  if (severity === 'loss' || file === 'visible-loss') return 'visible-loss'
  const changed = lines.some(line => CHANGES.has(line.id) && line.severity !== 'none')
  return file === 'faithful' || changed ? 'faithful' : 'identical'
}

/** What a delivery carries, where that is not colour and alpha together. */
export type Carries = 'alpha-only' | 'colour-only' | 'fill-and-key' | 'all'

const ALONE: Partial<Record<Carries, string>> = {
  'alpha-only': 'alpha alone: no colour is in it',
  'colour-only': 'colour alone: no alpha is in it'
}

const WORDS: Record<Verdict, string> = {
  identical: 'identical',
  faithful: 'faithful',
  'visible-loss': 'visible loss',
  broken: 'broken'
}

/** Whether nothing but the sound is lost that nobody asked to lose; `file` is the verdict of the file alone. */
export function onlySoundLost(lines: readonly LedgerLine[], file: Verdict): boolean {
  const losses = lines.filter(line => line.severity === 'loss' && !line.asked)
  return file !== 'visible-loss' && losses.length > 0 && losses.every(line => line.id === 'sound')
}

/** The headline in words. Transparency survives only where colour and alpha are both delivered. */
export function headlineTitle(verdict: Verdict, carries: Carries, solid: boolean, soundLost = false): string {
  const alone = ALONE[carries]
  const word = WORDS[verdict]
  if (verdict === 'broken') return 'Transparency is broken'
  if (alone) return `${word[0]!.toUpperCase()}${word.slice(1)}, ${alone}`
  if (solid) return `${word[0]!.toUpperCase()}${word.slice(1)}, and nothing in it is see-through`
  if (verdict === 'visible-loss' && soundLost) return 'Transparency survives, the sound does not'
  return verdict === 'visible-loss' ? 'Transparency survives with visible loss' : `Transparency survives: ${word}`
}

/** The ledger as lines of text; lines at which nothing happened are left out. */
export function sayLedger(lines: readonly LedgerLine[]): string[] {
  return lines
    .filter(line => line.severity !== 'none')
    .map(
      line =>
        `${STAGE_NAMES[line.stage].toLowerCase()}, ${line.severity}${line.asked ? ', as asked' : ''}: ${line.sentence}`
    )
}
