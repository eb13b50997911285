/** What a source is examined for. Each finding says what, where, and what it will cause; ids are stable. */
import { sayShare } from '../../base/say-share'
import { spaceOf } from '../../prepare/gamut'
import { isWide, sayTags } from '../../frame/colour-tags'
import { colourName, hexToCodes } from '../../base/colour'
import { sayNumbers } from '../../base/natural'
import { rateFraction } from '../../base/rate'
import { saySound, soundsOf } from '../../source/sound'
import { KEEP_CODES, type Finding, type Mend, type SourceFacts } from '../../source/source'
import type { Tally } from './tally'
import { overrules, sameReading, sayTaken, type AlphaAnswer } from './mode'
import { sayTimes, seamOf } from '../../frame/seam'
import { pointsApart } from './plane'

type Finder = (all: Tally, facts: SourceFacts, alpha: AlphaAnswer) => Finding | null

/** A flat background covers at least this share of a frame. */
const FLAT_SHARE = 0.2

function finding(
  id: string,
  severity: Finding['severity'],
  sentence: string,
  frames: number[] = [],
  { mend, ...more }: { mend?: Finding['mend'] | undefined } & Pick<Finding, 'causes' | 'orElse'> = {}
): Finding {
  return { id, severity, frames, sentence, ...(mend ? { mend } : {}), ...more }
}

/** A mend that adds a step. */
const step = (label: string, kind: string, settings: Record<string, unknown> = {}): Mend => ({
  id: 'step',
  label,
  kind,
  settings
})

const SOFTER = step('Soften the edges a little', 'alpha-soften', { by: 0.75 })

/** Levels that stretch what was found to clear and solid: a hair beyond it, in whole tenths of a per cent. */
const stretch = (label: string, all: Tally): Mend =>
  step(label, 'alpha-levels', {
    low: Math.min(99, Math.ceil(all.least * 1000) / 10),
    high: Math.max(1, Math.floor(all.most * 1000) / 10)
  })

/** True for a colour of one strong hue, as screens to key against are painted. */
function isScreen(hex: string): boolean {
  const [r, g, b] = hexToCodes(hex)
  const [most, least] = [Math.max(r, g, b), Math.min(r, g, b)]
  return most - least > 70 && (most - least) / most > 0.45 && (most === g || most === b)
}

/** "all 12 frames", or "the picture" for a still. */
const everyFrame = (facts: SourceFacts): string => (facts.frames === 1 ? 'the frame' : `all ${facts.frames} frames`)

const solidEverywhere: Finder = (all, facts) => {
  if (all.clear || all.partial) return null
  const what = all.hasChannel
    ? `Alpha is solid in every pixel of ${everyFrame(facts)}`
    : `There is no alpha channel, so every pixel of ${everyFrame(facts)} is solid`
  const colour = all.seen[0]!.look.border.colour
  const flat = all.seen.every(({ look }) => look.border.colour === colour && look.border.share >= FLAT_SHARE)
  const causes = 'Every editor, engine and page will show a filled rectangle.'
  if (!flat) {
    const rim = all.seen[0]!.look.border.mean
    return isScreen(rim)
      ? finding(
          'screen-left-on',
          'fault',
          `${what}, and it stands before a screen of about ${rim}. Alpha has to be pulled from it.`,
          [],
          { mend: step('Pull a chroma key', 'chroma-key', { screen: rim }), causes }
        )
      : finding('solid-everywhere', 'fault', `${what}. Nothing below it will ever be seen.`, [], { causes })
  }
  const mend =
    colour === '#000000'
      ? step('Turn light on black into alpha', 'glow-to-alpha')
      : isScreen(colour)
        ? step('Pull a chroma key', 'chroma-key', { screen: colour })
        : step(`Take ${colour === '#ffffff' ? 'the white' : colourName(colour)} out`, 'flat-background', { colour })
  return finding(
    'background-left-on',
    'fault',
    `${what}; the background is one flat colour, ${colourName(colour)}. The background was probably left on: ` +
      'whatever is below will be hidden.',
    [],
    { mend: mend, causes }
  )
}

