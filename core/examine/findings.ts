/** What a source is examined for. Each finding says what, where, and what it will cause; ids are stable. */
import { colourName } from '../colour'
import { sayNumbers } from '../intake/natural'
import { rateFraction } from '../rate'
import type { Finding, SourceFacts } from '../source/source'
import type { Tally } from './examination'
import { OVERRULES, type AlphaAnswer } from './mode'

type Finder = (all: Tally, facts: SourceFacts, alpha: AlphaAnswer) => Finding | null

/** A flat background covers at least this share of a frame. */
const FLAT_SHARE = 0.2

function finding(id: string, severity: Finding['severity'], sentence: string, frames: number[] = [], mend?: Finding['mend']): Finding {
  return { id, severity, frames, sentence, ...(mend ? { mend } : {}) }
}

const percent = (share: number): string => `${Math.round(share * 1000) / 10} %`

/** "all 12 frames", or "the picture" for a still. */
const everyFrame = (facts: SourceFacts): string => (facts.frames === 1 ? 'the frame' : `all ${facts.frames} frames`)

const solidEverywhere: Finder = (all, facts) => {
  if (all.clear || all.partial) return null
  const what = all.hasChannel ? `Alpha is solid in every pixel of ${everyFrame(facts)}` : `There is no alpha channel, so every pixel of ${everyFrame(facts)} is solid`
  const colour = all.seen[0]!.look.border.colour
  const flat = all.seen.every(({ look }) => look.border.colour === colour && look.border.share >= FLAT_SHARE)
  return flat
    ? finding('background-left-on', 'fault', `${what}; the background is one flat colour, ${colourName(colour)}. The background was probably left on: whatever is below will be hidden.`)
    : finding('solid-everywhere', 'fault', `${what}. Nothing below it will ever be seen.`)
}

const clearEverywhere: Finder = (all, facts) => (all.solid || all.partial ? null : finding('clear-everywhere', 'fault', `Alpha is clear in every pixel of ${everyFrame(facts)}: there is nothing to see.`))

const clearFrames: Finder = (all, facts) => {
  if (!all.solid && !all.partial) return null
  const frames = all.seen.flatMap(({ frame, look }) => (look.clear === look.width * look.height ? [frame] : []))
  return frames.length ? finding('clear-frames', 'note', `${frames.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(frames)} of ${facts.frames} ${frames.length === 1 ? 'is' : 'are'} wholly clear.`, frames) : null
}

const onOff: Finder = all => (all.clear && all.solid && !all.partial ? finding('on-off-alpha', 'warning', 'Alpha is only on or off: no pixel is partly clear, so edges will look stepped.') : null)

/** Black at 16 and white at 235, as video levels have it (ITU-R BT.709, 8 bits). */
function isLimited(all: Tally): boolean {
  const [low, high] = [all.least * 255, all.most * 255]
  return all.partial > 0 && low > 12 && low < 20 && high > 230 && high < 240
}

const limitedRange: Finder = all =>
  isLimited(all)
    ? finding('limited-range-alpha', 'fault', `Alpha runs from ${Math.round(all.least * 255)} to ${Math.round(all.most * 255)} of 255: it was stored in limited range. Clear areas will show as haze and solid ones will let the backdrop through.`)
    : null

const neverFull: Finder = all =>
  !all.partial || all.solid || isLimited(all) ? null : finding('never-solid', all.most > 0.9 ? 'warning' : 'note', `Alpha never reaches full: its highest value is ${percent(all.most)}, so the backdrop shows through everywhere.`)

const neverClear: Finder = all =>
  !all.partial || all.clear || isLimited(all) ? null : finding('never-clear', 'warning', `Alpha never reaches zero: its lowest value is ${percent(all.least)}, so a haze lies over the whole picture.`)

const shallow: Finder = (all, facts) => {
  if (facts.bitDepth !== 16 || all.fine > 0) return null
  return finding('eight-in-sixteen', 'note', `The file has 16 bits, but every code is an 8-bit code (${all.levels} alpha levels). An 8-bit outlet loses nothing.`)
}

