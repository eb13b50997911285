/** The lines of a ledger, each written from the figures that stand behind it. */
import { isTagged, isWide, sameTags, sayTags, type ColourTags } from '../../frame/colour-tags'
import { offByTags } from '../../media/colour-profile'
import { sayLevels } from '../../source/light-levels'
import { formatById } from '../../open/registry'
import { colourName } from '../../base/colour'
import { sayTaken, type AlphaAnswer } from '../examine/mode'
import type { Form } from '../../media/formats/form'
import { sameAlphaMode, type AlphaMode } from '../../frame/frame'
import { sayAlpha } from '../../job/outlet/outlet'
import { findingKind } from '../../source/finding-kinds'
import { stepKindById } from '../../prepare/kinds'
import type { StepKind } from '../../prepare/step'
import { isOutletStep } from '../../job/outlet/own-steps'
import { preparedFacts, type Step } from '../../prepare/preparation'
import type { ProofReport } from '../proof/report'
import type { Verdict } from '../proof/grades'
import { THRESHOLDS } from '../proof/thresholds'
import { rateFraction, sameRate } from '../../base/rate'
import { LEFT_OUT_BY_STEP, saySound, soundsOf, type SoundForm } from '../../source/sound'
import { modeTaken } from '../../open/interpret'
import type { Interpretation, SourceFacts } from '../../source/source'
import type { Carries, LedgerLine, Stage } from './ledger'
import { sayLight, type LightFigures, type LightTold } from './light'
import { comparable, levelsIn, type RecipeFigures, type StepFigures } from './measure'

type Line = (id: string, severity: LedgerLine['severity'], asked: boolean, sentence: string) => LedgerLine

const lineOf =
  (stage: Stage): Line =>
  (id, severity, asked, sentence) => ({ stage, id, severity, asked, sentence })

/** As a sentence begins. */
const capital = (words: string): string => words[0]!.toUpperCase() + words.slice(1)

const percent = (part: number, whole: number): string => {
  const share = whole ? (100 * part) / whole : 0
  return part === 0 ? '0 %' : share < 0.1 ? 'under 0.1 %' : `${Math.round(share * 10) / 10} %`
}

const two = (value: number): string =>
  value > 0 && value < 0.01 ? 'under 0.01' : String(Math.round(value * 100) / 100)

/** A stage at which nothing happened still says so. */
const nothing = (stage: Stage, sentence: string): LedgerLine => lineOf(stage)('nothing', 'none', false, sentence)

/** How the source was taken. `facts` are what its files say; `byHand` whether the mode was chosen by somebody. */
export function takenLines(
  facts: SourceFacts,
  interpretation: Interpretation,
  answer: AlphaAnswer | null,
  byHand: boolean
): LedgerLine[] {
  const line = lineOf('taken')
  const mode = modeTaken(facts.claim, interpretation)
  const lines: LedgerLine[] = []
  const says = facts.claim.says
  if (byHand)
    lines.push(line('mode', 'note', true, `Taken as ${sayAlpha(mode)}, chosen by hand; the file says: ${says}.`))
  else {
    const told = answer ? sayTaken(answer, facts.claim) : null
    lines.push(
      told
        ? line('mode', 'note', false, `${told.sentence}${answer ? ` ${answer.evidence.sentence}` : ''}`)
        : line('mode', 'none', false, `Taken as ${sayAlpha(mode)} (${says}).`)
    )
  }
  if (interpretation.rate && !sameRate(interpretation.rate, facts.rate)) {
    const from = { name: 'as its name says', note: 'as a note beside it says', asked: 'as you answered' }
    lines.push(
      line(
        'rate',
        'none',
        true,
        `Taken at ${rateFraction(interpretation.rate)} f/s, ${from[interpretation.rateFrom ?? 'asked']}.`
      )
    )
  }
  // gaps that are held show the picture before in place of what is missing: it is still not there
  for (const finding of facts.findings) {
    const { leftOut } = findingKind(finding.id)
    if (leftOut && finding.severity !== 'note')
      lines.push(line(finding.id, leftOut === 'pictures' ? 'loss' : 'note', false, finding.sentence))
  }
  const aspect = interpretation.pixelAspect
  if (aspect && aspect[0] / aspect[1] !== facts.pixelAspect[0] / facts.pixelAspect[1])
    lines.push(line('pixel-shape', 'note', true, `Pixels taken as ${aspect[0]}:${aspect[1]}, by hand.`))
  if (interpretation.colour && interpretation.colour !== facts.colour)
    lines.push(line('colour', 'note', true, `Colour taken as ${interpretation.colour}, by hand.`))
  return lines
}