const clearEverywhere: Finder = (all, facts) =>
  all.solid || all.partial
    ? null
    : finding(
        'clear-everywhere',
        'fault',
        `Alpha is clear in every pixel of ${everyFrame(facts)}: there is nothing to see.`
      )

const clearFrames: Finder = (all, facts) => {
  if (!all.solid && !all.partial) return null
  const frames = all.seen.flatMap(({ frame, look }) => (look.clear === look.width * look.height ? [frame] : []))
  return frames.length
    ? finding(
        'clear-frames',
        'note',
        `${frames.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(frames)} of ${facts.frames} ` +
          `${frames.length === 1 ? 'is' : 'are'} wholly clear.`,
        frames
      )
    : null
}

const onOff: Finder = all =>
  all.clear && all.solid && !all.partial
    ? finding(
        'on-off-alpha',
        'warning',
        'Alpha is only on or off: no pixel is partly clear, so edges will look stepped.',
        [],
        { mend: SOFTER, causes: 'Steps show wherever the picture is scaled or moves slowly.' }
      )
    : null

/** Black at 16 and white at 235, as video levels have it (ITU-R BT.709, 8 bits). */
function isLimited(all: Tally): boolean {
  const [low, high] = [all.least * 255, all.most * 255]
  return all.partial > 0 && low > 12 && low < 20 && high > 230 && high < 240
}

const limitedRange: Finder = all =>
  isLimited(all)
    ? finding(
        'limited-range-alpha',
        'fault',
        `Alpha runs from ${Math.round(all.least * 255)} to ${Math.round(all.most * 255)} of 255: it was ` +
          'stored in limited range. Clear areas will show as haze and solid ones will let the backdrop through.',
        [],
        {
          mend: step('Stretch to full range', 'alpha-full-range'),
          causes: 'Every receiver takes alpha as full range, so all of them show the haze.'
        }
      )
    : null

const neverFull: Finder = all =>
  !all.partial || all.solid || isLimited(all)
    ? null
    : finding(
        'never-solid',
        all.most > 0.9 ? 'warning' : 'note',
        `Alpha never reaches full: its highest value is ${sayShare(all.most)}, so the backdrop shows through everywhere.`,
        [],
        { mend: stretch('Stretch to solid', all) }
      )

const neverClear: Finder = all =>
  !all.partial || all.clear || isLimited(all)
    ? null
    : finding(
        'never-clear',
        'warning',
        `Alpha never reaches zero: its lowest value is ${sayShare(all.least)}, so a haze lies over the whole picture.`,
        [],
        {
          mend: stretch('Stretch to clear', all),
          causes: 'Over a dark backdrop the whole frame brightens, and its edge shows as a rectangle.'
        }
      )

const shallow: Finder = (all, facts) => {
  if (facts.bitDepth !== 16 || all.fine > 0) return null
  return finding(
    'eight-in-sixteen',
    'note',
    `The file has 16 bits, but every code is an 8-bit code (${all.levels} alpha levels). An 8-bit outlet loses nothing.`
  )
}

const repeatedLast: Finder = (all, facts) => {
  const n = facts.frames
  const first = all.seen[0]!.look
  const last = all.seen.at(-1)!
  if (n < 3 || all.seen[0]!.frame !== 1 || last.frame !== n || first.fingerprint !== last.look.fingerprint) return null
  // what comes in from nothing and leaves to nothing is no loop
  if (first.clear === first.width * first.height) return null
  if (all.seen.every(({ look }) => look.fingerprint === first.fingerprint)) return null
  return finding(
    'first-frame-repeats',
    'warning',
    `The last frame, ${n}, repeats frame 1, so a loop stutters for one ` +
      `frame${facts.rate ? ` of 1/${Math.round(facts.rate[0] / facts.rate[1])} s` : ''}.`,
    [n],
    { mend: step(`Leave frame ${n} out`, 'drop-last') }
  )
}

