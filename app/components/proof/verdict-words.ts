/** What the head of a proof says. */
import type { AloneReport } from '~~/core/judge/proof/alone'
import type { ProofReport } from '~~/core/judge/proof/report'

const TITLES = {
  identical: 'Transparency survives: identical',
  faithful: 'Transparency survives: faithful',
  'visible-loss': 'Transparency survives with visible loss',
  broken: 'Transparency is broken'
} as const
const SIGNS = { identical: 'proven', faithful: 'proven', 'visible-loss': 'lossy', broken: 'broken' } as const
const ALONE = {
  yes: { title: 'It is what it says', kind: 'faithful', sign: 'proven' },
  no: { title: 'It contradicts itself', kind: 'broken', sign: 'broken' },
  unsaid: { title: 'It does not say what it is', kind: 'visible-loss', sign: 'lossy' },
  unsure: { title: 'Its pixels cannot tell', kind: 'visible-loss', sign: 'lossy' }
} as const

export interface VerdictWords {
  kind: ProofReport['verdict']
  title: string
  sign: 'proven' | 'lossy' | 'broken'
  sentence: string
}

/** The verdict of a proof against a source, else what a file by itself is; null where there is neither. */
export function verdictOf(report: ProofReport | null, alone: AloneReport | null): VerdictWords | null {
  if (report) {
    const { verdict, reader } = report
    return {
      kind: verdict,
      title: report.title || TITLES[verdict],
      sign: SIGNS[verdict],
      sentence: report.sentence + (reader.independent ? '' : ` Read back by ${reader.name}.`)
    }
  }
  return alone && { ...ALONE[alone.agrees], sentence: alone.sentence }
}