/** What a step did to the light, in words and as figures. */
function lightOf(
  kind: StepKind,
  { settings }: Step,
  before: SourceFacts,
  after: SourceFacts,
  found: LightFigures
): LightTold & { figures: Record<string, [number, number]> } {
  const { light, alpha, brightest, darkest } = found
  const spreads = kind.crops ? null : (kind.area?.(before, after, settings as never) ?? null)
  const still = kind.group === 'Colour' || kind.group === 'Depth' ? 1 : null
  const purpose = kind.cuts === true || kind.dims?.(settings as never) === 0
  return {
    ...sayLight(found, { name: kind.name, area: spreads ?? still, purpose }),
    // where nothing is a number there is no extreme
    figures: Object.fromEntries(
      Object.entries({ light, alpha, brightest, darkest }).filter(([, pair]) => pair.every(Number.isFinite))
    )
  }
}

/** What each step did. */
export function preparedLines(
  facts: SourceFacts,
  steps: readonly Step[],
  figures: ReadonlyMap<string, StepFigures & { frames: number }>
): LedgerLine[] {
  const on = steps.filter(step => step.on)
  const lines: LedgerLine[] = []
  let before: SourceFacts = facts
  on.forEach((step, n) => {
    const kind = stepKindById(step.kind)
    const after = preparedFacts(facts, on.slice(0, n + 1))
    // what an outlet does is part of its recipe, whatever else was done on the bench
    const line = lineOf(isOutletStep(step) ? 'recipe' : 'prepared')
    const told: string[] = []
    if (after.frames !== before.frames) told.push(`${before.frames} frames became ${after.frames}`)
    if (after.rate && before.rate && !sameRate(after.rate, before.rate))
      told.push(`${rateFraction(before.rate)} f/s became ${rateFraction(after.rate)}`)
    if (after.width !== before.width || after.height !== before.height)
      told.push(`${before.width}x${before.height} became ${after.width}x${after.height}`)
    const found = figures.get(step.id)
    if (found && found.alpha) told.push(`alpha changed in ${percent(found.alpha, found.pixels)} of the pixels`)
    if (found && found.colour) told.push(`colour in ${percent(found.colour, found.pixels)}`)
    const light = found && found.pixels > 0 ? lightOf(kind, step, before, after, found.light) : null
    if (light) told.push(...light.told)
    lines.push({
      ...line(
        step.kind,
        told.length ? 'note' : 'none',
        true,
        `${kind.name}: ${told.length ? told.join(', ') : 'nothing changed'}.`
      ),
      ...(light ? { figures: light.figures } : {})
    })
    if (light?.loss) lines.push(line('light-lost', 'loss', false, light.loss))
    if (found?.cutOff)
      lines.push(
        line(
          'content-cut',
          'loss',
          false,
          `${kind.name} cuts off ${percent(found.cutOff, found.seen)} of what is seen, in ${found.frames} frames.`
        )
      )
    before = after
  })
  return on.some(step => !isOutletStep(step))
    ? lines
    : [nothing('prepared', 'Nothing was changed on the bench.'), ...lines]
}

export interface Recipe {
  /** The source as prepared. */
  prepared: SourceFacts
  mode: AlphaMode
  form: Form
  /** What the file says of itself. */
  delivered: SourceFacts
  frames: number
  carries: Carries
  /** The tracks of sound that were to go with it, and whether none was asked for. */
  sounds: readonly SoundForm[]
  silent: boolean
  /** Whether it was decided that codes are kept where the format cannot say what they mean. */
  codesKept: boolean
  figures: RecipeFigures | null
}

