/** An outlet: the saved recipe of one deliverable. Its schema is drawn from its settings and the format table. */
import { holdsAlpha, type Carrying } from '../../media/formats/traits/carrying'
import { z } from 'zod'
import { carriageById } from '../../media/carriage/carriages'
import { colourName } from '../../base/colour'
import { formatById } from '../../open/registry'
import type { Listed } from '../../open/rows'
import type { AlphaMode } from '../../frame/frame'
import { stepKindById } from '../../prepare/kinds'
import type { Step } from '../../prepare/preparation'
import { settingSchemas, settingsInOrder, type Parts } from './settings'
import { freshOptions, keptOptions, optionValues, problemOf } from '../../base/settings/field'

export const Outlet = z.object({
  id: z.string().min(1),
  ...settingSchemas,
  /** The format's own settings. */
  options: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()]))
})
export type Outlet = z.infer<typeof Outlet>

/** What an outlet pasted from text must be: the recipe without its id. */
export const OutletText = Outlet.omit({ id: true })

/** A fresh outlet for a format with its best defaults: the deepest depth and straight alpha. */
export function newOutlet(id: string, format: Listed, name = format.name): Outlet {
  const fresh = Object.fromEntries(
    settingsInOrder.flatMap(([key, { fresh: of }]) => {
      const value = of(format)
      return value === undefined ? [] : [[key, value]]
    })
  )
  return { ...(fresh as Omit<Outlet, 'id' | 'options'>), id, name, options: freshOptions(format.options) }
}

/**
 * An alpha mode as a format can say it: on the one matte colour that its word means, where it means one; null where it
 * cannot.
 */
export function alphaFor(format: Carrying, alpha: AlphaMode): AlphaMode | null {
  const capability = format.alpha[alpha.mode]
  if (!capability.can) return null
  return alpha.mode === 'premultiplied' && capability.matte ? { ...alpha, matte: capability.matte } : alpha
}

/** The alpha that parts can have: of the whole what the format can say, of a fill straight or multiplied. */
function alphaWith(parts: Parts, alpha: AlphaMode, format: Listed): AlphaMode {
  const { channel, apart } = carriageById(parts)
  if (!channel) return apart && alpha.mode === 'none' ? { mode: 'straight' } : alpha
  return alphaFor(format, alpha) ?? (holdsAlpha(format) ? newOutlet('', format).alpha : { mode: 'none' })
}

/** The outlet carrying other parts, with alpha that those can have. */
export const withParts = (outlet: Outlet, parts: Parts): Outlet => ({
  ...outlet,
  parts,
  alpha: alphaWith(parts, outlet.alpha, formatById(outlet.format))
})

/** The outlet moved to another format, keeping every choice the new format allows. */
export function withFormat(outlet: Outlet, format: Listed): Outlet {
  const fresh = newOutlet(outlet.id, format, outlet.name)
  const former = formatById(outlet.format).name
  // alpha goes beside colour where there is no room in it
  const split = outlet.parts === 'colour-alpha' && outlet.alpha.mode !== 'none' && !holdsAlpha(format)
  // a folder of its own kind has no second beside it
  const together = format.delivers === 'folder' && carriageById(outlet.parts).apart
  const parts = together ? 'colour-alpha' : split ? 'fill-key' : outlet.parts
  // a name that was never edited is the format's, perhaps with the number of a copy behind it
  const named = outlet.name === former || new RegExp(`^ \\d+$`).test(outlet.name.slice(former.length))
  return {
    ...outlet,
    name: named && outlet.name.startsWith(former) ? format.name + outlet.name.slice(former.length) : outlet.name,
    format: format.id,
    depth: format.depths.some(d => d.depth === outlet.depth) ? outlet.depth : fresh.depth,
    parts,
    alpha: alphaWith(parts, outlet.alpha, format),
    options: keptOptions(format.options, outlet.options)
  }
}

/** Everything wrong with an outlet by itself, in sentences; empty when it can pour. */
export function outletProblems(outlet: Outlet): string[] {
  const format = formatById(outlet.format)
  const problems: string[] = format.readOnly ? [format.readOnly] : []
  const stored = storedMode(outlet)
  const capability = format.alpha[stored]
  if (!capability.can)
    problems.push(`${format.name} cannot be ${stored === 'none' ? 'without alpha' : stored}: ${capability.because}`)
  else if (
    stored === 'premultiplied' &&
    JSON.stringify(alphaFor(format, outlet.alpha)) !== JSON.stringify(outlet.alpha)
  )
    problems.push(
      `Premultiplied in ${format.name} means on ${colourName(capability.matte!)} (${capability.declares}); on ` +
        `another matte the file would contradict itself. Choose ${colourName(capability.matte!)}, or straight.`
    )
  const { apart } = carriageById(outlet.parts)
  if (apart && outlet.alpha.mode === 'none')
    problems.push('Colour that goes with its alpha is straight or premultiplied; choose which.')
  if (apart && format.delivers === 'folder')
    problems.push(`${format.name} holds both in one picture: choose colour and alpha, or another format.`)
  if (!format.depths.some(d => d.depth === outlet.depth))
    problems.push(
      `${format.name} has no depth of ${outlet.depth} bits; it has ${format.depths.map(d => d.depth).join(' and ')}.`
    )
  if (typeof outlet.range === 'object' && outlet.range.from > outlet.range.to)
    problems.push('The range ends before it begins.')
  if (format.delivers === 'pictures' && !outlet.framePattern.includes('{frame}'))
    problems.push('Picture names need {frame}, or every picture would have the same name.')
  for (const [key, field] of Object.entries(format.options)) {
    const problem = problemOf(field, outlet.options[key] ?? field.default)
    if (problem) problems.push(problem)
  }
  return problems
}