/** Fewer levels of alpha than soft edges need, in more than a little partial area. */
const fewLevels: Finder = (all, facts) => {
  const total = all.clear + all.partial + all.solid
  if (all.levels < 3 || all.levels > 32 || all.partial < 0.002 * total || facts.bitDepth === 32) return null
  return finding(
    'few-levels',
    'warning',
    `Alpha lives at ${all.levels} levels only, of the ${facts.bitDepth === 8 ? 256 : 65536} its depth has, ` +
      `although ${sayShare(all.partial / total)} of the picture is partly clear.`,
    [],
    { mend: SOFTER, causes: 'Soft edges show as bands. It was probably made by a palette or quantised on the way.' }
  )
}

const untagged: Finder = (_, facts) => {
  const film = /QuickTime|MP4|Matroska|ProRes/i.test(facts.kind)
  return film && facts.colour === null
    ? finding('colour-untagged', 'note', 'The film carries no colour tags.', [], {
        causes: 'Receivers guess by the picture size; between BT.601 and BT.709 greens and reds shift visibly.'
      })
    : null
}

const wideColour: Finder = (_, facts) => {
  if (!facts.tags || !isWide(facts.tags)) return null
  const from = spaceOf(sayTags(facts.tags), null)
  return finding(
    'wide-colour',
    'note',
    `Its colour is ${sayTags(facts.tags)}. Formats that can say so carry that along; for the others it is ` +
      'brought to sRGB, or its codes are kept and shown as other colours.',
    [],
    {
      mend: from ? step('Bring it to sRGB', 'bring-to-srgb', { from }) : KEEP_CODES,
      causes: 'Programs that take every picture for sRGB show it with other colours.',
      ...(from ? { orElse: KEEP_CODES } : {})
    }
  )
}

const duplicates: Finder = all => {
  const frames = all.seen.flatMap(({ frame, look }, i) =>
    i > 0 && look.fingerprint === all.seen[i - 1]!.look.fingerprint ? [frame] : []
  )
  return frames.length
    ? finding(
        'held-frames',
        'note',
        `${frames.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(frames)} ` +
          `${frames.length === 1 ? 'is' : 'are'} the same as the one before.`,
        frames
      )
    : null
}

const noRate: Finder = (_, facts) =>
  facts.frames > 1 && !facts.rate
    ? finding(
        'no-rate',
        'warning',
        'Nothing says how fast it plays. Films cannot be poured until a rate is given.',
        [],
        { mend: { id: 'ask-rate', label: 'Give the rate' } }
      )
    : null

const oddRate: Finder = (_, facts) => {
  if (!facts.rate || facts.frames === 1) return null
  const fps = facts.rate[0] / facts.rate[1]
  return fps < 1 || fps > 240
    ? finding(
        'odd-rate',
        'warning',
        `A rate of ${rateFraction(facts.rate)} frames per second is unusual; check it against the hand-over.`,
        [],
        { mend: { id: 'ask-rate', label: 'Give the rate' } }
      )
    : null
}

/** Nothing labels the file: its pixels are told from here on. */
const UNLABELLED = 0.8

const contradicted: Finder = (_, facts, alpha) => {
  const { claim } = facts
  if (alpha.mode !== 'straight' && alpha.mode !== 'premultiplied') return null
  if (claim.mode === 'unknown') {
    return alpha.mode === 'premultiplied' && alpha.confidence >= UNLABELLED
      ? finding(
          'unlabelled-premultiplied',
          'warning',
          `The pixels are premultiplied on ${colourName(alpha.matte!)} and nothing in the file says so. Read ` +
            `as straight, its rims turn ${alpha.matte === '#000000' ? 'dark' : 'light'}.`,
          [],
          { causes: 'Programs that ask will be answered by guess; those that do not take it as straight.' }
        )
      : null
  }
  const said = sayTaken(alpha, claim)
  if (!said || sameReading(alpha, claim)) return null
  return overrules(alpha)
    ? finding('claim-contradicts-pixels', 'fault', `${said.sentence} ${alpha.evidence.sentence}`, [], {
        causes: 'Programs that believe the file will show wrong rims.'
      })
    : finding('mode-doubted', 'warning', said.sentence, [], {
        causes: 'If the pixels are right, soft edges will look too dark or too light. Decide by hand if you know.'
      })
}

