/**
 * What an outlet does to every source that goes through it: its size, its rate, its shape of pixels, its depth, after
 * the source's own preparation.
 */
import type { Marks } from '../marks'
import { preparationProblems, type Step } from '../../prepare/preparation'
import { stepKindById, stepKinds } from '../../prepare/kinds'
import { GROUPS, type StepKind } from '../../prepare/step'
import type { SourceFacts, SourceSpec } from '../../source/source'
import { preparedSpec } from '../../source/source'
import { rangeTaken, wholeRange } from './range'
import type { Outlet } from './outlet'

/** How the ids of an outlet's steps begin once they stand among a source's. */
const MARK = 'outlet '

/** Whether a step is an outlet's and not the source's own. */
export const isOutletStep = (step: Step): boolean => step.id.startsWith(MARK)

const PLAIN = ['number', 'choice', 'switch', 'rate', 'colour', 'text']

/** Kinds of steps that an outlet may have: those that need nothing shown in the picture, nor another source. */
export const outletKinds: readonly { group: string; kinds: readonly StepKind[] }[] = GROUPS.filter(
  group => group === 'Frame' || group === 'Time' || group === 'Colour' || group === 'Depth'
)
  .map(group => ({
    group,
    kinds: stepKinds.filter(
      kind =>
        kind.group === group && kind.id !== 'range' && Object.values(kind.fields).every(f => PLAIN.includes(f.type))
    )
  }))
  .filter(({ kinds }) => kinds.length > 0)

/**
 * The steps in the order they are done, on a source of these facts: where there are any, the range the outlet takes
 * comes first, so that what follows is done to those frames alone. Empty for an outlet without steps.
 */
export function ownSteps(outlet: Outlet, facts: SourceFacts, marks: Marks | null): Step[] {
  const on = outlet.steps.filter(step => step.on)
  if (on.length === 0) return []
  const { from, to } = rangeTaken(outlet, facts, marks)
  const cut: Step[] =
    from === 1 && to === facts.frames
      ? []
      : [{ id: `${MARK}range`, kind: 'range', on: true, settings: { from, to: Math.max(from, to) } }]
  return [...cut, ...on.map(step => ({ ...step, id: MARK + step.id }))]
}

/** The outlet without a range of its own, once its steps have taken it. */
export const withoutRange = (outlet: Outlet): Outlet => ({ ...outlet, range: wholeRange })

/** What stands against the steps, in sentences. */
export const ownProblems = (facts: SourceFacts, steps: readonly Step[]): string[] =>
  [...preparationProblems(facts, steps)].map(([id, problem]) => {
    const { kind } = steps.find(step => step.id === id)!
    return `${stepKindById(kind).name}: ${problem}`
  })

/** A source with the steps of a plan behind its own. */
export function withOwnSteps(spec: SourceSpec, steps: readonly Step[] = []): SourceSpec {
  if (steps.length === 0) return spec
  return spec.kind === 'prepared' ? { ...spec, steps: [...spec.steps, ...steps] } : preparedSpec(spec, steps, {})
}
