/** The plan of a pour: which frames, in what form, under which names; or why it cannot be. */
import type { Deliverable, Format } from '../formats/format'
import { formatById } from '../formats/registry'
import type { Marks } from '../job/marks'
import { rateFraction, formatRate } from '../rate'
import type { SourceFacts } from '../source/source'
import { fillName, frameNumber, unknownFields } from './names'
import { alphaBitsOf, optionValues, outletProblems, type Outlet } from './outlet'

export interface PourPlan {
  outlet: Outlet
  /** Source frames in the order they are delivered, counted from 0. */
  frames: number[]
  deliverable: Deliverable
  /** Name of the film, or of the ZIP or folder of pictures, without extension. */
  name: string
  /** Name of the file as it is handed out: the film, or the pictures' ZIP. */
  fileName: string
}

/** The range an outlet takes of a source. */
export function rangeTaken(outlet: Outlet, facts: SourceFacts, marks: Marks | null): Marks {
  const whole = { from: 1, to: facts.frames }
  const wanted = outlet.range === 'all' ? whole : outlet.range === 'marked' ? (marks ?? whole) : outlet.range
  return { from: Math.max(1, wanted.from), to: Math.min(facts.frames, wanted.to) }
}

/** Everything that stands against this pour, in sentences that say what to do; empty when it can go. */
export function pourProblems(facts: SourceFacts, outlet: Outlet, marks: Marks | null): string[] {
  const format = formatById(outlet.format)
  const problems = outletProblems(outlet)
  if (facts.width > format.limits.width || facts.height > format.limits.height) problems.push(`${facts.width}x${facts.height} is larger than ${format.name} can be (${format.limits.width}x${format.limits.height}).`)
  if (format.delivers === 'film') {
    if (!facts.rate) problems.push('A film needs a rate, and nothing says how fast this source plays. Give its rate first.')
    else {
      const refused = format.refusesRate(facts.rate)
      if (refused) problems.push(refused)
    }
  }
  const { from, to } = rangeTaken(outlet, facts, marks)
  if (to < from) problems.push(`The outlet takes frames ${from} to ${to}, but the source has ${facts.frames}.`)
  const unknown = [...unknownFields(outlet.namePattern), ...(format.delivers === 'pictures' ? unknownFields(outlet.framePattern) : [])]
  if (unknown.length) problems.push(`The name pattern has {${unknown[0]}}, which is no field.`)
  return problems
}

function pictureNames(format: Format, outlet: Outlet, fields: Record<string, string>, count: number): string[] {
  if (format.delivers !== 'pictures') return []
  return Array.from({ length: count }, (_, i) => `${fillName(outlet.framePattern, { ...fields, frame: frameNumber(outlet.startNumber + i, outlet.digits) })}.${format.extension}`)
}

/** The plan. Call only when `pourProblems` is empty. */
export function planPour(facts: SourceFacts, outlet: Outlet, marks: Marks | null, span = ''): PourPlan {
  const format = formatById(outlet.format)
  const { from, to } = rangeTaken(outlet, facts, marks)
  const frames = Array.from({ length: to - from + 1 }, (_, i) => from - 1 + i)
  const fields = {
    source: facts.name,
    outlet: outlet.name,
    span,
    depth: `${outlet.depth}bit`,
    rate: facts.rate ? `${facts.rate[1] === 1 ? rateFraction(facts.rate) : formatRate(facts.rate)}fps` : '',
    width: String(facts.width),
    height: String(facts.height)
  }
  const name = fillName(outlet.namePattern, fields)
  return {
    outlet,
    frames,
    name,
    fileName: `${name}.${format.delivers === 'film' ? format.extension : 'zip'}`,
    deliverable: {
      width: facts.width,
      height: facts.height,
      frames: frames.length,
      rate: facts.rate,
      depth: outlet.depth,
      alpha: outlet.alpha,
      alphaBits: alphaBitsOf(format, outlet),
      transfer: format.transfer ?? 'srgb',
      half: format.halfFloat?.(optionValues(format.options, outlet.options)) ?? false,
      cut: format.cut?.(optionValues(format.options, outlet.options)) ?? null,
      options: optionValues(format.options, outlet.options),
      names: pictureNames(format, outlet, fields, frames.length)
    }
  }
}
