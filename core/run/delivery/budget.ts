/**
 * Settings under which a delivery stays within a size: found by really encoding samples, and told by what was given up.
 */
import type { Marks } from '../../job/marks'
import { formatById } from '../../open/registry'
import type { Outlet } from '../../job/outlet/outlet'
import type { PourPlan } from '../../job/outlet/plan'
import { stepKindById } from '../../prepare/kinds'
import { newStep } from '../../prepare/preparation'
import type { Field } from '../../base/settings/field'
import type { SourceFacts } from '../../source/source'
import { assess } from './assess'

export interface SizeLimit {
  facts: SourceFacts
  outlet: Outlet
  marks: Marks | null
  span?: string
  /** Bytes that it may come to. */
  limit: number
}

export interface WithinBudget {
  /** Whether it is within the limit; else this is the nearest that can be had. */
  met: boolean
  outlet: Outlet
  /** What it was judged to come to. */
  bytes: number
  /** What was given up, in words; empty where nothing had to be. */
  gaveUp: string[]
}

/** An estimate may be off by this much: the limit is held with it. */
const ROOM = 0.94
/** Percentages of the picture's size that are tried, one after the other, once quality alone does not do. */
const SCALES = [100, 75, 50, 33, 25] as const
/** Below this share of a setting's range colour falls apart: the picture is made smaller first. */
const LEAST = 0.3

type Lightening = readonly [key: string, field: Extract<Field, { type: 'number' }>]

const STEP = 'budget scale'

function scaled(outlet: Outlet, by: number): Outlet {
  const steps = outlet.steps.filter(({ id }) => id !== STEP)
  return by === 100
    ? { ...outlet, steps }
    : { ...outlet, steps: [...steps, newStep(STEP, stepKindById('scale'), { by })] }
}

/**
 * Finds settings, best first: as it is; then less quality, as far as colour bears it; then a smaller picture. `measure`
 * says what a plan comes to. Null where the outlet cannot pour the source at all.
 */
export async function withinBudget(
  { facts, outlet, marks, span, limit }: SizeLimit,
  measure: (plan: PourPlan) => Promise<number>
): Promise<WithinBudget | null> {
  const { options } = formatById(outlet.format)
  const most = limit * ROOM
  let base = withLoss(outlet)
  let setting = Object.entries(options).find(
    (entry): entry is [string, Lightening[1]] => entry[1].type === 'number' && entry[1].lightens === true
  ) as Lightening | undefined
  const weigh = async (tried: Outlet): Promise<number | null> => {
    const plan = assess({ facts, outlet: tried, marks, ...(span ? { span } : {}) }).plan()
    return plan && measure(plan)
  }
  const asItIs = await weigh(outlet)
  if (asItIs === null) return null
  if (asItIs <= most) return { met: true, outlet, bytes: asItIs, gaveUp: [] }
  let nearest = { outlet, bytes: asItIs, by: 100 }
  for (const by of SCALES) {
    const smaller = scaled(base, by)
    if (!setting) {
      const bytes = await weigh(smaller)
      if (bytes !== null && bytes < nearest.bytes) nearest = { outlet: smaller, bytes, by }
      if (bytes !== null && bytes <= most) break
      continue
    }
    const [key, field] = setting
    const at = (value: number): Outlet => ({ ...smaller, options: { ...smaller.options, [key]: value } })
    const highest = Number(outlet.options[key] ?? field.default)
    let low = Math.min(highest, Math.ceil(field.min + (field.max - field.min) * LEAST))
    const least = await weigh(at(low))
    // flat pictures come out no smaller with loss: then only their size is left to give
    if (by === 100 && least !== null && least >= asItIs) {
      base = outlet
      setting = undefined
      continue
    }
    if (least !== null && least < nearest.bytes) nearest = { outlet: at(low), bytes: least, by }
    if (least === null || least > most) continue
    // the largest value that stays within: sizes grow with it
    let high = highest
    while (high - low > 1) {
      const middle = Math.round((low + high) / 2)
      const bytes = await weigh(at(middle))
      if (bytes !== null && bytes <= most) {
        low = middle
        nearest = { outlet: at(middle), bytes, by }
      } else high = middle
    }
    break
  }
  return {
    met: nearest.bytes <= most,
    outlet: nearest.outlet,
    bytes: nearest.bytes,
    gaveUp: toldOf(outlet, nearest.outlet, nearest.by, setting)
  }
}

/** The outlet where colour may lose: formats that can be exact and lossy are made lossy. */
function withLoss(outlet: Outlet): Outlet {
  const { options } = formatById(outlet.format)
  const { coding } = options
  return coding?.type === 'choice' && coding.choices.some(({ value }) => value === 'lossy')
    ? { ...outlet, options: { ...outlet.options, coding: 'lossy' } }
    : outlet
}

function toldOf(before: Outlet, after: Outlet, by: number, setting: Lightening | undefined): string[] {
  const told: string[] = []
  const { options } = formatById(before.format)
  const was = (key: string): unknown => before.options[key] ?? options[key]?.default
  if (after.options.coding === 'lossy' && was('coding') !== 'lossy') told.push('colour is coded with loss')
  if (setting) {
    const [key, { label }] = setting
    if (after.options[key] !== undefined && after.options[key] !== was(key))
      told.push(`${label.toLowerCase()} ${String(was(key))} became ${String(after.options[key])}`)
  }
  if (by !== 100) told.push(`the picture is scaled to ${by} %`)
  return told
}
