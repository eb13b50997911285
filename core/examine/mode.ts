/** Which mode is it? Flags, excess, clear pixels and the edge fit, weighed into one answer with its figures. */
import { z } from 'zod'
import { codesToHex, colourName, HexColour, hexToCodes, type Triple } from '../colour'
import type { AlphaMode } from '../frame/frame'
import { OPAQUE, STRAIGHT } from '../frame/frame'
import type { AlphaClaim } from '../source/source'
import { premultipliedResidual, solveMatte, straightResidual, type PairSums, type Votes } from './pairs'

export const AlphaAnswer = z.object({
  mode: z.enum(['straight', 'premultiplied', 'none', 'unknown']),
  matte: HexColour.nullable(),
  confidence: z.number().min(0).max(1),
  evidence: z.object({
    sentence: z.string(),
    claim: z.string(),
    /** Counts over all frames examined. */
    clearPixels: z.number(),
    partialPixels: z.number(),
    solidPixels: z.number(),
    clearColour: z.string().nullable(),
    excessPixels: z.number(),
    pairs: z.number(),
    straightResidual: z.number(),
    premultipliedResidual: z.number(),
    votesStraight: z.number(),
    votesPremultiplied: z.number()
  })
})
export type AlphaAnswer = z.infer<typeof AlphaAnswer>

/** What the clip's frames add up to. */
export interface Weighed {
  hasChannel: boolean
  clear: number
  partial: number
  solid: number
  /** The one colour of all clear pixels; null if there are none or they differ. */
  clearColour: HexColour | null
  clearPicture: boolean
  excess: number
  deficit: number
  pairs: PairSums
}

interface Fit {
  matte: HexColour
  residual: number
  votes: Votes
}

/** The premultiplied reading that stands the best chance. */
function bestFit(w: Weighed): Fit {
  const fit = (matte: HexColour, votes: Votes): Fit => ({
    matte,
    residual: premultipliedResidual(w.pairs, hexToCodes(matte)),
    votes
  })
  // where something is fully clear, premultiplied colour is the matte colour itself
  if (w.clearColour) return fit(w.clearColour, w.pairs.votes.clear)
  const fits = [fit('#000000', w.pairs.votes.black), fit('#ffffff', w.pairs.votes.white)]
  const solved = solveMatte(w.pairs)
  if (solved) {
    const matte = codesToHex(solved as Triple)
    const residual = premultipliedResidual(w.pairs, solved)
    // a solved colour votes as one, by how much better it explains all pairs together
    const better = straightResidual(w.pairs) > 2 * residual + 0.5
    if (residual < 0.5 * Math.min(fits[0]!.residual, fits[1]!.residual))
      fits.push({
        matte,
        residual,
        votes: { straight: better ? 0 : w.pairs.count, premultiplied: better ? w.pairs.count : 0 }
      })
  }
  return fits.sort((a, b) => a.residual - b.residual)[0]!
}

/** How sure a count of votes makes: few votes are little evidence, and so is a near tie. */
function sureness(winning: number, losing: number): number {
  const total = winning + losing
  return total === 0 ? 0 : Math.max(0, (winning - losing) / total) * (1 - 1 / (1 + total / 6))
}

/** The answer for a whole clip. */
export function judgeMode(w: Weighed, claim: AlphaClaim): AlphaAnswer {
  const fit = bestFit(w)
  const straight = straightResidual(w.pairs)
  const round = (value: number): number => Math.round(value * 100) / 100
  const answer = (
    mode: AlphaAnswer['mode'],
    matte: HexColour | null,
    confidence: number,
    sentence: string
  ): AlphaAnswer => ({
    mode,
    matte,
    confidence: round(confidence),
    evidence: {
      sentence,
      claim: claim.says,
      clearPixels: w.clear,
      partialPixels: w.partial,
      solidPixels: w.solid,
      clearColour: w.clearColour,
      excessPixels: w.excess,
      pairs: w.pairs.count,
      straightResidual: round(straight),
      premultipliedResidual: round(fit.residual),
      votesStraight: fit.votes.straight,
      votesPremultiplied: fit.votes.premultiplied
    }
  })
  const claimed = (sentence: string): AlphaAnswer =>
    claim.mode === 'straight' || claim.mode === 'premultiplied'
      ? answer(claim.mode, claim.matte, 0.6, `${sentence} The file says ${claim.mode}.`)
      : answer('unknown', null, 0, sentence)

  if (!w.hasChannel) return answer('none', null, 1, `There is no alpha: ${claim.says}.`)
  if (w.partial === 0)
    return claimed(
      w.clear === 0
        ? 'Alpha is solid everywhere, so both readings look the same.'
        : 'Alpha is only on or off, so both readings look the same.'
    )

  // no colour can exceed its alpha when premultiplied on black; a few pixels may be added light
  const forbidden = fit.matte === '#000000' ? w.excess : fit.matte === '#ffffff' ? w.deficit : 0
  const ruledOut = w.clearPicture || forbidden > 0.02 * (w.partial + (fit.matte === '#000000' ? 0 : w.clear))
  const { straight: votesStraight, premultiplied: votesPremultiplied } = fit.votes
  const surePremultiplied = sureness(votesPremultiplied, votesStraight)
  if (ruledOut && surePremultiplied < 0.9) {
    const why = w.clearPicture
      ? 'A picture lies under the clear pixels, which premultiplying would have wiped out.'
      : `In ${forbidden} pixels the colour goes beyond what alpha allows, which premultiplied on ${colourName(fit.matte)} cannot be.`
    return agreed(answer('straight', null, 0.98, why), claim)
  }
  if (surePremultiplied > 0.3) {
    return agreed(
      answer(
        'premultiplied',
        fit.matte,
        surePremultiplied,
        `Edges miss their own colour by ${round(straight)} codes if straight, by ${round(fit.residual)} if premultiplied on ${colourName(fit.matte)}.`
      ),
      claim
    )
  }
  const sureStraight = sureness(votesStraight, votesPremultiplied)
  if (sureStraight > 0.3) {
    return agreed(
      answer(
        'straight',
        null,
        sureStraight,
        `Edges keep the colour of what they belong to within ${round(straight)} codes; premultiplied on ${colourName(fit.matte)} would miss by ${round(fit.residual)}.`
      ),
      claim
    )
  }
  return claimed(
    w.pairs.count === 0
      ? 'No partial pixel lies near a more solid one, so there is nothing to compare.'
      : 'Both readings explain the edges equally well.'
  )
}

/** Pixels and claim pointing the same way make each other surer. */
function agreed(found: AlphaAnswer, claim: AlphaClaim): AlphaAnswer {
  const same =
    claim.mode === found.mode && (claim.matte ?? null) === (found.mode === 'premultiplied' ? found.matte : null)
  return same ? { ...found, confidence: Math.round((1 - (1 - found.confidence) * 0.2) * 100) / 100 } : found
}

/** Pixels this sure overrule what a file claims. */
export const OVERRULES = 0.8

/** The mode frames should be taken to have when nobody has decided: sure pixels first, then the file's word. */
export function modeAdvised(found: AlphaAnswer, claim: AlphaClaim): AlphaMode {
  if (found.mode === 'none') return OPAQUE
  const trusted = found.confidence >= OVERRULES || claim.mode === 'unknown'
  if (trusted && found.mode === 'premultiplied') return { mode: 'premultiplied', matte: found.matte ?? '#000000' }
  if (trusted && found.mode === 'straight') return STRAIGHT
  return claim.mode === 'premultiplied' ? { mode: 'premultiplied', matte: claim.matte ?? '#000000' } : STRAIGHT
}
