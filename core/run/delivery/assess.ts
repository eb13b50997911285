/**
 * What is to be said of a cell before it is poured: what stands against it, and its plan. Found once for as long as
 * nothing changes.
 */
import { sameJson } from '../../base/canonical'
import type { Marks } from '../../job/marks'
import type { Outlet } from '../../job/outlet/outlet'
import { ownProblems, ownSteps, withoutRange } from '../../job/outlet/own-steps'
import { settingsInOrder, type OutletSetting } from '../../job/outlet/settings'
import { rangeTaken } from '../../job/outlet/range'
import { preparedFacts } from '../../prepare/preparation'
import { planPour, pourProblems, type PourPlan } from '../../job/outlet/plan'
import { soundsOf } from '../../source/sound'
import type { SourceFacts } from '../../source/source'

/** A source as it is poured, and the outlet it is poured through. */
export interface Cell {
  facts: SourceFacts
  outlet: Outlet
  marks: Marks | null
  /** The name of the span that the source is; empty where it is none. */
  span?: string
  /** Sentences on why it cannot be poured whatever its outlet says: its files are not at hand. */
  against?: readonly string[]
}

export interface Assessment {
  /** Everything that stands against a pour, in sentences that say what to do; empty when it can go. */
  readonly problems: readonly string[]
  /**
   * The plan, made when it is asked for first, since it names every picture; null where something stands against it.
   */
  plan(): PourPlan | null
}

/** What a cell would deliver, and why it cannot be poured where it cannot. */
export function assess({ facts, outlet, marks, span = '', against = [] }: Cell): Assessment {
  const steps = ownSteps(outlet, facts, marks)
  const shaped = steps.length ? preparedFacts(facts, steps) : facts
  // where the outlet has steps, the first of them has taken its range
  const through = steps.length ? withoutRange(outlet) : outlet
  const taken = rangeTaken(outlet, facts, marks)
  const found = [
    ...(steps.length && taken.to < taken.from ? pourProblems(facts, outlet, marks) : []),
    ...ownProblems(facts, steps),
    ...pourProblems(shaped, through, steps.length ? null : marks)
  ]
  const problems = against.length ? against : [...new Set(found)]
  let made: PourPlan | null = null
  const plan = (): PourPlan =>
    steps.length ? { ...planPour(shaped, through, null, span), outlet, steps } : planPour(facts, outlet, marks, span)
  return { problems, plan: () => (problems.length ? null : (made ??= plan())) }
}

/** Assessments by key, each kept for as long as what it depends on are the same objects. */
export function assessments(): (key: string, dependsOn: readonly unknown[], cell: () => Cell) => Assessment {
  const known = new Map<string, { dependsOn: readonly unknown[]; found: Assessment }>()
  return (key, dependsOn, cell) => {
    const kept = known.get(key)
    if (kept && dependsOn.every((each, i) => each === kept.dependsOn[i])) return kept.found
    const found = assess(cell())
    known.set(key, { dependsOn, found })
    return found
  }
}

const settings = new Map<string, OutletSetting>(settingsInOrder)

/** Whether a value of an outlet decides bytes or names: one that says what leaving it out says does not. */
function inRecipe([key, value]: [string, unknown]): boolean {
  const setting = settings.get(key)
  return setting ? setting.inRecipe && value !== setting.leftOut : key === 'options'
}

const recipes = new WeakMap<PourPlan, string>()

/**
 * The plan without what does not change the bytes: results made under another recipe are out of date. Made once for a
 * plan, which is a value: a board asks for it of each cell in sight, over and over.
 */
export function recipeOf(plan: PourPlan): string {
  const known = recipes.get(plan) ?? writtenOut(plan)
  recipes.set(plan, known)
  return known
}

function writtenOut(plan: PourPlan): string {
  // of an outlet's steps only those that are done to this source count; results from before there were any had none
  const recipe = Object.fromEntries(Object.entries(plan.outlet).filter(inRecipe))
  // of the outlet's word on sound only what it came to counts: results from before there was one had none
  const [heard, ...more] = soundsOf(plan.deliverable)
  return sameJson([
    recipe,
    plan.frames.length,
    plan.frames[0],
    plan.deliverable.rate,
    heard ? [heard.from, heard.samples] : null,
    ...more.map(({ from, samples, track }) => [track, from, samples]),
    ...(plan.steps?.length ? [plan.steps.map(({ kind, settings }) => ({ kind, settings }))] : []),
    // results from before tags were carried had the usual ones
    ...(plan.deliverable.tags ? [plan.deliverable.tags] : [])
  ])
}
