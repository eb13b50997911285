/** Which outlet serves which destination best: by verdict, then by how its stations take the file, then by size. */
import type { Format } from '../formats/format'
import { formatById } from '../formats/registry'
import type { Standing } from '../stations/station'
import type { ProofReport, Verdict } from './report'
import { sizeText } from './verdict'

export interface Contender {
  id: string
  name: string
  format: string
  bytes: number
  /** Whether it delivers alpha: alone, or as a key beside its fill. */
  carriesAlpha: boolean
  report: ProofReport
  /** How each station takes it; null where it does not open it. */
  stations: Readonly<Record<string, Standing | null>>
}

export interface Destination {
  id: string
  name: string
  /** Stations that stand for it. */
  stations: readonly string[]
  /** Whether a format makes sense there. */
  takes(format: Format): boolean
  /** What to do when nothing poured does. */
  else: string
}

export const DESTINATIONS: readonly Destination[] = [
  {
    id: 'editor',
    name: 'Timeline editor',
    stations: ['reads-the-label', 'always-straight', 'alpha-off'],
    takes: format => format.traits.includes('master'),
    else: 'pour a QuickTime film or a sequence'
  },
  {
    id: 'compositor',
    name: 'Compositor',
    stations: ['asks', 'reads-the-label', 'linear-light'],
    takes: format => format.traits.includes('master'),
    else: 'pour a QuickTime film or a sequence'
  },
  {
    id: 'engine',
    name: 'Game or realtime engine',
    stations: ['engine-straight', 'engine-premultiplied', 'small-draw'],
    takes: format => format.traits.includes('for-engines'),
    else: 'pour a sequence of PNG or TGA'
  },
  {
    id: 'web',
    name: 'Web page',
    stations: ['this-browser', 'no-codec'],
    takes: format => format.page?.moves ?? false,
    else: 'pour WebM, WebP or an animated PNG'
  }
]

const VERDICTS: readonly Verdict[] = ['identical', 'faithful', 'visible-loss', 'broken']
const SCORE: Record<Standing, number> = { right: 2, setting: 1, wrong: 0 }

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

/** The best contender for each destination, and why. What delivers no alpha is best nowhere while something else does. Broken deliveries are best nowhere. A loss of colour counts less than a wrong station on the web, where files must be small. */
export function rank(all: readonly Contender[]): Ranked[] {
  const contenders = all.some(c => c.carriesAlpha) ? all.filter(c => c.carriesAlpha) : all
  return DESTINATIONS.map(destination => {
    const able = contenders.filter(c => c.report.verdict !== 'broken' && destination.takes(formatById(c.format)))
    if (able.length === 0)
      return {
        destination,
        best: null,
        reason: `Nothing poured fits; ${destination.else}.`
      }
    const order = (c: Contender): number[] => [
      VERDICTS.indexOf(c.report.verdict) > 1 ? 1 : 0,
      -standing(c, destination).score,
      destination.id === 'web' ? 0 : VERDICTS.indexOf(c.report.verdict),
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
      ? `, right at ${right} of ${known} ${known === 1 ? 'station' : 'stations'}${setting ? `, after a setting at ${setting}` : ''}`
      : ''
    const smaller =
      second && best!.bytes < second.bytes
        ? `, ${sizeText(best!.bytes)} against ${sizeText(second.bytes)}`
        : `, ${sizeText(best!.bytes)}`
    return { destination, best: best!, reason: `${SAID[best!.report.verdict]}${stands}${smaller}.` }
  })
}
