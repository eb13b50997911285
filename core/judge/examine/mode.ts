/**
 * Which mode is it? Edges first, then slopes, what is impossible, clear pixels, and last what the file says, weighed
 * into one answer with its figures. The sentence is written from the figures that decided.
 */
import { z } from 'zod'
import { codesToHex, colourName, HexColour, hexToCodes } from '../../base/colour'
import type { AlphaMode } from '../../frame/frame'
import { OPAQUE, STRAIGHT } from '../../frame/frame'
import type { Triples } from '../../frame/kernels/kernels'
import type { AlphaClaim } from '../../source/source'
import { interceptOf } from './fades'

export const AlphaAnswer = z.object({
  mode: z.enum(['straight', 'premultiplied', 'none', 'unknown']),
  matte: HexColour.nullable(),
  confidence: z.number().min(0).max(1),
  evidence: z.object({
    sentence: z.string(),
    claim: z.string(),
    decidedBy: z.enum(['edges', 'fades', 'impossible', 'clear', 'file', 'nothing']),
    /** Counts over all frames examined. */
    clearPixels: z.number(),
    partialPixels: z.number(),
    solidPixels: z.number(),
    clearColour: z.string().nullable(),
    /** Partial pixels whose colour cannot be premultiplied on the matte in question. */
    impossiblePixels: z.number(),
    /** Edges that only one reading explains. */
    votesStraight: z.number(),
    votesPremultiplied: z.number(),
    /** Places where one colour fades, by what it does as alpha falls. */
    fadesStraight: z.number(),
    fadesPremultiplied: z.number()
  })
})
export type AlphaAnswer = z.infer<typeof AlphaAnswer>

/** What the clip's frames add up to. */
export interface Weighed {
  hasChannel: boolean
  clear: number
  partial: number
  solid: number
  /** The one colour of clear pixels that lie deep within clear areas; null if there are none or they differ. */
  clearColour: HexColour | null
  /** Whether clear pixels differ in colour. */
  clearPicture: boolean
  triples: Triples
  /** Floats that are premultiplied by their format: light that runs on beyond alpha is ordinary there. */
  lit?: boolean
}

/** Fewer votes than this decide nothing. */
const FEW = 12
/** A majority below this is a tie. */
const MAJORITY = 0.65
/** To be taken for something else than its standard or flag says, a file needs this much. */
const OVERRULING = { confidence: 0.95, votes: 200 }
/** What a file's word alone is worth. */
const WORD = 0.6
/** Without a word of the file, pixels as sure as this decide. */
const SURE = 0.6
/** Share of partial pixels that must be impossible before a reading is. */
const IMPOSSIBLE = 0.02

/** Share of pixels that coding at a fair rate smears beyond what alpha allows. */
const SMEARED = 0.25
/** Partial pixels of the clear colour that make a difference too rare to tell, unless so many places tell it. */
const ALIKE = { pixels: 0.8, votes: 0.05, enough: 200 }
/** So many clear pixels deep within clear areas show a matte; fewer do not. */
const SEEN = 8
/**
 * What an answer is worth at most where a reading is missing or speaks against it, by how often such answers were wrong
 * among 3,400 clips of the corpus (`tests/material/corpus.ts`): of those beyond 0.9 none in 1,663, of those at 0.9 two
 * in a hundred, at 0.75 two to five; of those at 0.6, which decide nothing, one in five.
 */
const WORTH = { sure: 0.99, likely: 0.9, doubtful: 0.75, guess: 0.6 }
/** What a file's word adds to, or takes from, the log-odds of an answer. */
const PRIOR = 1
/**
 * Guesses from the rims of clear areas, where nothing else speaks: so many rims at least, this share of them torn or
 * joined, and partial pixels of the clear colour. Among the corpus five in six of them are right.
 */
const RIMS = { few: 12, torn: 0.02, leaps: 0.3, possible: 0.005 }
/** What edges must say before colour beyond alpha is taken for light. */
const LIGHT = { votes: 200, share: 0.9, little: 0.25, lit: 0.01, torn: 0.2 }

/** Wilson's lower bound at 95 % of the share that `votes` of `total` are. */
export function lowerBound(votes: number, total: number): number {
  if (total === 0) return 0
  const z = 1.96
  const p = votes / total
  const spread = z * Math.sqrt((p * (1 - p)) / total + (z * z) / (4 * total * total))
  return Math.max(0, (p + (z * z) / (2 * total) - spread) / (1 + (z * z) / total))
}

interface Candidate {
  matte: HexColour
  fades: readonly [number, number]
  impossible: number
  /** Whether what goes beyond alpha is all brighter, as added light is. */
  brighter: boolean
}