/** What the outlet makes of the prepared source, whoever chose it. */
export function recipeLines(recipe: Recipe): LedgerLine[] {
  const { prepared, form, delivered, frames, carries } = recipe
  const line = lineOf('recipe')
  const lines: LedgerLine[] = []
  if (carries === 'alpha-only')
    lines.push(line('carriage', 'note', true, 'Alpha alone is delivered, as grey: no colour is in it.'))
  if (carries === 'colour-only')
    lines.push(
      form.content.kind === 'flattened'
        ? line(
            'carriage',
            'note',
            true,
            `Colour alone is delivered, laid on ${colourName(form.content.backing)}: no alpha is in it.`
          )
        : line('carriage', 'loss', true, 'Delivered without alpha, as the outlet says: every pixel is solid.')
    )
  if (carries === 'fill-and-key')
    lines.push(line('carriage', 'none', true, 'Colour and alpha are delivered apart, as fill and key.'))
  lines.push(...pixelLines(recipe))
  if (frames < prepared.frames)
    lines.push(line('range', 'note', true, `${frames} of ${prepared.frames} frames are delivered.`))
  if (prepared.rate && !delivered.rate && frames > 1)
    lines.push(
      line(
        'rate',
        'note',
        false,
        `Pictures carry no rate: ${rateFraction(prepared.rate)} f/s is in the names and the note.`
      )
    )
  const { clock } = formatById(delivered.format)
  if (clock && prepared.rate && frames > 1 && (clock * prepared.rate[1]) % prepared.rate[0] !== 0)
    lines.push(
      line(
        'rate-rounded',
        'note',
        false,
        `Its times are whole units of 1/${clock} s: ${rateFraction(prepared.rate)} f/s is held to the ` +
          'nearest, and does not ' +
          `drift.${clock === 100 && prepared.rate[0] / prepared.rate[1] > 50 ? ' Times under 0.02 s are stretched to 0.1 s by some browsers.' : ''}`
      )
    )
  const [w, h] = prepared.pixelAspect
  const [dw, dh] = delivered.pixelAspect
  if (Math.abs(w / h - dw / dh) > 1e-4)
    lines.push(
      line(
        'pixel-shape',
        'loss',
        false,
        `Pixels of ${w}:${h} are written as ${dw}:${dh}: the picture comes out too ${w < h ? 'wide' : 'narrow'}.`
      )
    )
  lines.push(...soundLines(recipe))
  if (prepared.timecode && !delivered.timecode)
    lines.push(
      line(
        'timecode',
        'note',
        false,
        `Its time code, from ${prepared.timecode} on, is left out: the file has no place for it.`
      )
    )
  const carried = delivered.fields && delivered.fields !== 'progressive'
  if (!carried && prepared.findings.some(f => f.id === 'fields' || f.id === 'interlaced'))
    lines.push(
      line(
        'fields',
        'note',
        false,
        'Its frames hold two moments each; ' +
          `${delivered.fields ? 'the file says that they are progressive' : 'the file has no place to say so'}.`
      )
    )
  if (form.curve)
    lines.push(
      line(
        'light-curve',
        'none',
        true,
        form.curve === 'none'
          ? 'Its codes hold light already, and became light as they are.'
          : form.curve === 'gamma-2.2'
            ? 'Codes of gamma 2.2 became light by that curve.'
            : `Codes of ${form.curve.toUpperCase()} became light: 1.0 is reference white, 203 cd/m².`
      )
    )
  if (prepared.levels && isTagged(prepared.tags) && !delivered.levels)
    lines.push(
      line(
        'light-levels',
        'note',
        false,
        `What it says of its light (${sayLevels(prepared.levels)}) is left out: ` +
          `${form.transfer === 'linear' ? 'the file holds light itself' : 'the format has no place for it'}.`
      )
    )
  // alpha alone has no colour to be named
  const labelled = carries === 'alpha-only' ? null : relabelled(prepared, delivered, form)
  if (labelled)
    lines.push(
      line(
        'colour-tags',
        isWide(prepared.tags) || isWide(delivered.tags) ? 'loss' : 'note',
        // a label that came by the way is nobody's wish
        recipe.codesKept && isWide(prepared.tags) && !isWide(delivered.tags),
        labelled
      )
    )
  return lines.length ? lines : [nothing('recipe', 'The outlet holds the source as it is.')]
}

