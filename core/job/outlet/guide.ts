/** Which outlets serve a destination, best first, and why: drawn from the uses of the format table. */
import { sayCoding } from '../../media/formats/document'
import type { Delivers, Described, Purpose } from '../../media/formats/traits/described'
import { holdsAlpha, type Carrying } from '../../media/formats/traits/carrying'
import type { Format } from '../../media/formats/format'
import { writtenFormats } from '../../open/registry'
import type { Listed } from '../../open/rows'
import { stepKindById } from '../../prepare/kinds'
import { newStep } from '../../prepare/preparation'
import type { Destination, Matter } from './destinations'
import { alphaFor, newOutlet, type Outlet } from './outlet'

export interface Advice {
  format: Format
  /** Without an id of a job. */
  outlet: Outlet
  /** Why it serves there, in one sentence. */
  reason: string
  /** What it costs, in one sentence. */
  cost: string
}

/** Whether a destination takes a format at all. */
export function takes(destination: Destination, format: Format): boolean {
  const { delivers, page, exact } = destination
  return (
    !format.readOnly &&
    destination.takes.some(use => format.uses.includes(use)) &&
    (!delivers || format.delivers === delivers) &&
    (!page || (format.page?.element === page && format.page.moves)) &&
    (!exact || format.lossless) &&
    (holdsAlpha(format) || destination.parts !== 'colour-alpha' || destination.alpha.mode === 'none') &&
    (!destination.onlySo || alphaFor(format, destination.alpha) !== null)
  )
}

const deepest = (format: Carrying): number => Math.max(...format.depths.map(({ alphaBits }) => alphaBits))

/**
 * How well a format serves: what most receivers ask for where that matters, what the destination prefers, then what a
 * browser would show first.
 */
function scoreOf(format: Listed, destination: Destination, matter: Matter): number {
  const has = (use: Purpose): number => (format.uses.includes(use) ? 1 : 0)
  const preferred = destination.prefers.filter(use => format.uses.includes(use)).length
  const rather = destination.rather === format.delivers ? 8 : 0
  const asked = destination.usual.indexOf(format.id)
  const usual = asked < 0 ? 0 : 6 - asked
  const matters: Record<Matter, number> = {
    usual: 12 * usual,
    exactness: format.lossless ? 6 : 0,
    size: 6 * has('compact') + (format.lossless ? 0 : 3) - (format.delivers === 'pictures' ? 1 : 0),
    everywhere: 6 * has('everywhere'),
    depth: Math.min(32, deepest(format)) / 3
  }
  // alpha that is only on or off, and what few ask for, serve where nothing else does
  const hard = -5 * has('hard-edges') - 4 * has('seldom')
  const shown = format.page ? (10 - format.page.order) / 20 : 0
  return (
    rather + 5 * preferred + matters[matter] + usual / 10 + hard + shown + (format.proofReader.independent ? 0.4 : 0)
  )
}

/** "16 bit of colour and of alpha", "12 bit of colour, 16 of alpha". */
function bitsOf(format: Carrying): string {
  const { depth, colourBits, alphaBits } = format.depths.at(-1)!
  const kind = depth === 32 ? 'bit of floating point' : 'bit'
  return colourBits === alphaBits
    ? `${colourBits} ${kind} of colour and of alpha`
    : `${colourBits} ${kind} of colour, ${alphaBits} of alpha`
}

const GOES: Record<Delivers, string> = {
  film: 'one file with its rate in it',
  pictures: 'a picture a frame, whose rate goes along in names and note',
  folder: 'trimmed frames packed together, with data that says where each stands and how fast they play'
}

function reasonOf(format: Listed, { usual }: Destination): string {
  const { uses, delivers } = format
  const said = [
    ...(format.id === usual[0] ? ['most receivers ask for it'] : usual.includes(format.id) ? ['widely asked for'] : []),
    sayCoding(format),
    GOES[delivers],
    `up to ${bitsOf(format)}`,
    ...(uses.includes('edits-live') ? ['made to play in real time'] : []),
    ...(uses.includes('stages') ? ['shown by graphics hardware as it lies in the file'] : []),
    ...(uses.includes('archival') ? ['an open standard'] : []),
    ...(uses.includes('everywhere') ? ['opened by nearly everything'] : []),
    ...(uses.includes('seldom') ? ['though few ask for it'] : []),
    ...(uses.includes('hard-edges') ? ['but alpha is only on or off, and soft edges are lost'] : [])
  ]
  const sentence = said.join('; ')
  return `${sentence.charAt(0).toUpperCase()}${sentence.slice(1)}.`
}

function costOf(format: Described & Carrying): string {
  if (format.uses.includes('compact')) return format.lossless ? 'Small for what it keeps.' : 'The smallest of these.'
  if (format.delivers === 'pictures') return 'Large, and as many files as frames.'
  if (format.uses.includes('edits-live')) return 'Of middling size, about the same whatever it shows.'
  return format.lossless ? 'Large where the picture is busy, small where it is flat.' : 'Of middling size.'
}

/** The outlet for a format at a destination. */
export function outletFor(id: string, format: Listed, destination: Destination): Outlet {
  const fresh = newOutlet(id, format)
  const alpha = destination.parts === 'fill-key' ? destination.alpha : alphaFor(format, destination.alpha)
  return {
    ...fresh,
    // names of files are made of it
    name: destination.name.replaceAll(',', ''),
    parts: destination.parts,
    alpha: alpha ?? fresh.alpha,
    steps: destination.steps.map(([kind, settings], n) => newStep(`${id} ${n + 1}`, stepKindById(kind), settings))
  }
}

/** Outlets for a destination, best first for what matters; the formats that `runs` says this machine writes. */
export function guideTo(
  destination: Destination,
  matter: Matter,
  runs: (format: Format) => boolean = () => true
): Advice[] {
  return writtenFormats
    .filter(format => takes(destination, format) && runs(format))
    .map(format => ({ format, score: scoreOf(format, destination, matter) }))
    .sort((a, b) => b.score - a.score)
    .map(({ format }) => ({
      format,
      outlet: outletFor('guide', format, destination),
      reason: reasonOf(format, destination),
      cost: costOf(format)
    }))
}
