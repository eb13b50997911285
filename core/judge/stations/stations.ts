/** The stations, in the order they are shown. */
import { alphaOff } from './kinds/alpha-off'
import { alwaysPremultiplied } from './kinds/always-premultiplied'
import { alwaysStraight } from './kinds/always-straight'
import { asks } from './kinds/asks'
import { heedsColour, ignoresColour } from './kinds/colour-labels'
import { cutOut } from './kinds/cut-out'
import { enginePremultiplied } from './kinds/engine-premultiplied'
import { engineStraight } from './kinds/engine-straight'
import { goesRound } from './kinds/goes-round'
import { linearLight } from './kinds/linear-light'
import { looseStills } from './kinds/loose-stills'
import { noCodec } from './kinds/no-codec'
import { onBlack } from './kinds/on-black'
import { plainPlayer } from './kinds/plain-player'
import { readsTheLabel } from './kinds/reads-the-label'
import { smallDraw } from './kinds/small-draw'
import { takesThirty } from './kinds/takes-thirty'
import { thisBrowser } from './kinds/this-browser'
import type { Station } from './station'

/** A film of halves is seen as one picture by whoever does not know it: only a player that joins them takes it. */
const knowingHalves = (station: Station): Station =>
  station.kind === 'browser'
    ? station
    : {
        ...station,
        refuses: guest =>
          guest.facts.stacked
            ? 'Shows both halves as one picture: such a film is for players that put colour and alpha together.'
            : station.refuses(guest)
      }

const KINDS: readonly Station[] = [
  readsTheLabel,
  alwaysStraight,
  alwaysPremultiplied,
  alphaOff,
  asks,
  onBlack,
  linearLight,
  heedsColour,
  ignoresColour,
  engineStraight,
  enginePremultiplied,
  smallDraw,
  cutOut,
  thisBrowser,
  noCodec,
  takesThirty,
  looseStills,
  goesRound,
  plainPlayer
]

export const stations: readonly Station[] = KINDS.map(knowingHalves)

/** The station of that id, or null. */
export function stationById(id: string): Station | null {
  return stations.find(station => station.id === id) ?? null
}