/** What became of each track of sound, and why. */
function soundLines({ prepared, delivered, sounds, silent }: Recipe): LedgerLine[] {
  const line = lineOf('recipe')
  const found = soundsOf(delivered)
  return soundsOf(prepared).flatMap((sound, track) => {
    const said = saySound(sound)
    const place = sounds.findIndex(form => (form.track ?? 0) === track)
    const made = place < 0 ? undefined : found[place]
    if (!made) {
      const why = silent
        ? 'the outlet asks for none'
        : (sound.leftOut ??
          (sounds.length && place < 0
            ? 'the format takes no more tracks, or none of this kind'
            : 'the format does not take it'))
      const asked = silent || sound.leftOut === LEFT_OUT_BY_STEP
      return [line('sound', 'loss', asked, `Its sound (${said}) is left out: ${why}.`)]
    }
    const cut = made.samples !== null && made.samples < (sound.samples ?? 0)
    const early = sound.early && sound.begins === 0 ? secondsSaid(sound.early, sound.rate!) : null
    return [
      line('sound', 'none', true, `Its sound (${said}) goes with it${cut ? ', cut to the frames delivered' : ''}.`),
      ...(early
        ? [
            line(
              'sound-before',
              'note',
              true,
              `Its sound begins ${early} before its first picture; that part goes with none.`
            )
          ]
        : [])
    ]
  })
}

const secondsSaid = (samples: number, rate: number): string => `${Math.round((samples / rate) * 1000) / 1000} s`

/** Light from here on is brighter than white, not rounding. */
const WHITE_LIGHT = 1.001

/** What integer codes cannot hold of float colour. */
function beyondLines({ clipped, brightest, visible }: RecipeFigures): LedgerLine[] {
  if (!clipped) return []
  const share = `In ${percent(clipped, visible)} of what is seen, colour`
  const sentence =
    brightest > WHITE_LIGHT
      ? `${share} is brighter than white (up to ${two(brightest)} times) and is cut off there: codes end at ` +
        'white. OpenEXR keeps it.'
      : `${share} lies below black and is cut off there: codes begin at black. OpenEXR keeps it.`
  return [lineOf('recipe')('beyond-white', 'loss', false, sentence)]
}

function pixelLines({ prepared, mode, form, figures: f }: Recipe): LedgerLine[] {
  const line = lineOf('recipe')
  if (!f) {
    return sameAlphaMode(mode, form.alpha) || !comparable(form) || mode.mode === 'none'
      ? []
      : [
          line(
            'mode',
            'none',
            true,
            `${capital(sayAlpha(mode))} is written as ${sayAlpha(form.alpha)}, which loses nothing that is seen.`
          )
        ]
  }
  const beyond = beyondLines(f)
  if (!comparable(form)) return beyond
  const [before, after] = [levelsIn(f.before), levelsIn(f.after)]
  const levels = `${before.toLocaleString('en')} levels of alpha became ${after.toLocaleString('en')}`
  if (form.cut)
    return [
      ...beyond,
      f.hardened > 0
        ? line(
            'cut',
            'loss',
            false,
            `Soft edges are made hard: ${levels}, in ${percent(f.hardened, f.partial)} of the pixels that are ` +
              'partly clear.'
          )
        : line('cut', 'none', false, 'Alpha was on or off already, so nothing is lost by cutting it.')
    ]
  const mean = f.visible ? f.colourSum / f.visible : 0
  const seen =
    mean >= THRESHOLDS.colourMean ||
    f.colourFar > (1 - THRESHOLDS.colourShare) * f.visible ||
    f.alphaMax > 255 * THRESHOLDS.alphaLossy
  const halved = form.half && prepared.bitDepth === 16
  const fewer = halved || form.depth < prepared.bitDepth || form.alphaBits < prepared.bitDepth
  const codes = form.bits ?? form.depth
  const bits =
    `${prepared.bitDepth === 32 ? 'Float' : `${prepared.bitDepth} bits`} became ` +
    `${halved ? 'half floats' : codes}${form.alphaBits < codes && !halved ? ` with ${form.alphaBits} of alpha` : ''}`
  const off = `alpha is off by ${two(f.alphaMax)} of 255 at most, colour by ${two(mean)} on average`
  if (prepared.bitDepth === 32 && form.depth < 32 && f.changed === 0)
    return [
      ...beyond,
      line('depth', 'none', false, `${bits}${f.clipped ? '' : ': every value is rounded to its nearest code'}.`)
    ]
  if (f.changed === 0)
    return fewer ? [line('depth', 'none', false, `${bits}, which loses nothing: every code is one of those bits.`)] : []
  if (!fewer)
    return [
      line(
        'mode-change',
        seen ? 'loss' : 'none',
        false,
        seen
          ? `${capital(sayAlpha(mode))} cannot be told as ${sayAlpha(form.alpha)} without loss: ${off}. Light ` +
              'outside alpha is cut off.'
          : `${capital(sayAlpha(mode))} is written as ${sayAlpha(form.alpha)}: ${off}, which cannot be seen.`
      )
    ]
  return [
    ...beyond,
    line('depth', seen ? 'loss' : 'note', false, `${bits}: ${levels}; ${off}${seen ? '' : ', which cannot be seen'}.`)
  ]
}