/** Rounding and coding leave fewer pixels than this beyond their alpha. */
const LIGHT_SHARE = 0.002

const lightOutside: Finder = (all, _, alpha) => {
  if (alpha.mode !== 'premultiplied' || alpha.matte !== '#000000' || all.excess <= LIGHT_SHARE * all.partial)
    return null
  return finding(
    'light-outside-alpha',
    'warning',
    `In ${all.excess} pixels the colour is brighter than alpha allows: added light, which straight alpha cannot say.`,
    [],
    {
      mend: step('Turn the light into alpha', 'glow-to-alpha', { keep: true }),
      causes: 'Outlets with straight alpha cut the light off; premultiplied ones keep it.'
    }
  )
}

const underClear: Finder = (all, _, alpha) =>
  alpha.mode === 'straight' && all.clearPicture
    ? finding(
        'colour-under-clear',
        'note',
        'A picture lies under the clear pixels. It is invisible, and is kept by exact formats.',
        [],
        {
          mend: step('Wipe it', 'clear-to-black'),
          causes: 'Engines that filter textures may draw it into the rims; a receiver who drops the alpha sees it.'
        }
      )
    : null

const pixelShape: Finder = (_, facts) => {
  const [w, h] = facts.pixelAspect
  return w === h
    ? null
    : finding(
        'non-square-pixels',
        'warning',
        `Pixels are ${w}:${h}, not square; programs that ignore this show the picture too ` +
          `${w < h ? 'wide' : 'narrow'}.`,
        [],
        { mend: step('Make pixels square', 'square-pixels') }
      )
}

/**
 * Islands of a pixel or a few that stand by themselves; a clip made of such, as sparks are, has none to complain of.
 */
const specks: Finder = (all, facts) => {
  const having = all.seen.filter(
    ({ look }) =>
      look.plane.specks > 0 &&
      look.plane.specks <= Math.max(40, look.plane.islands - look.plane.specks) &&
      look.solid + look.partial > 400
  )
  if (having.length === 0 || having.length < all.seen.filter(({ look }) => look.plane.specks > 0).length) return null
  const count = having.reduce((sum, { look }) => sum + look.plane.specks, 0)
  const size = Math.max(...having.map(({ look }) => look.plane.speckMost))
  return finding(
    'specks',
    'warning',
    `${count === 1 ? 'A speck stands by itself' : `${count} specks stand by themselves`} in ${having.length} ` +
      `of ${facts.frames} frames, of ${size === 1 ? 'one pixel' : `up to ${size} pixels`}.`,
    having.map(s => s.frame),
    {
      mend: step('Remove the specks', 'alpha-specks', { size: size + 1, holes: false }),
      causes: 'Specks flicker over any backdrop, and widen a crop to the whole frame.'
    }
  )
}

const faintIslands: Finder = (all, facts) => {
  // a frame that has nothing else is a fade as it begins or ends
  const having = all.seen.filter(({ look: { plane } }) => plane.faint > 0 && plane.faint + plane.specks < plane.islands)
  if (having.length === 0 || isLimited(all) || !all.solid) return null
  const most = Math.max(...having.map(({ look }) => look.plane.faintMost))
  return finding(
    'faint-islands',
    'warning',
    `Faint patches lie apart from the subject in ${having.length} of ${facts.frames} frames; their alpha ` +
      `stays below ${sayShare(most + 0.001)}.`,
    having.map(s => s.frame),
    {
      mend: step('Remove the haze', 'alpha-haze', { below: Math.ceil(most * 1000) / 10 }),
      causes: 'They show as stains over dark or even backdrops.'
    }
  )
}

/** Share of the picture that must lie in areas which are nearly solid and not quite. */
const BLEEDING = 0.004