/** The alpha mode its files have: those of one part are solid pictures. */
export function storedMode(outlet: Outlet): AlphaMode['mode'] {
  return carriageById(outlet.parts).channel ? outlet.alpha.mode : 'none'
}

/** What its pictures hold, in words: "straight", "fill straight, and key", "alpha as grey", "colour on black". */
export function sayParts(outlet: Outlet): string {
  if (outlet.parts === 'fill-key') return `fill ${sayAlpha(outlet.alpha)}, and key`
  if (outlet.parts === 'alpha-only') return 'alpha as grey'
  const { half } = carriageById(outlet.parts)
  if (half) return `${sayAlpha(outlet.alpha)}, alpha ${half}`
  return outlet.parts === 'colour-only' ? `colour on ${colourName(outlet.backing)}` : sayAlpha(outlet.alpha)
}

/** What is delivered, as a sentence: of the whole what the format's row says, of a part what that part is. */
export function sayCarries(outlet: Outlet): string {
  const { carries } = formatById(outlet.format)
  const film = formatById(outlet.format).delivers === 'film'
  const one = film ? 'one film' : 'one sequence of pictures'
  const say: Record<Parts, string> = {
    'colour-alpha': outlet.alpha.mode === 'none' ? `colour without alpha, in ${one}` : carries,
    'fill-key': film
      ? 'colour and alpha in two films, fill and key'
      : 'colour and alpha in two sequences, fill and key',
    'alpha-below': `colour, and below it alpha as grey, in ${one}`,
    'alpha-beside': `colour, and to its right alpha as grey, in ${one}`,
    'alpha-only': `alpha alone, as grey, in ${one}`,
    'colour-only': `colour alone, laid on ${colourName(outlet.backing)}, in ${one}`
  }
  return say[outlet.parts]
}

/** "straight", "premultiplied on black", "no alpha". */
export function sayAlpha(alpha: AlphaMode): string {
  return alpha.mode === 'premultiplied'
    ? `premultiplied on ${colourName(alpha.matte)}`
    : alpha.mode === 'none'
      ? 'no alpha'
      : 'straight'
}

/** Bits of alpha an outlet delivers. */
export function alphaBitsOf(format: Carrying, outlet: Outlet): number {
  const options = optionValues(format.options, outlet.options)
  const asked = format.alphaBits?.(options) ?? (outlet.depth === 16 ? format.codeBits?.(options) : undefined)
  return asked ?? format.depths.find(d => d.depth === outlet.depth)?.alphaBits ?? outlet.depth
}

/** Bits of colour an outlet delivers. */
export function colourBitsOf(format: Carrying, outlet: Outlet): number {
  const asked = outlet.depth === 16 ? format.codeBits?.(optionValues(format.options, outlet.options)) : undefined
  return asked ?? format.depths.find(d => d.depth === outlet.depth)?.colourBits ?? outlet.depth
}

/** What of the codes an outlet's coding keeps, in a sentence. */
export function sayKept(format: Carrying, outlet: Outlet): string {
  const exact = format.exact?.(optionValues(format.options, outlet.options)) ?? format.lossless
  if (exact) return 'Exact: every code comes back as it went in.'
  if (outlet.parts === 'colour-only' || outlet.alpha.mode === 'none') return 'Lossy in colour.'
  // alpha that is delivered as a picture of its own is coded as colour is
  const kept = format.exactAlpha && outlet.parts === 'colour-alpha'
  return kept ? 'Lossy in colour; alpha is exact.' : 'Lossy in colour; alpha may differ by some codes.'
}

/** A step of an outlet in a few letters: its size, its rate, or its name. */
function sayStep({ kind, settings }: Step): string {
  const { width, height, rate, by } = settings
  if (width !== undefined && height !== undefined) return `${String(width)}×${String(height)}`
  if (rate !== undefined) return `${String(rate)} f/s`
  if (kind === 'scale') return `${String(by)} %`
  return stepKindById(kind).name.toLowerCase()
}

/** The tag line over an outlet: codec, depth, alpha mode. */
export function tagLine(outlet: Outlet): string {
  const format = formatById(outlet.format)
  return [
    format.tag,
    storedMode(outlet) === 'none'
      ? `${colourBitsOf(format, outlet)} bit`
      : `${colourBitsOf(format, outlet)} bit + ${alphaBitsOf(format, outlet)} alpha`,
    sayParts(outlet),
    ...outlet.steps.filter(step => step.on).map(sayStep)
  ].join(' · ')
}