const repeatedLast: Finder = (all, facts) => {
  const n = facts.frames
  const first = all.seen[0]!.look
  const last = all.seen.at(-1)!
  if (n < 3 || all.seen[0]!.frame !== 1 || last.frame !== n || first.fingerprint !== last.look.fingerprint) return null
  // what comes in from nothing and leaves to nothing is no loop
  if (first.clear === first.width * first.height) return null
  if (all.seen.every(({ look }) => look.fingerprint === first.fingerprint)) return null
  return finding('first-frame-repeats', 'warning', `The last frame, ${n}, repeats frame 1, so a loop stutters for one frame${facts.rate ? ` of 1/${Math.round(facts.rate[0] / facts.rate[1])} s` : ''}.`, [n], { id: 'drop-last-frame', label: `Leave frame ${n} out` })
}

const duplicates: Finder = all => {
  const frames = all.seen.flatMap(({ frame, look }, i) => (i > 0 && look.fingerprint === all.seen[i - 1]!.look.fingerprint ? [frame] : []))
  return frames.length ? finding('held-frames', 'note', `${frames.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(frames)} ${frames.length === 1 ? 'is' : 'are'} the same as the one before.`, frames) : null
}

const noRate: Finder = (_, facts) => (facts.frames > 1 && !facts.rate ? finding('no-rate', 'warning', 'Nothing says how fast it plays. Films cannot be poured until a rate is given.', [], { id: 'ask-rate', label: 'Give the rate' }) : null)

const oddRate: Finder = (_, facts) => {
  if (!facts.rate || facts.frames === 1) return null
  const fps = facts.rate[0] / facts.rate[1]
  return fps < 1 || fps > 240 ? finding('odd-rate', 'warning', `A rate of ${rateFraction(facts.rate)} frames per second is unusual; check it against the hand-over.`) : null
}

const contradicted: Finder = (_, facts, alpha) => {
  const { claim } = facts
  if (alpha.confidence < OVERRULES || (alpha.mode !== 'straight' && alpha.mode !== 'premultiplied')) return null
  if (claim.mode === 'unknown') {
    return alpha.mode === 'premultiplied'
      ? finding('unlabelled-premultiplied', 'warning', `The pixels are premultiplied on ${colourName(alpha.matte!)} and nothing in the file says so. Read as straight, its rims turn ${alpha.matte === '#000000' ? 'dark' : 'light'}.`)
      : null
  }
  if (claim.mode === alpha.mode && (claim.matte ?? null) === (alpha.matte ?? null)) return null
  const said = claim.mode === 'premultiplied' ? `premultiplied on ${colourName(claim.matte ?? '#000000')}` : claim.mode
  const shown = alpha.mode === 'premultiplied' ? `premultiplied on ${colourName(alpha.matte!)}` : alpha.mode
  return finding('claim-contradicts-pixels', 'fault', `The file says ${said} (${claim.says}), but its pixels are ${shown}. Programs that believe the file will show wrong rims.`)
}

const lightOutside: Finder = (all, _, alpha) => {
  if (alpha.mode !== 'premultiplied' || alpha.matte !== '#000000' || all.excess === 0) return null
  return finding('light-outside-alpha', 'warning', `In ${all.excess} pixels the colour is brighter than alpha allows: added light, which straight alpha cannot say.`)
}

const underClear: Finder = (all, _, alpha) =>
  alpha.mode === 'straight' && all.clearPicture ? finding('colour-under-clear', 'note', 'A picture lies under the clear pixels. It is invisible, and is kept by exact formats.') : null

const pixelShape: Finder = (_, facts) => {
  const [w, h] = facts.pixelAspect
  return w === h ? null : finding('non-square-pixels', 'warning', `Pixels are ${w}:${h}, not square; programs that ignore this show the picture too ${w < h ? 'wide' : 'narrow'}.`)
}

const FINDERS: readonly Finder[] = [
  solidEverywhere,
  clearEverywhere,
  contradicted,
  limitedRange,
  repeatedLast,
  noRate,
  oddRate,
  onOff,
  neverFull,
  neverClear,
  lightOutside,
  pixelShape,
  clearFrames,
  duplicates,
  shallow,
  underClear
]

/** Every finding that the pixels give cause for, gravest first. */
export function findingsOf(all: Tally, facts: SourceFacts, alpha: AlphaAnswer): Finding[] {
  const rank = { fault: 0, warning: 1, note: 2 }
  return FINDERS.flatMap(find => find(all, facts, alpha) ?? []).sort((a, b) => rank[a.severity] - rank[b.severity])
}