const bleedThrough: Finder = all => {
  const total = all.clear + all.partial + all.solid
  // a frame without a solid pixel fades as a whole
  const having = all.seen.filter(({ look }) => look.solid > 0 && look.plane.bleed > 0)
  const pixels = having.reduce((sum, { look }) => sum + look.plane.bleed, 0)
  if (pixels < BLEEDING * total || isLimited(all)) return null
  const least = Math.min(...having.map(({ look }) => look.plane.bleedLeast))
  return finding(
    'bleed-through',
    'warning',
    `Areas that should be solid are not quite: ${sayShare(pixels / total)} of the picture has alpha from ` +
      `${sayShare(least)} to just below full.`,
    having.flatMap(({ frame, look }) => (look.plane.bleed > BLEEDING * look.width * look.height ? [frame] : [])),
    {
      mend: step('Make them solid', 'alpha-levels', { low: 0, high: Math.max(1, Math.floor(least * 1000) / 10) }),
      causes: 'The backdrop shines through the subject. A key that was pulled too softly does this.'
    }
  )
}

/**
 * Columns of a frame in which alpha must go to and fro from line to line, and their share of partial pixels: hair does
 * so now and then.
 */
const COMBED = 6
const COMBED_SHARE = 0.001

const fields: Finder = (all, facts) => {
  const combed = all.seen.filter(({ look }) => look.plane.comb >= Math.max(COMBED, COMBED_SHARE * look.partial))
  if (combed.length < 1 || combed.length < 0.2 * Math.min(all.seen.length, 10)) return null
  return finding(
    'fields',
    'warning',
    `Edges go to and fro from line to line in ${combed.length} of ${facts.frames} frames: they hold two ` +
      'moments in alternate lines, as interlaced pictures do.',
    combed.map(s => s.frame),
    {
      mend: step('Keep one field', 'one-field'),
      causes:
        'Scaled, turned or blended, the lines become combs and flicker. Half of the moments are lost by the ' +
        'mend; better have it rendered progressive.'
    }
  )
}

/** Fewer edges than this are no evidence of it. */
const TWICE_VOTES = 40

/** What colour multiplied twice leaves: its edges follow the square of alpha. */
const twice: Finder = (all, _, alpha) => {
  const { triples } = all
  const others = triples.straight + triples.premultiplied
  if (alpha.mode !== 'premultiplied' || alpha.matte !== '#000000' || triples.twice < TWICE_VOTES) return null
  if (triples.twice < others) return null
  return finding(
    'multiplied-twice',
    'fault',
    `Colour was multiplied by alpha twice: ${triples.twice} edges are mixed that way, ` +
      `${triples.premultiplied} as if once.`,
    [],
    {
      mend: step('Undo one multiplication', 'take-matte-out', { matte: '#000000' }),
      causes: 'Soft edges look dark and thin everywhere, however alpha is read.'
    }
  )
}

/** Steps below this are no motion; a seam beyond so many usual steps is no loop. */
const STILL = 0.02
const FAR = 6

const loopSeam: Finder = (all, facts) => {
  const { seen } = all
  if (facts.frames < 6 || seen.length !== facts.frames || all.clear + all.partial === 0) return null
  const [first, last] = [seen[0]!.look, seen.at(-1)!.look]
  // what comes in from nothing, or leaves, is no loop; nor is one whose first frame repeats, which has its own finding
  if (
    first.clear === first.width * first.height ||
    last.clear === last.width * last.height ||
    first.fingerprint === last.fingerprint
  )
    return null
  const steps = seen.slice(1).map(({ look }, i) => pointsApart(look.plane.points, seen[i]!.look.plane.points))
  if (steps.filter(s => s > STILL).length < steps.length / 2) return null
  const { kind, times } = seamOf(pointsApart(last.plane.points, first.plane.points), steps, STILL)
  if (kind !== 'jumps' || times > FAR) return null
  return finding(
    'loop-seam',
    'note',
    `If it is meant to loop, its seam jumps: from frame ${facts.frames} to 1 it moves ${sayTimes(times)} ` +
      'times as far as from frame to frame.',
    [facts.frames],
    {
      mend: step('Blend the end into the beginning', 'close-loop', {
        over: Math.max(1, Math.min(6, Math.floor(facts.frames / 4)))
      }),
      causes: 'Pages and engines that play it over and over show a jolt.'
    }
  )
}