/**
 * The matte colours that may be meant: what clear pixels show; else what the file names, what edges agree on, black and
 * white.
 */
function candidates(w: Weighed, claim: AlphaClaim): Candidate[] {
  const { triples } = w
  if (triples.clear > 0) {
    const matte = w.clearColour ?? codesToHex([triples.matte[0]!, triples.matte[1]!, triples.matte[2]!])
    const [above, below] = [triples.above + triples.deepAbove, triples.below + triples.deepBelow]
    return [
      { matte, fades: triples.slopes.matte, impossible: triples.above + triples.below, brighter: below <= 0.02 * above }
    ]
  }
  const black: Candidate = { matte: '#000000', fades: triples.slopes.black, impossible: triples.above, brighter: true }
  const white: Candidate = { matte: '#ffffff', fades: triples.slopes.white, impossible: triples.below, brighter: false }
  const met = triples.slopes.matte[1] > 0 ? codesToHex(triples.matte) : null
  const other = met ?? interceptOf(triples.intercepts) ?? (claim.mode === 'premultiplied' ? claim.matte : null)
  if (!other) return [black, white]
  if (apart(other, black.matte) <= 3) return [black]
  if (apart(other, white.matte) <= 3) return [white]
  return [{ matte: other, fades: triples.slopes.matte, impossible: 0, brighter: false }]
}

function apart(a: HexColour, b: HexColour): number {
  const [p, q] = [hexToCodes(a), hexToCodes(b)]
  return Math.max(...[0, 1, 2].map(c => Math.abs(p[c]! - q[c]!)))
}

/** How many votes there would be had every partial pixel been asked. */
const standing = (w: Weighed, votes: number): number => votes * (w.partial / Math.max(1, w.triples.asked))

/**
 * Whether what goes beyond alpha is light added to a premultiplied picture: edges must have found it premultiplied, by
 * far, and nothing may be darker than it could be. Light runs on over the rim of what alpha covers, and does not end
 * where alpha does: where much of the picture is lit, clear pixels are lit as well. On another colour than black it is
 * believed only where it is rare.
 */
function isLight(w: Weighed, option: Candidate): boolean {
  const { straight, premultiplied, clear, clearOff, torn, joined } = w.triples
  const found = premultiplied >= LIGHT.votes && premultiplied >= LIGHT.share * (premultiplied + straight)
  if (!found || !option.brighter || torn > LIGHT.torn * (torn + joined)) return false
  if (apart(option.matte, '#000000') > 3) return option.impossible < standing(w, premultiplied) / 10
  return option.impossible <= LIGHT.little * w.partial || clearOff > LIGHT.lit * clear
}

/**
 * What is impossible because coding smeared the edges is little, and lies where edges have found the picture
 * premultiplied by far.
 */
function isCoding(w: Weighed, option: Candidate): boolean {
  const { triples, partial } = w
  const { straight, premultiplied } = triples
  const found = premultiplied >= LIGHT.votes && premultiplied >= LIGHT.share * (premultiplied + straight)
  const strays = triples.deepAbove + triples.deepBelow
  return (
    found &&
    option.impossible <= Math.min(SMEARED * partial, 2 * standing(w, premultiplied)) &&
    strays <= SMEARED * triples.deep
  )
}

/** Readings that hold an answer back: what it is worth at most. */
interface Held {
  w: Weighed
  best: Candidate
  mode: 'straight' | 'premultiplied'
  by: AlphaAnswer['evidence']['decidedBy']
  /** Places that speak for it and against it: of edges, and of fades. */
  edges: { for: number; against: number }
  fades: { for: number; against: number }
}

function worthOf({ w, best, mode, by, edges, fades }: Held): number {
  const { sure, likely, doubtful, guess } = WORTH
  const seen = w.triples.clear > 0 && w.triples.deep >= SEEN
  const impossible = best.impossible > IMPOSSIBLE * w.partial
  const contradicted = fades.against >= FEW && fades.for < fades.against
  const agreed = fades.for >= FEW && fades.for >= 0.9 * (fades.for + fades.against)
  if (mode === 'straight') {
    // one colour that stays may be a matte that nothing shows
    if (by === 'fades') return w.triples.clear === 0 ? guess : seen && (impossible || w.clearPicture) ? sure : likely
    if (by === 'clear' || by === 'impossible') return edges.against + fades.against >= FEW ? doubtful : sure
    return sure
  }
  const plain = apart(best.matte, '#000000') <= 3 || apart(best.matte, '#ffffff') <= 3
  if (contradicted) return guess
  if (impossible) return w.triples.clear > 0 && edges.against < edges.for / 10 ? doubtful : guess
  if (!plain && !seen) return agreed && edges.for >= LIGHT.votes ? doubtful : guess
  // a subject whose rim runs into its own fill looks just so: only black and white are nobody's rim
  if (!plain || !seen || by === 'fades') return likely
  return sure
}

