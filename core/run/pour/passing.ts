/** Looking at a source while it is poured: its frames are decoded for the pour, and looked at as they pass. */
import { sameJson } from '../../base/canonical'
import type { AlphaMode } from '../../frame/frame'
import { sayAlpha } from '../../job/outlet/outlet'
import type { AlphaLook } from '../../judge/examine/look'
import type { Looks } from '../../judge/examine/looks'
import { modeTaken } from '../../open/interpret'
import { storedKey } from '../../source/identity'
import { beneath, type SourceFacts, type SourceSpec } from '../../source/source'

/** What a worker is asked to look at beside a frame that it encodes. */
export interface PassingRequest {
  /** The source beneath what is done to it, as the pour takes it. */
  of: SourceSpec
  index: number
  /** The mode of its frames while nothing is decided about them: they are looked at as they are stored. */
  alpha: AlphaMode
}

export interface Passing {
  /** What is to be looked at beside the frame of this index; null where that was looked at, or is not there. */
  request(index: number): PassingRequest | null
  take(index: number, look: AlphaLook): void
}

/** A source without what is done to its frames. */
const unprepared = (spec: SourceSpec): SourceSpec => (spec.kind === 'prepared' ? unprepared(spec.of) : spec)

/**
 * The looks that a pour of `poured` can take for `looks`; null where its frames are not those that are looked at: of
 * files taken otherwise meanwhile, and where alpha is taken for none, so that the stored one does not pass.
 */
export function passingOf(poured: SourceSpec, looks: Looks): Passing | null {
  const of = unprepared(poured)
  const { claim } = looks.facts
  const alpha = modeTaken(claim, beneath(looks.spec).interpretation)
  const taken = modeTaken(claim, beneath(of).interpretation)
  if (storedKey(of) !== storedKey(looks.spec) || (alpha.mode === 'none') !== (taken.mode === 'none')) return null
  return {
    request: index => (looks.wants(index) ? { of, index, alpha } : null),
    take: (index, look) => looks.take(index, look)
  }
}

/**
 * What is to be said where a source was poured as a few of its frames showed it, and all show it otherwise: in a
 * sentence; null where they do not.
 */
export function sayOtherwise({ name, frames }: SourceFacts, begun: AlphaMode, all: AlphaMode): string | null {
  if (sameJson(begun) === sameJson(all)) return null
  return `${name}: a few frames said ${sayAlpha(begun)}; all ${frames} say ${sayAlpha(all)}, so it is poured again.`
}