/** Whether every pixel is solid and the rim is that of a screen to key against. */
function isPlate(all: Tally): boolean {
  if (all.clear || all.partial) return false
  return isScreen(all.seen[0]!.look.border.mean)
}

const sound: Finder = (all, facts) => {
  const tracks = soundsOf(facts)
  if (tracks.length === 0) return null
  const going = tracks.filter(track => track.leftOut === null)
  if (going.length && isPlate(all))
    return finding(
      'plate-sound',
      'warning',
      `It stands before a screen, and has sound (${going.map(saySound).join('; ')}). Should that go along ` +
        'with what is keyed?',
      [],
      {
        mend: step('Leave its sound out', 'sound', { goes: 'out' }),
        causes: 'Until it is decided the sound goes into films that take it.',
        orElse: step('Let its sound go along', 'sound', { goes: 'along' })
      }
    )
  const sentences = tracks.map((track, n) => {
    const said =
      tracks.length > 1 ? `Track ${n + 1} of its sound (${saySound(track)})` : `Its sound (${saySound(track)})`
    return track.leftOut
      ? `${said} is left out: ${track.leftOut}.`
      : `${said} goes with the pictures into films that take it.`
  })
  return finding('has-sound', 'note', sentences.join(' '))
}

const many = (count: number, one: string): string => `${count.toLocaleString('en')} ${one}${count === 1 ? '' : 's'}`

/** A value of alpha to three decimals at most. */
const beyondBy = (value: number): string => `${Math.round(value * 1000) / 1000}`

const brokenNumbers: Finder = all => {
  const having = all.seen.filter(({ look }) => look.broken?.broken)
  if (!having.length) return null
  const pixels = having.reduce((sum, { look }) => sum + look.broken!.broken, 0)
  const { frame, look } = having[0]!
  const { x, y } = look.broken!.first!
  return finding(
    'broken-values',
    'fault',
    `${many(pixels, 'pixel')} in ${having.length === 1 ? `frame ${frame}` : many(having.length, 'frame')} ` +
      `${pixels === 1 ? 'holds' : 'hold'} values that are no numbers or have no end; the first in frame ` +
      `${frame} at ${x}, ${y}.`,
    having.map(each => each.frame),
    {
      mend: step('Mend them from around', 'mend-values', { from: 'around' }),
      causes:
        'Programs show them as black, white or flicker, and filters spread them; formats of whole codes ' +
        'cannot hold them.',
      orElse: step('Put 0 there', 'mend-values', { from: 'zero' })
    }
  )
}

const alphaBeyond: Finder = all => {
  const having = all.seen.filter(({ look }) => look.broken?.beyond)
  if (!having.length) return null
  const pixels = having.reduce((sum, { look }) => sum + look.broken!.beyond, 0)
  const least = Math.min(...having.map(({ look }) => look.broken!.least))
  const most = Math.max(...having.map(({ look }) => look.broken!.most))
  return finding(
    'alpha-beyond-range',
    'warning',
    `In ${many(pixels, 'pixel')} alpha lies beyond 0 to 1, from ${beyondBy(least)} to ${beyondBy(most)}.`,
    having.map(each => each.frame),
    {
      mend: step('Hold alpha to 0 to 1', 'mend-values', { holds: true }),
      causes: 'What lies beneath is then subtracted or taken twice; formats of whole codes cut it off.'
    }
  )
}

const FINDERS: readonly Finder[] = [
  brokenNumbers,
  alphaBeyond,
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
  twice,
  lightOutside,
  bleedThrough,
  specks,
  faintIslands,
  fields,
  pixelShape,
  clearFrames,
  duplicates,
  sound,
  loopSeam,
  fewLevels,
  untagged,
  wideColour,
  shallow,
  underClear
]

/** Every finding that the pixels give cause for, gravest first. */
export function findingsOf(all: Tally, facts: SourceFacts, alpha: AlphaAnswer): Finding[] {
  const rank = { fault: 0, warning: 1, note: 2 }
  return FINDERS.flatMap(find => find(all, facts, alpha) ?? []).sort((a, b) => rank[a.severity] - rank[b.severity])
}