const logit = (p: number): number => Math.log(p / (1 - p))

/** A confidence once the file's own word is heard, which is evidence like another. */
function withWord(confidence: number, mode: string, claim: AlphaClaim): number {
  if (claim.mode !== 'straight' && claim.mode !== 'premultiplied') return confidence
  const odds = logit(Math.min(0.99, Math.max(0.01, confidence))) + (claim.mode === mode ? PRIOR : -PRIOR)
  return 1 / (1 + Math.exp(-odds))
}

const many = (value: number): string => value.toLocaleString('en')

/** What speaks in floats: light beyond alpha, and over clear pixels, is no sign of straight colour there. */
const withoutLight = (w: Weighed): Weighed => ({
  ...w,
  clearPicture: false,
  triples: { ...w.triples, above: 0, deepAbove: 0 }
})

/** The answer for a whole clip. */
export function judgeMode(weighed: Weighed, claim: AlphaClaim): AlphaAnswer {
  const w = weighed.lit ? withoutLight(weighed) : weighed
  const { straight: edgesS, premultiplied: edgesP } = w.triples
  const options = candidates(w, claim)
  const possible = options.filter(option => option.impossible <= IMPOSSIBLE * w.partial)
  // of several mattes, the one that fades lead to
  const best = [...(possible.length ? possible : options)].sort((a, b) => b.fades[1] - a.fades[1])[0]!
  const [fadesS, fadesP] = [Math.min(...options.map(o => o.fades[0])), best.fades[1]]

  const answer = (
    mode: AlphaAnswer['mode'],
    confidence: number,
    decidedBy: AlphaAnswer['evidence']['decidedBy'],
    sentence: string
  ): AlphaAnswer => ({
    mode,
    matte: mode === 'premultiplied' ? (decidedBy === 'file' ? (claim.matte ?? '#000000') : best.matte) : null,
    confidence: Math.floor(Math.min(0.99, confidence) * 100) / 100,
    evidence: {
      sentence,
      claim: claim.says,
      decidedBy,
      clearPixels: w.clear,
      partialPixels: w.partial,
      solidPixels: w.solid,
      clearColour: w.clearColour,
      impossiblePixels: best.impossible,
      votesStraight: edgesS,
      votesPremultiplied: edgesP,
      fadesStraight: fadesS,
      fadesPremultiplied: fadesP
    }
  })
  /** An answer held to what it is worth, with the file's word heard. */
  const held = (
    mode: 'straight' | 'premultiplied',
    confidence: number,
    by: 'edges' | 'fades' | 'impossible' | 'clear',
    sentence: string
  ): AlphaAnswer => {
    const straight = mode === 'straight'
    const worth = worthOf({
      w,
      best,
      mode,
      by,
      edges: { for: straight ? edgesS : edgesP, against: straight ? edgesP : edgesS },
      fades: { for: straight ? fadesS : fadesP, against: straight ? fadesP : fadesS }
    })
    return answer(mode, withWord(Math.min(confidence, worth), mode, claim), by, sentence)
  }
  const claimed = (sentence: string): AlphaAnswer => {
    const guess = guessed(w, best)
    const says = claim.mode === 'straight' || claim.mode === 'premultiplied' ? claim.mode : null
    // a guess is no reason to doubt what a file says
    if (guess && w.partial > 0 && (says === null || says === guess.mode))
      return answer(guess.mode, withWord(WORTH.guess, guess.mode, claim), 'clear', `${sentence} ${guess.sentence}`)
    return bySay(sentence)
  }
  const bySay = (sentence: string): AlphaAnswer =>
    claim.mode === 'straight' || claim.mode === 'premultiplied'
      ? answer(claim.mode, WORD, 'file', `${sentence} So the file's own word counts (${claim.says}).`)
      : answer('unknown', 0, 'nothing', sentence)

  if (!w.hasChannel) return { ...answer('none', 1, 'file', `There is no alpha: ${claim.says}.`), confidence: 1 }
  if (w.partial === 0)
    return claimed(
      w.clear === 0
        ? 'Alpha is solid everywhere, so both readings look the same.'
        : 'Alpha is only on or off, so both readings look the same.'
    )

  const matteName = colourName(best.matte)
  const edges = verdictOf(edgesS, edgesP)
  // where edges speak, fades may only agree
  const fades = verdictOf(fadesS, fadesP)
  const votes = edges && fades && fades.mode !== edges.mode ? edges : verdictOf(edgesS + fadesS, edgesP + fadesP)
  const alike =
    w.triples.alike > ALIKE.pixels * w.partial &&
    edgesS + edgesP + fadesS + fadesP < Math.min(ALIKE.enough, ALIKE.votes * w.triples.asked)
  if (votes && !alike) {
    const from = edges ? 'edges' : 'fades'
    const ruledOut =
      votes.mode === 'premultiplied' &&
      (w.clearPicture || best.impossible > IMPOSSIBLE * w.partial) &&
      !isLight(w, best) &&
      !isCoding(w, best)
    if (!ruledOut) {
      const decided = held(votes.mode, votes.sure, from, '')
      const against =
        votes.mode === 'premultiplied' && best.impossible > IMPOSSIBLE * w.partial
          ? ` Against it speak ${many(best.impossible)} of ${many(w.partial)} partial pixels, whose colour ` +
            'goes beyond what alpha allows.'
          : ''
      return { ...decided, evidence: { ...decided.evidence, sentence: sayVotes(decided, matteName) + against } }
    }
  }
  if (w.clearPicture)
    return held(
      'straight',
      0.95,
      'clear',
      'Different colours lie under the clear pixels, which premultiplying would have wiped out.'
    )
  const odds =
    `The pixels are at odds: ${many(edgesS + fadesS)} places speak for straight, ` +
    `${many(edgesP + fadesP)} for premultiplied.`
  if (possible.length === 0) {
    if (votes?.mode === 'premultiplied' && best.impossible <= SMEARED * w.partial) return claimed(odds)
    // without a clear pixel the matte may be a colour that nothing shows
    return held(
      'straight',
      w.triples.clear > 0 ? 0.95 : SURE,
      'impossible',
      `In ${many(best.impossible)} of ${many(w.partial)} partial pixels the colour goes beyond what alpha ` +
        `allows, so it cannot be premultiplied on ${matteName}.`
    )
  }
  if (weighed.lit && weighed.triples.above > IMPOSSIBLE * w.partial && edgesS + edgesP + fadesS + fadesP < FEW)
    return claimed('Light runs on beyond alpha, as floats may hold it, and nothing else tells how it is stored.')
  return claimed(
    edgesS + edgesP + fadesS + fadesP < FEW
      ? 'Both readings show the same picture, or nothing in it can tell them apart.'
      : odds
  )
}

