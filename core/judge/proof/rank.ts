/** Which outlet serves which destination best: by verdict, then by how its stations take the file, then by size. */
import { formatById } from '../../open/registry'
import { DESTINATIONS, type Destination } from '../../job/outlet/destinations'
import { takes } from '../../job/outlet/guide'
import type { StationVerdict } from '../stations/station'
import type { ProofReport } from './report'
import type { Verdict } from './grades'
import { sizeText } from './readings'

export interface Contender {
  id: string
  name: string
  format: string
  bytes: number
  /** Whether it delivers alpha: alone, or as a key beside its fill. */
  carriesAlpha: boolean
  report: ProofReport
  /** How each station takes it; null where it does not open it. */
  stations: Readonly<Record<string, StationVerdict | null>>
}

const VERDICTS: readonly Verdict[] = ['identical', 'faithful', 'visible-loss', 'broken']
const SCORE: Record<StationVerdict, number> = { right: 2, setting: 1, wrong: 0 }

export interface Ranked {
  destination: Destination
  /** Null when none of the pours fits. */
  best: Contender | null
  reason: string
}

function standing(contender: Contender, { stations }: Destination): { right: number; setting: number; score: number } {
  const known = stations.flatMap(id => contender.stations[id] ?? [])
  return {
    right: known.filter(s => s === 'right').length,
    setting: known.filter(s => s === 'setting').length,
    score: known.reduce((sum, s) => sum + SCORE[s], 0)
  }
}

const SAID: Record<Verdict, string> = {
  identical: 'It is identical to the source',
  faithful: 'It is faithful to the source',
  'visible-loss': 'It loses something that can be seen',
  broken: 'It is broken'
}

/**
 * The best contender for each destination, and why. What delivers no alpha is best nowhere while something else does.
 * Broken deliveries are best nowhere. A loss of colour counts less than a wrong station on the web, where files must be
 * small.
 */
export function rank(all: readonly Contender[]): Ranked[] {
  const contenders = all.some(c => c.carriesAlpha) ? all.filter(c => c.carriesAlpha) : all
  return DESTINATIONS.filter(({ parts }) => parts === 'colour-alpha').map(destination => {
    const able = contenders.filter(c => c.report.verdict !== 'broken' && takes(destination, formatById(c.format)))
    if (able.length === 0)
      return {
        destination,
        best: null,
        reason: `Nothing poured fits; ${destination.else}.`
      }
    // a best is named once every station has been visited, and not before
    const waits = able.some(c => destination.stations.some(id => c.stations[id] === undefined))
    if (waits) return { destination, best: null, reason: 'Its stations have not all been visited yet.' }
    const order = (c: Contender): number[] => [
      destination.rather && formatById(c.format).delivers !== destination.rather ? 1 : 0,
      VERDICTS.indexOf(c.report.verdict) > 1 ? 1 : 0,
      -standing(c, destination).score,
      destination.page ? 0 : VERDICTS.indexOf(c.report.verdict),
      c.bytes
    ]
    const [best, second] = [...able].sort((a, b) => {
      const [x, y] = [order(a), order(b)]
      const at = x.findIndex((value, i) => value !== y[i])
      return at < 0 ? 0 : x[at]! - y[at]!
    })
    const { right, setting } = standing(best!, destination)
    const known = destination.stations.filter(id => best!.stations[id]).length
    if (known && right + setting === 0)
      return { destination, best: null, reason: 'Nothing poured is right there yet, with any setting.' }
    const stands = known
      ? `, right at ${right} of ${known} ` +
        `${known === 1 ? 'station' : 'stations'}${setting ? `, after a setting at ${setting}` : ''}`
      : ''
    const smaller =
      second && best!.bytes < second.bytes
        ? `, ${sizeText(best!.bytes)} against ${sizeText(second.bytes)}`
        : `, ${sizeText(best!.bytes)}`
    // where no station stands for it nothing was tried, and that is said
    const untried = destination.stations.length
      ? ''
      : ' No station stands for it: it is the best by verdict and size alone.'
    return { destination, best: best!, reason: `${SAID[best!.report.verdict]}${stands}${smaller}.${untried}` }
  })
}
