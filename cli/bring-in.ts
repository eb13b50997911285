/** From a path on the command line to opened sources. */
import { impossible, isAbort, PourError, sentenceOf, unreadable, wrongCall } from '../core/base/errors'
import { takeInBy, type Found, type Intake } from '../core/run/intake/intake'
import { lookingThrough } from '../core/run/intake/through-pool'
import { AS_FOUND, type Finding, type SourceFacts, type SourceSpec, type FilesSpec } from '../core/source/source'
import { inOrder } from '../core/base/pool'
import { withShown } from '../core/job/resolve'
import type { Origin } from '../core/judge/ledger/ledger-of'
import { filesAt } from '../platform/node/disk'
import { text, type Call, type Options } from './call'

export interface Brought {
  spec: FilesSpec
  facts: SourceFacts
  /** The sources that a scene shows, by the names it gives them. */
  shows?: Readonly<Record<string, SourceSpec>>
  /** How it came to be taken as it is, once that is decided. */
  origin?: Origin
}

/** The source as it is opened, with what it shows of others. */
export const wholeSpec = ({ spec, shows }: Pick<Brought, 'spec' | 'shows'>): SourceSpec => withShown(spec, shows ?? {})

/** All sources at a path; rejects when there is none, with the reason the files gave. */
export async function bringIn(location: string, call: Call): Promise<Brought[] & { intake?: Intake }> {
  const intake = await takeInBy(
    lookingThrough(call.pool, call.signal, call.deadline),
    await filesAt(location),
    undefined,
    call.signal
  )
  if (intake.found.length === 0) {
    // a finding names its file already
    const said = intake.findings[0]
    throw said
      ? new PourError({
          kind: said.id === 'not-possible-here' ? 'impossible' : 'unreadable',
          file: null,
          place: null,
          matter: said.sentence
        })
      : unreadable(location, null, 'there is nothing that Pour reads')
  }
  const brought: Brought[] & { intake?: Intake } = intake.found.map((found: Found, i) => ({
    spec: { ...found.spec, id: `${location}#${i}` },
    facts: found.facts
  }))
  brought.intake = intake
  return brought
}

/**
 * Says on the side what is to be known of a source before it is poured: what its file or its pictures are found to be,
 * and what of them is left out. What is a note only is for those who ask.
 */
export function tellFindings({ spec, facts }: Pick<Brought, 'spec' | 'facts'>, call: Call, of = ''): void {
  // a layer that was asked for is the one that is wanted
  const asked = Boolean(spec.interpretation.layer)
  const sentences = [...spec.findings, ...facts.findings]
    .filter(({ id, severity }) => severity !== 'note' && !(asked && id === 'layers'))
    .map(({ sentence }) => sentence)
  for (const sentence of new Set(sentences)) call.remark(of ? `${of}: ${sentence}` : sentence)
}

/**
 * The one source at a path; when there are several, the longest, with a remark. What is found of it is told by whoever
 * pours it, once it is known as what it is taken.
 */
export async function bringOne(location: string, call: Call): Promise<Brought> {
  const all = await bringIn(location, call)
  const [longest] = [...all].sort((a, b) => b.facts.frames - a.facts.frames)
  for (const finding of [...(all.intake?.findings ?? []), ...all.flatMap(b => (b === longest ? [] : b.spec.findings))])
    call.remark(finding.sentence)
  if (all.length > 1)
    call.remark(
      `${location} holds ${all.length} sources; taking "${longest!.facts.name}" with ${longest!.facts.frames} frames.`
    )
  return longest!
}

/** What is done about pictures that cannot be read, and about gaps in the numbers, as `--damaged` and `--gaps` say. */
export async function decided(brought: Brought, options: Options, call: Call): Promise<Brought> {
  const damaged = text(options, 'damaged')
  if (damaged !== undefined && !['stop', 'hold', 'skip'].includes(damaged))
    throw wrongCall(`--damaged takes stop, hold or skip, not "${damaged}"`)
  const gaps = text(options, 'gaps')
  if (gaps !== undefined && !['hold', 'close', 'stop'].includes(gaps))
    throw wrongCall(`--gaps takes hold, close or stop, not "${gaps}"`)
  let { spec } = brought
  const found = (id: string): Finding | undefined => spec.findings.find(finding => finding.id === id)
  if (damaged === 'hold' || damaged === 'skip') {
    spec = await withUnreadable(spec, brought.facts, call)
    if (spec.interpretation.damaged)
      spec = {
        ...spec,
        interpretation: { ...spec.interpretation, damaged: { ...spec.interpretation.damaged, as: damaged } }
      }
  } else if (spec.interpretation.damaged && !spec.interpretation.damaged.as)
    throw unreadable(
      brought.facts.name,
      null,
      `${(found('unreadable-frames')?.sentence ?? 'pictures of it cannot be read').replace(/\.?$/, '.')} ` +
        'Nothing is poured; --damaged hold shows the picture before, --damaged skip leaves them out'
    )
  const gap = found('missing-frames')
  if (gap && gaps === 'stop')
    throw unreadable(brought.facts.name, null, gap.sentence.replace(/ The gap is closed.*$/, ''))
  if (gaps === 'hold' && gap) {
    if (!gap.mend) throw impossible(`${brought.facts.name}: the gap is too long to be held`)
    spec = { ...spec, interpretation: { ...spec.interpretation, holdGaps: true } }
  }
  if (spec === brought.spec) return brought
  return { ...brought, spec, facts: await lookingThrough(call.pool, call.signal, call.deadline).describe(spec) }
}

/** The sequence with those pictures named whose header can be read and whose pixels cannot: each is looked at. */
async function withUnreadable(spec: FilesSpec, facts: SourceFacts, call: Call): Promise<FilesSpec> {
  if (!spec.numbers) return spec
  const lost = new Map<number, string>()
  const plain = { ...spec, interpretation: { ...AS_FOUND } }
  await inOrder(
    spec.files.length,
    2 * call.pool.size,
    i =>
      call.pool.run('frame', [plain, i], { signal: call.signal }).then(
        () => null,
        (error: unknown) => {
          if (isAbort(error)) throw error
          return sentenceOf(error)
        }
      ),
    (said, i) => {
      if (said !== null) lost.set(i, said)
    }
  )
  if (lost.size === 0) return spec
  if (lost.size === spec.files.length) throw unreadable(facts.name, null, [...lost.values()][0]!)
  const sentence =
    `${lost.size} ${lost.size === 1 ? 'picture' : 'pictures'} of this sequence could not be ` +
    `read: ${[...lost.values()].slice(0, 2).join('; ')}`
  return {
    ...spec,
    findings: [...spec.findings, { id: 'unreadable-frames', severity: 'fault', frames: [], sentence }],
    interpretation: {
      ...spec.interpretation,
      damaged: {
        numbers: [...(spec.interpretation.damaged?.numbers ?? []), ...[...lost.keys()].map(i => spec.numbers![i]!)],
        as: null
      }
    }
  }
}