/**
 * What the rims of clear areas make likely. Premultiplied colour runs into the matte without a step, straight colour
 * leaps there; partial pixels of the very colour that lies under clear ones were filled from their edge, and are
 * straight.
 */
function guessed(w: Weighed, best: Candidate): { mode: 'straight' | 'premultiplied'; sentence: string } | null {
  const { clear, torn, joined, alike } = w.triples
  if (clear === 0 || !w.clearColour) return null
  const name = colourName(w.clearColour)
  const rims = torn + joined
  if (torn >= RIMS.few && torn > RIMS.leaps * joined)
    return {
      mode: 'straight',
      sentence:
        `At ${many(torn)} of ${many(rims)} rims colour leaps to the ${name} of clear pixels, which ` +
        'only straight alpha does; it is a guess.'
    }
  if (alike > ALIKE.pixels * w.partial) {
    const nobodys = Math.min(apart(w.clearColour, '#000000'), apart(w.clearColour, '#ffffff')) > 3
    return nobodys
      ? {
          mode: 'straight',
          sentence:
            `The ${name} of ${many(alike)} of ${many(w.partial)} partial pixels also lies under clear ` +
            'ones, as where straight edges were filled; it is a guess.'
        }
      : null
  }
  if (joined >= RIMS.few && torn <= RIMS.torn * joined && best.impossible <= RIMS.possible * w.partial)
    return {
      mode: 'premultiplied',
      sentence:
        `At ${many(joined)} of ${many(rims)} rims colour runs into the ${name} of clear pixels ` +
        'without a step, as premultiplied alpha does; it is a guess.'
    }
  return null
}

interface Votes {
  mode: 'straight' | 'premultiplied'
  share: number
  total: number
  sure: number
}

/** What votes come to; null where they are too few or too even. */
function verdictOf(straight: number, premultiplied: number): Votes | null {
  const total = straight + premultiplied
  const most = Math.max(straight, premultiplied)
  if (total < FEW || most < MAJORITY * total) return null
  return {
    mode: straight > premultiplied ? 'straight' : 'premultiplied',
    share: most / total,
    total,
    sure: lowerBound(most, total)
  }
}