/** "by ΔE 1.2 on average and 6.4 at most", where colours under these tags are taken for sRGB's. */
function sayOff(tags: ColourTags): string {
  const off = offByTags(tags)
  return off ? `, off by ΔE ${two(off.mean)} on average and ${two(off.most)} at most` : ''
}

/**
 * What is to be said where colour that was labelled as something else than sRGB or BT.709 lost that label, or got one
 * that it did not have.
 */
function relabelled(was: SourceFacts, is: SourceFacts, { transfer, curve }: Form): string | null {
  const { tags } = was
  if (!tags || !isTagged(tags))
    return is.tags && isWide(is.tags)
      ? `Colour came as sRGB and the file says ${sayTags(is.tags)}: whoever heeds that sees other ` +
          `colours${sayOff(is.tags)}.`
      : null
  if (sameTags(tags, is.tags)) return null
  // codes that became light by their own curve have their primaries left to say
  const byCurve = transfer === 'linear' && (curve || !isWide([1, tags[1], 0]))
  if (byCurve && (is.tags?.[0] ?? 1) === tags[0]) return null
  if (transfer === 'linear' && was.bitDepth !== 32)
    return (
      `Colour came labelled ${sayTags(tags)}, and the file holds light: its codes were taken through the ` +
      'curve of sRGB, which is not theirs. “Bring colour to sRGB” first takes them through their own.'
    )
  return (
    `Colour came labelled ${sayTags(tags)} and the file says ${is.colour ?? 'nothing'}: its codes are as ` +
    `they were, under another name, and are shown as other colours${sayOff(tags)}.`
  )
}

const SEVERITY: Record<Verdict, LedgerLine['severity']> = {
  identical: 'none',
  faithful: 'none',
  'visible-loss': 'loss',
  broken: 'broken'
}

/** How the file holds what was due. */
export function fileLines(report: Pick<ProofReport, 'verdict' | 'sentence' | 'findings'>): LedgerLine[] {
  const line = lineOf('file')
  return [
    line('proof', SEVERITY[report.verdict], false, report.sentence),
    ...report.findings
      .filter(f => f.severity === 'warning' && f.id !== 'nothing-see-through')
      .map(f => line(f.id, 'note', false, f.sentence))
  ]
}

/** What the format of a form carries, as its ledger needs to know. */
export const formatCarries = (form: Form, paired: boolean): Carries =>
  paired
    ? 'fill-and-key'
    : form.content.kind === 'alpha'
      ? 'alpha-only'
      : form.content.kind !== 'whole' || form.alpha.mode === 'none'
        ? 'colour-only'
        : 'all'
