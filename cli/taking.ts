/** A source as it is taken while it is poured: as was said, or as a few frames show it until all were looked at. */
import type { AlphaMode } from '../core/frame/frame'
import type { Examination } from '../core/judge/examine/examination'
import { Looks } from '../core/judge/examine/looks'
import { modeAdvised } from '../core/judge/examine/mode'
import { interpretedFacts } from '../core/open/interpret'
import { passingOf, sayOtherwise, type Passing } from '../core/run/pour/passing'
import type { FilesSpec, SourceSpec } from '../core/source/source'
import { bringOne, tellFindings, wholeSpec, type Brought } from './bring-in'
import { parseAlpha, text, type Call, type Options } from './call'

/** The source under a mode, and where that comes from. */
function under(brought: Brought, alpha: AlphaMode, answer: Examination['alpha'] | null): Brought {
  const spec: FilesSpec = {
    ...brought.spec,
    id: `${brought.spec.id} as ${JSON.stringify(alpha)}`,
    interpretation: { ...brought.spec.interpretation, alpha }
  }
  return {
    ...brought,
    spec,
    origin: { answer, byHand: answer === null },
    facts: interpretedFacts({ ...brought.facts, findings: [] }, { ...spec, findings: brought.facts.findings })
  }
}

/** Says on the side how pixels were taken, where the file does not say it itself. */
function tellMode({ facts }: Brought, alpha: AlphaMode, { evidence }: Examination['alpha'], call: Call): void {
  const { name, claim } = facts
  if (alpha.mode !== 'none' && (claim.mode === 'unknown' || claim.mode !== alpha.mode))
    call.remark(
      `${name} is taken as ` +
        `${alpha.mode === 'premultiplied' ? `premultiplied on ${alpha.matte}` : alpha.mode}: ${evidence.sentence}`
    )
}

export interface Taking {
  /** The source as it is taken now. */
  readonly brought: Brought
  /** What a pour of it, through what is done to it, is to look at on the way; null where all is known. */
  passing(poured: SourceSpec): Passing | null
  /**
   * Looks at what no pour has looked at, and takes the source as all of it says. In a sentence what that changed: what
   * was poured is then to be poured again; null where nothing did.
   */
  settle(): Promise<string | null>
}

function looksAt(brought: Brought, call: Call): Looks {
  const { frames } = brought.facts
  return new Looks(wholeSpec(brought), brought.facts, {
    pool: call.pool,
    signal: call.signal,
    // whoever waits for it waits for nothing else
    urgent: () => true,
    onProgress: done => call.progress('Looking', done, frames)
  })
}

/** The source as all its frames, and its file, advise it to be taken. */
async function byAll(found: Brought, looks: Looks, call: Call): Promise<{ alpha: AlphaMode; brought: Brought }> {
  const { alpha: answer } = await looks.whole()
  const alpha = modeAdvised(answer, found.facts.claim)
  tellMode(found, alpha, answer, call)
  return { alpha, brought: under(found, alpha, answer) }
}

/** The source under the mode given, or else under the one that all its pixels and its file advise. */
export async function withMode(found: Brought, given: AlphaMode | null, call: Call): Promise<Brought> {
  return given ? under(found, given, null) : (await byAll(found, looksAt(found, call), call)).brought
}

const settled = (brought: Brought): Taking => ({
  brought,
  passing: () => null,
  settle: () => Promise.resolve(null)
})

/** The source as it was said to be, or as a spread of its frames shows it; where a spread says nothing, as all do. */
export async function takingOf(found: Brought, given: AlphaMode | null, call: Call): Promise<Taking> {
  if (given) return settled(under(found, given, null))
  const looks = looksAt(found, call)
  const spread = await looks.spread()
  if (!spread) return settled((await byAll(found, looks, call)).brought)
  const begun = modeAdvised(spread.alpha, found.facts.claim)
  let brought = under(found, begun, spread.alpha)
  let open = true
  return {
    get brought() {
      return brought
    },
    passing: poured => (open ? passingOf(poured, looks) : null),
    async settle() {
      if (!open) return null
      const all = await byAll(found, looks, call)
      open = false
      brought = all.brought
      return sayOtherwise(found.facts, begun, all.alpha)
    }
  }
}

/** The source at a place, in the mode that an option says, or that its pixels show where it says none. */
export async function broughtAs(location: string, option: string, options: Options, call: Call): Promise<Brought> {
  const given = text(options, option)
  const brought = await bringOne(location, call)
  tellFindings(brought, call)
  return withMode(brought, given ? parseAlpha(given, option) : null, call)
}