function sayVotes({ mode, evidence: e }: AlphaAnswer, matte: string): string {
  const word = mode === 'straight' ? 'straight' : `premultiplied on ${matte}`
  const [edges, fades] =
    mode === 'straight' ? [e.votesStraight, e.fadesStraight] : [e.votesPremultiplied, e.fadesPremultiplied]
  const against =
    mode === 'straight' ? [e.votesPremultiplied, e.fadesPremultiplied] : [e.votesStraight, e.fadesStraight]
  if (e.decidedBy === 'fades')
    return (
      `Where one colour fades, it ${mode === 'straight' ? 'stays the same' : `turns to ${matte}`} at ` +
      `${many(fades)} of ${many(fades + against[1]!)} places, as ${word} alpha does.`
    )
  const all = fades + against[1]!
  const also =
    fades && fades >= against[1]!
      ? `, and ${many(fades)} of ${many(all)} fades agree`
      : against[1]! >= FEW
        ? `, but ${many(against[1]!)} of ${many(all)} fades say otherwise`
        : ''
  return (
    `${many(edges)} of ${many(edges + against[0]!)} edges that can tell are mixed as ${word} alpha mixes ` +
    `them${also}.`
  )
}

/** Whether pixels overrule what a file says by its standard or flag. */
export function overrules(found: AlphaAnswer): boolean {
  const { votesStraight, votesPremultiplied, fadesStraight, fadesPremultiplied, decidedBy } = found.evidence
  if (decidedBy !== 'edges' && decidedBy !== 'fades')
    return found.mode === 'straight' && found.confidence >= OVERRULING.confidence
  const votes = votesStraight + votesPremultiplied + fadesStraight + fadesPremultiplied
  return found.confidence >= OVERRULING.confidence && votes >= OVERRULING.votes
}

const asMode = (found: { mode: string; matte?: HexColour | null }): AlphaMode =>
  found.mode === 'premultiplied' ? { mode: 'premultiplied', matte: found.matte ?? '#000000' } : STRAIGHT

/** Mattes that differ by no more than coding leaves are one. */
export function sameReading(
  a: { mode: string; matte?: string | null },
  b: { mode: string; matte?: string | null }
): boolean {
  return a.mode === b.mode && (a.mode !== 'premultiplied' || apart(a.matte ?? '#000000', b.matte ?? '#000000') <= 3)
}

const isTold = ({ mode }: AlphaAnswer): boolean => mode === 'straight' || mode === 'premultiplied'

/** Whether pixels tell a mode, and are sure enough of it to be believed where the file says nothing. */
const isSure = (found: AlphaAnswer): boolean => isTold(found) && found.confidence > SURE

/** Whether a few frames say enough to begin on: where a file says its mode it is believed meanwhile. */
export const saysEnough = (found: AlphaAnswer, claim: AlphaClaim): boolean =>
  claim.mode !== 'unknown' || found.mode === 'none' || isSure(found)

/**
 * The mode frames should be taken to have when nobody has decided. A file is believed unless its pixels overrule it.
 */
export function modeAdvised(found: AlphaAnswer, claim: AlphaClaim): AlphaMode {
  if (found.mode === 'none') return OPAQUE
  if (claim.mode !== 'straight' && claim.mode !== 'premultiplied') return isSure(found) ? asMode(found) : STRAIGHT
  return isTold(found) && !sameReading(found, claim) && overrules(found) ? asMode(found) : asMode(claim)
}

/**
 * What is to be told of a source that nobody has decided on: that it is taken for something else than it says, or that
 * its pixels raise a doubt. Null where file and pixels agree, or where the file says nothing.
 */
export function sayTaken(found: AlphaAnswer, claim: AlphaClaim): { taken: boolean; sentence: string } | null {
  if (claim.mode !== 'straight' && claim.mode !== 'premultiplied') return null
  if ((found.mode !== 'straight' && found.mode !== 'premultiplied') || sameReading(found, claim)) return null
  const name = (mode: { mode: string; matte?: HexColour | null }): string =>
    mode.mode === 'premultiplied' ? `premultiplied on ${colourName(mode.matte ?? '#000000')}` : 'straight'
  return overrules(found)
    ? { taken: true, sentence: `Taken as ${name(found)}, though the file says ${name(claim)} (${claim.says}).` }
    : {
        taken: false,
        sentence:
          `Taken as ${name(claim)}, as the file says (${claim.says}); its pixels look ${name(found)} ` +
          `to ${Math.round(found.confidence * 100)} %.`
      }
}
