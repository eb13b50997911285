/** Deciding about pictures of a sequence that cannot be read: held, left out, or undecided again. */
import { picturesAt } from '../open/frame-order'
import type { Finding } from '../source/source'
import type { JobSource } from './job'

export interface Deciding {
  /** What was found: by its frames, where pixels could not be read, or of files that are not among the others. */
  finding: Finding
  /** Numbers of the pictures that lie there; null where it is no sequence. */
  numbers: readonly number[] | null
  as: 'hold' | 'skip' | null
}

/**
 * Changes what a source is taken for. Pictures whose pixels cannot be read are found by looking, which a decision ends:
 * the finding stays with the source, so that the decision can be seen and taken back.
 */
export function decideOnPictures(source: JobSource, { finding, numbers, as }: Deciding): void {
  const { interpretation } = source
  const there = new Set(numbers)
  const former = interpretation.damaged?.numbers ?? []
  if (as === null) {
    // what lies there is looked at again, and found again where it is as it was
    const missing = former.filter(number => !there.has(number))
    source.findings = source.findings.filter(other => other.id !== finding.id || other.frames.length === 0)
    if (missing.length) interpretation.damaged = { numbers: missing, as }
    else delete interpretation.damaged
    return
  }
  const spec = { files: [], numbers: numbers ? [...numbers] : null, interpretation }
  const found = picturesAt(spec, finding.frames)
  interpretation.damaged = { numbers: [...new Set([...former, ...found])].sort((a, b) => a - b), as }
  const held = source.findings.some(other => other.id === finding.id && other.sentence === finding.sentence)
  if (finding.frames.length && !held) source.findings.push({ ...finding, frames: [...finding.frames] })
}

/** Why nothing is poured of a source in which pictures were found that cannot be read; null where that was decided. */
export function undecided(source: JobSource, found: readonly Finding[]): string | null {
  if (source.interpretation.damaged?.as) return null
  const finding = found.find(({ id, mend }) => id === 'unreadable-frames' && mend)
  return finding
    ? `${finding.sentence.replace(/\.?$/, '.')} Hold the picture before, or leave ` +
        `${finding.frames.length === 1 ? 'it' : 'them'} out.`
    : null
}
