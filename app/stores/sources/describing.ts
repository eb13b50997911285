/** What sources are, as they are taken: their facts, and how workers open them. */
import type { AlphaMode } from '~~/core/frame/frame'
import { sameJson } from '~~/core/base/canonical'
import { sceneFile, sceneSpec } from '~~/core/draw/scene/as-file'
import type { Scene } from '~~/core/draw/scene/scene'
import { undecided } from '~~/core/job/damaged'
import type { Job, JobSource } from '~~/core/job/job'
import {
  asStored,
  filesSpecOf,
  othersIn,
  shownIn as sourcesShown,
  shownOf,
  inMode,
  withShown
} from '~~/core/job/resolve'
import type { Examination } from '~~/core/judge/examine/examination'
import { modeAdvised } from '~~/core/judge/examine/mode'
import type { Origin } from '~~/core/judge/ledger/ledger-of'
import { interpretedFacts } from '~~/core/open/interpret'
import { preparedFacts, type Step } from '~~/core/prepare/preparation'
import { preparedSpec, type FilesSpec, type SceneSpec, type SourceFacts, type SourceSpec } from '~~/core/source/source'
import type { SourceState } from './files'

/** Findings of a clip change with gaps held or closed, and with nothing else of its interpretation. */
const ownKey = (source: JobSource): string =>
  sameJson([
    source.interpretation.holdGaps,
    ...(source.interpretation.damaged ? [source.interpretation.damaged] : []),
    source.interpretation.rate,
    ...(source.interpretation.eachPicture ? ['each'] : []),
    ...(source.interpretation.layer === undefined ? [] : ['layer', source.interpretation.layer]),
    ...(source.scene ? [sceneFile(source.scene).stamp] : [])
  ])

/** What describing needs: the job, the state of its files, and what was found in them. */
export interface Known {
  job: () => Job
  states: ReadonlyMap<string, SourceState>
  examinations: ReadonlyMap<string, Examination>
  /** What a few frames said of sources that are still being examined. */
  spreads: ReadonlyMap<string, Examination>
}

/** Facts and descriptions of sources; each asks for what is known anew. */
export function useDescribing({ job, states, examinations, spreads }: Known) {
  /** Mode frames are taken to have: what was decided by hand, else what the examination advises, as far as it came. */
  function modeOf(source: JobSource): AlphaMode | null {
    const examination = examinations.get(source.id) ?? spreads.get(source.id)
    return source.interpretation.alpha ?? (examination ? modeAdvised(examination.alpha, source.facts.claim) : null)
  }

  /** The same of a scene changes with the sources that it shows as well. */
  function examinationKey(source: JobSource): string {
    const shown = source.scene ? shownKey(source.scene) : []
    return shown.length ? sameJson([ownKey(source), ...shown]) : ownKey(source)
  }

  /** How a source came to be taken as it is. */
  function originOf(id: string): Origin {
    return { answer: examinations.get(id)?.alpha ?? null, byHand: !!job().sources[id]?.interpretation.alpha }
  }

  /** What the source is before its preparation. */
  function foundFactsOf(source: JobSource): SourceFacts {
    const state = states.get(source.id)
    if (state?.state !== 'ready')
      return {
        ...source.facts,
        // noted when it came; whether it still does is known once it is open
        stops: undefined,
        name: source.name,
        rate: source.interpretation.rate ?? source.facts.rate
      }
    const facts = interpretedFacts(source.facts, filesSpecOf(source, state))
    // what is known without looking comes first, in its own words
    const stops = facts.stops ?? undecided(source, examinations.get(source.id)?.findings ?? [])
    return stops ? { ...facts, stops } : facts
  }

  /** What the source is once prepared: what is poured. */
  const factsOf = (source: JobSource): SourceFacts => preparedFacts(foundFactsOf(source), source.steps)

  /**
   * The source as workers open it; null while its files are not at hand. `raw` leaves the stored samples uninterpreted.
   */
  function specOf(
    source: JobSource,
    { raw = false, steps = raw ? [] : source.steps }: { raw?: boolean; steps?: readonly Step[] } = {}
  ): SourceSpec | null {
    const state = states.get(source.id)
    if (state?.state !== 'ready') return null
    const spec = filesSpecOf(source, state)
    const found = raw ? asStored(spec) : inMode(spec, modeOf(source))
    const base = source.scene ? showing(found, source.scene, source.id) : found
    return base && preparedSpec(base, steps, othersAt(source, steps))
  }

  /** Ids of the sources that a scene shows, and of those that they show. */
  const shownIn = (scene: Scene): Set<string> => sourcesShown(job().sources, scene)

  /** A scene of the source `own` as workers open it; null while what it shows is not at hand, but may be. */
  function showing(of: FilesSpec, scene: Scene, own: string | null): FilesSpec | SceneSpec | null {
    const others: Record<string, SourceSpec> = {}
    for (const [name, other] of shownOf(job().sources, scene, own)) {
      const spec = specOf(other)
      if (spec) others[name] = spec
      else if (states.get(other.id)?.state !== 'failed') return null
    }
    return withShown(of, others)
  }

  /** A scene that is no source of the job, one of its elements alone for one, as workers open it. */
  const sceneAsSpec = (scene: Scene): FilesSpec | SceneSpec | null => showing(sceneSpec(scene), scene, null)

  /** Changes when a source that a scene shows does: what was made of the scene is then out of date. */
  function shownKey(scene: Scene): string[] {
    return [...shownIn(scene)].flatMap(id => {
      const other = job().sources[id]
      return other ? [id, ownKey(other), sameJson([modeOf(other), other.steps.filter(({ on }) => on)])] : []
    })
  }

  /** The sources that steps look at; they are taken before their own preparation, so that none waits for itself. */
  function othersAt(source: JobSource, steps: readonly Step[]): Record<string, SourceSpec> {
    const others: Record<string, SourceSpec> = {}
    for (const other of othersIn(job().sources, source.id, steps)) {
      const spec = specOf(other, { steps: [] })
      if (spec) others[other.id] = spec
    }
    return others
  }

  return {
    modeOf,
    examinationKey,
    originOf,
    foundFactsOf,
    factsOf,
    specOf,
    shownIn,
    shownKey,
    sceneAsSpec
  }
}
export type Describing = ReturnType<typeof useDescribing>
