/** The votes of a clip's frames, added up, and what colour lies under its clear pixels. */
import { codesToHex, hexToCodes, type HexColour, type Triple } from '../../base/colour'
import type { Triples } from '../../frame/kernels/kernels'
import { noTriples } from '../../frame/kernels/terms'
import { fadesOver, interceptOf, meetingOver } from './fades'
import type { AlphaLook } from './look'

export interface Summed {
  triples: Triples
  /** The one colour of clear pixels; null if there are none, or they differ. */
  clearColour: HexColour | null
  clearPicture: boolean
}

/** Mattes of two frames this near, in codes of 255, are one; coding leaves no less. */
const ONE = 8
/** Share of clear pixels deep within clear areas that may stray before there is a picture under them. */
const PICTURE = 0.05
/** The same of clear pixels anywhere, by far more. */
const MOSTLY = 0.3
/** So few clear pixels deep within clear areas say nothing. */
const FEW = 8

function add(sum: Triples, more: Triples): void {
  for (const key of [
    'straight',
    'premultiplied',
    'twice',
    'above',
    'below',
    'alike',
    'clear',
    'deep',
    'deepAbove',
    'deepBelow',
    'clearOff',
    'torn',
    'joined',
    'asked'
  ] as const)
    sum[key] += more[key]
  for (let n = 0; n < 2; n++) {
    sum.rims[n]! += more.rims[n]!
    for (const on of ['matte', 'black', 'white'] as const) sum.slopes[on][n]! += more.slopes[on][n]!
  }
  for (let n = 0; n < sum.intercepts.length; n++) sum.intercepts[n]! += more.intercepts[n]!
}

const far = (a: Triple, b: Triple): number => Math.max(...[0, 1, 2].map(c => Math.abs(a[c]! - b[c]!)))

/** Adds the looks of a clip up, in the order of time. Fades over time count with those within frames. */
export function sumTriples(looks: readonly AlphaLook[]): Summed {
  const sum = noTriples()
  const having = looks.flatMap(({ triples }) => triples ?? [])
  if (having.length === 0) return { triples: sum, clearColour: null, clearPicture: false }
  for (const more of having) add(sum, more)
  if (sum.clear > 0) {
    // what is impossible on a matte is asked only of frames that show one
    const showing = having.filter(more => more.clear > 0)
    sum.above = showing.reduce((total, more) => total + more.above, 0)
    sum.below = showing.reduce((total, more) => total + more.below, 0)
  }
  // the frame with most clear area knows its colour best
  const best = having.reduce((most, more) =>
    more.deep > most.deep || (more.deep === most.deep && more.clear > most.clear) ? more : most
  )
  sum.matte = best.matte
  const lattices = looks.map(look => look.lattice)
  const fades = (votes: [number, number], matte: Triple): void => {
    const { straight, premultiplied, neither } = fadesOver(lattices, matte)
    const tried = straight + premultiplied + neither
    // what moves meets a prediction now and then; what fades meets it nearly everywhere
    if (2 * straight > tried) votes[0] += straight
    if (2 * premultiplied > tried) votes[1] += premultiplied
  }
  if (sum.clear > 0) fades(sum.slopes.matte, sum.matte)
  else {
    // a picture that fades as a whole shows its matte by where its colours meet
    const meeting = interceptOf(meetingOver(lattices))
    if (meeting) {
      sum.matte = [...hexToCodes(meeting)] as [number, number, number]
      fades(sum.slopes.matte, sum.matte)
    }
  }
  fades(sum.slopes.black, [0, 0, 0])
  fades(sum.slopes.white, [255, 255, 255])

  if (sum.clear === 0) return { triples: sum, clearColour: null, clearPicture: false }
  const strays = sum.deepAbove + sum.deepBelow > PICTURE * sum.deep
  const changes = having.some(more => more.deep >= FEW && far(more.matte, best.matte) > ONE)
  if (sum.deep >= FEW) {
    const clearPicture = strays || changes
    return { triples: sum, clearColour: clearPicture ? null : codesToHex(sum.matte), clearPicture }
  }
  // in small clear areas coding smears much: one colour is what most of them have
  const clearPicture = sum.clearOff > MOSTLY * sum.clear
  return { triples: sum, clearColour: clearPicture ? null : codesToHex(sum.matte), clearPicture }
}
