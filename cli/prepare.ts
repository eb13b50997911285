/** `--prepare FILE`: the steps of a saved preparation, done before a source is poured. */
import path from 'node:path'
import { impossible } from '../core/base/errors'
import { stepKindById } from '../core/prepare/kinds'
import { othersOf, preparationProblems, preparedFacts, readPreparation } from '../core/prepare/preparation'
import { preparedSpec, type SourceFacts, type SourceSpec } from '../core/source/source'
import type { Origin } from '../core/judge/ledger/ledger-of'
import { bringOne, decided, wholeSpec, type Brought } from './bring-in'
import { broughtAs } from './taking'
import { readAt } from './text-at'
import { text, type Call, type Options } from './call'

/** A source as it is poured: brought, and prepared or not. */
export interface Prepared {
  spec: SourceSpec
  facts: SourceFacts
}

/**
 * What makes a source one prepared by the preparation at a path. Where a step looks at another source, the file names
 * it by its path, from where the preparation lies. The function throws when a step cannot be carried out on the source
 * it is given.
 */
export async function preparer(
  location: string,
  options: Options,
  call: Call
): Promise<(brought: Brought) => Prepared> {
  const { steps } = await readAt(location, 'the preparation', readPreparation)
  const others: Record<string, SourceSpec> = {}
  for (const id of othersOf(steps)) {
    const other = await bringOne(path.resolve(path.dirname(location), id), call)
    others[id] = (await decided(other, options, call)).spec
  }
  return brought => {
    const [problem] = preparationProblems(brought.facts, steps)
    if (problem)
      throw impossible(
        `step ${stepKindById(steps.find(step => step.id === problem[0])!.kind).name}: ${problem[1]}`,
        location
      )
    return {
      spec: preparedSpec(wholeSpec(brought), steps, others),
      facts: preparedFacts(brought.facts, steps)
    }
  }
}

/**
 * What deliveries are held against: the source at a path, in the mode that `--reference-alpha` says or its pixels show,
 * as `--prepare` makes it.
 */
export async function referenceAt(
  location: string,
  options: Options,
  call: Call
): Promise<Prepared & { origin?: Origin }> {
  const brought = await broughtAs(location, 'reference-alpha', options, call)
  const file = text(options, 'prepare')
  const { spec, facts } = file === undefined ? brought : (await preparer(file, options, call))(brought)
  return { spec, facts, ...(brought.origin ? { origin: brought.origin } : {}) }
}
