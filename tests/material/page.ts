/** The page that shows the matrix: a row a kind of content, a column a storage, a sign for each depth and coding. */
import { codings } from './codings'
import { storages } from './storages'
import type { Outcome } from './matrix'

export interface Count {
  cases: number
  decidable: number
  decided: number
  wrong: number
  wronglyTaken: number
}

/** A wrong answer is one that shows another picture, and says so with more than a file's own word is worth. */
export const isWrong = (o: Outcome): boolean => o.decided && !o.right

export function countOf(outcomes: readonly Outcome[]): Count {
  const count = (pick: (o: Outcome) => boolean): number => outcomes.filter(pick).length
  return {
    cases: outcomes.length,
    decidable: count(o => o.decidable),
    decided: count(o => o.decidable && o.decided && o.right),
    wrong: count(isWrong),
    wronglyTaken: count(o => o.storage.startsWith('straight') && !o.takenRight)
  }
}

const sign = (o: Outcome): string => (isWrong(o) ? '✗' : o.decided ? '✓' : o.decidable ? '?' : '≡')

export function matrixPage(outcomes: readonly Outcome[]): string {
  const c = countOf(outcomes)
  const ways = codings.flatMap(coding => coding.depths.map(depth => ({ coding: coding.name, depth })))
  const names = [...new Set(outcomes.map(o => o.content))]
  const cell = (content: string, storage: string): string =>
    ways
      .map(way =>
        outcomes.find(
          o => o.content === content && o.storage === storage && o.coding === way.coding && o.depth === way.depth
        )
      )
      .map(o => (o ? sign(o) : '·'))
      .join('')
  return `# Which mode is it?

Drawn by \`npm run matrix\`; a test compares this page with what it finds. Each kind of content (three frames of 320x180, made by
\`tests/material\`) is stored in each way, labelled with nothing, and asked which mode it is.

- **${c.cases}** cases, **${c.decidable}** of which another reading would show as another picture (by more than 2 codes of 255 in more than one visible pixel of 500).
- **${c.decided}** of those (${((100 * c.decided) / c.decidable).toFixed(1)} %) are decided, and rightly. **${c.wrong}** answers are wrong.
- Stored straight in a file that is straight by its standard, **${c.wronglyTaken}** are taken for something else.

The five signs of a cell stand for ${ways.map(way => `${way.coding} at ${way.depth} bits`).join(', ')}. ✓ right; ≡ both readings show
the same picture, and Pour says that it cannot tell; ? could be told, and is not; ✗ wrong; · not stored that way.

| content | ${storages.map(s => s.name).join(' | ')} |
| --- |${storages.map(() => ' --- |').join('')}
${names.map(name => `| ${name} | ${storages.map(s => cell(name, s.name)).join(' | ')} |`).join('\n')}
`
}
