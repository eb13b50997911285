/** From the comparisons of all frames to readings, findings, a verdict and its sentence. */
import { colourName } from '../colour'
import type { AlphaAnswer } from '../examine/mode'
import { overrules } from '../examine/mode'
import type { Form } from '../formats/form'
import type { Format } from '../formats/format'
import { sameAlphaMode, type AlphaMode } from '../frame/frame'
import { sayAlpha } from '../outlet/outlet'
import type { SoundForm } from '../sound/sound'
import { rateFraction, sameRate, secondsOf, type Rate } from '../rate'
import type { Finding, SourceFacts } from '../source/source'
import { BIN, BINS } from '../kernels/kernels'
import { codesOf, type Explanation, type FrameComparison } from './compare'
import type { ProofReport, Reading, Verdict } from './report'
import type { SoundProof } from './sound'
import { THRESHOLDS } from './thresholds'

export interface Expectation extends Form {
  width: number
  height: number
  frames: number
  /** Null when the reference knows no rate, which then is not compared. */
  rate: Rate | null
  /** Bytes estimated before pouring, if they were. */
  bytes: number | null
  /** Whether alpha came as a key of its own, and so through the codec's colour. */
  paired?: boolean
  /** Times it should play, 0 for ever; left out where nothing was asked. */
  plays?: number | null
  /** Sound that was to go with it. */
  sound?: SoundForm | null
  /** Whether none was asked for. */
  silent?: boolean
  /** Bytes it was to come to, where a size was asked for. */
  most?: number | null
}

export interface Evidence {
  expected: Expectation
  delivered: SourceFacts
  format: Format
  comparisons: FrameComparison[]
  /** Frames that could not be read or compared, and why. */
  failures: { frame: number; sentence: string }[]
  /** What the delivered pixels alone say of their mode. */
  answer: AlphaAnswer | null
  sha256: string | null
  /** Frames in the wrong place, alpha out of step, pictures shifted. */
  displaced?: readonly Finding[]
  /** What came of the sound, where any was to go with it. */
  sound?: SoundProof | null
}

interface Totals {
  pixels: number
  changed: number
  underClear: number
  alphaMax: number
  alphaSum: number
  alphaSquares: number
  alphaChanged: number
  clearLost: number
  solidLost: number
  clear: number
  solid: number
  least: number
  most: number
  colourMax: number
  colourMean: number
  colourHigh: number
  edgeMax: number
  edgeMean: number
  fineDue: number
  fineFound: number
  histogram: { due: number[]; found: number[] }
}

function totals(comparisons: readonly FrameComparison[], full: number): Totals {
  const sum = (pick: (c: FrameComparison) => number): number => comparisons.reduce((total, c) => total + pick(c), 0)
  const most = (pick: (c: FrameComparison) => number): number =>
    comparisons.reduce((top, c) => Math.max(top, pick(c)), 0)
  const visible = sum(c => c.colour.visible)
  const edgePixels = sum(c => c.edge.pixels)
  const bins = new Float64Array(BINS + 1)
  for (const { colour } of comparisons) colour.bins.forEach((count, i) => (bins[i]! += count))
  // pixels that are equal are not in the bins; they all lie at zero
  let above = visible * (1 - THRESHOLDS.colourShare)
  let high = 0
  for (let i = BINS; i >= 0; i--) {
    above -= bins[i]!
    if (above < 0) {
      high = (i + 1) * BIN
      break
    }
  }
  const histogram = (pick: (c: FrameComparison) => Uint32Array): number[] => {
    const total = new Float64Array(256)
    for (const c of comparisons) pick(c).forEach((count, i) => (total[i]! += count))
    return [...total]
  }
  return {
    histogram: { due: histogram(c => c.alpha.dueLevels), found: histogram(c => c.alpha.foundLevels) },
    fineDue: sum(c => c.fine.due),
    fineFound: sum(c => c.fine.found),
    pixels: sum(c => c.pixels),
    changed: sum(c => c.changed),
    underClear: sum(c => c.changedUnderClear),
    alphaMax: most(c => c.alpha.max),
    alphaSum: sum(c => c.alpha.sum),
    alphaSquares: sum(c => c.alpha.squares),
    alphaChanged: sum(c => c.alpha.changed),
    clearLost: sum(c => c.alpha.clearLost),
    solidLost: sum(c => c.alpha.solidLost),
    clear: sum(c => c.alpha.clear),
    solid: sum(c => c.alpha.solid),
    least: comparisons.reduce((low, c) => Math.min(low, c.alpha.foundLeast), full),
    most: most(c => c.alpha.foundMost),
    colourMax: most(c => c.colour.max),
    colourMean: visible ? sum(c => c.colour.sum) / visible : 0,
    colourHigh: Math.min(
      high,
      most(c => c.colour.max)
    ),
    edgeMax: most(c => c.edge.max),
    edgeMean: edgePixels ? sum(c => c.edge.sum) / edgePixels : 0
  }
}

const two = (value: number): string =>
  value === 0 ? '0' : value < 0.01 ? 'under 0.01' : String(Math.round(value * 100) / 100)

function psnr(squares: number, pixels: number, full: number): string {
  return squares === 0
    ? 'without error'
    : `${Math.round(10 * Math.log10((full * full * pixels) / squares) * 10) / 10} dB`
}

const MISTAKES: Record<Explanation['mistake'], { id: string; sentence: string } | null> = {
  none: null,
  'premultiplied-black': {
    id: 'wrong-mode',
    sentence: 'The delivered colour is premultiplied on black where it should be straight: soft edges will look dark.'
  },
  'premultiplied-white': {
    id: 'wrong-mode',
    sentence: 'The delivered colour is premultiplied on white where it should not be: soft edges will look light.'
  },
  'premultiplied-other': {
    id: 'wrong-mode',
    sentence: 'The delivered colour is premultiplied on the wrong colour: soft edges will carry it.'
  },
  unpremultiplied: {
    id: 'wrong-mode',
    sentence: 'The delivered colour is straight where it should be premultiplied: soft edges will look light and hard.'
  },
  'premultiplied-twice': {
    id: 'premultiplied-twice',
    sentence: 'The delivered colour was multiplied by alpha twice: soft edges turn dark.'
  },
  inverted: {
    id: 'alpha-inverted',
    sentence: 'Alpha is inverted: what should be clear is solid and the other way round.'
  },
  'limited-range': {
    id: 'limited-range-alpha',
    sentence:
      'Alpha was stored in limited range (16 to 235): clear areas turn hazy and solid ones let the backdrop through.'
  },
  solid: { id: 'alpha-solid', sentence: 'Alpha is solid in every pixel: the transparency is gone.' }
}

/** The mistake that explains the damage, if one explains nearly all of it. */
export function likelyMistake(comparisons: readonly FrameComparison[]): Explanation['mistake'] | null {
  if (!comparisons.some(c => c.explanations.length > 0)) return null
  const misses = new Map<Explanation['mistake'], number>()
  for (const { explanations } of comparisons)
    for (const { mistake, miss } of explanations) misses.set(mistake, (misses.get(mistake) ?? 0) + miss)
  const as = misses.get('none') ?? 0
  if (as === 0) return null
  const [best, miss] = [...misses].sort((a, b) => a[1] - b[1])[0]!
  return best !== 'none' && miss < as * 0.2 ? best : null
}

function reading(
  id: Reading['id'],
  name: string,
  asked: string,
  found: string,
  error: string,
  state: Reading['state'],
  value: number | null = null
): Reading {
  return { id, name, asked, found, error, value, state }
}

const seconds = (frames: number, rate: Rate): string => `${Math.round(secondsOf(frames, rate) * 1000) / 1000} s`

const sayPlays = (plays: number): string => (plays === 0 ? 'for ever' : plays === 1 ? 'once' : `${plays} times`)

/** Order, loop and colour tags. */
function clipReadings({ expected, delivered, displaced = [], comparisons, failures, sound }: Evidence): Reading[] {
  const asked = expected.plays ?? null
  const plays = delivered.plays
  const looped = asked === null || plays === null || delivered.frames === 1 || asked === plays
  const order = displaced.filter(f => f.id !== 'picture-shifted')
  const compared = comparisons.length > 0 && failures.length === 0
  return [
    ...(expected.frames > 1
      ? [
          reading(
            'order',
            'Frame order',
            'in order',
            order.length ? 'displaced' : compared ? 'in order' : 'not compared',
            order.length ? `${order[0]!.frames.length} frames` : compared ? 'none' : '',
            order.length ? 'bad' : compared ? 'good' : 'plain'
          )
        ]
      : []),
    ...(plays === null
      ? []
      : [
          reading(
            'loop',
            'Plays',
            asked === null ? '' : sayPlays(asked),
            sayPlays(plays),
            looped ? (asked === null ? '' : 'none') : 'differs',
            looped ? (asked === null ? 'plain' : 'good') : 'bad'
          )
        ]),
    ...(sound ? [reading('sound', 'Sound', sound.asked, sound.found, sound.error, sound.right ? 'good' : 'bad')] : []),
    reading('tags', 'Colour tags', '', delivered.colour ?? 'none', '', 'plain')
  ]
}

/**
 * Whether a rate that the format's clock cannot say lies within one of its units from what was found, at every frame of
 * the clip.
 */
function heldByClock(due: Rate | null, { rate, frames }: SourceFacts, { clock }: Format): boolean {
  if (!clock || !due || !rate || sameRate(due, rate)) return false
  return Math.abs(secondsOf(frames, due) - secondsOf(frames, rate)) <= 1.01 / clock
}

function structureReadings({ expected, delivered, answer, format }: Evidence): Reading[] {
  const rateKnown = expected.rate !== null && (delivered.rate !== null || delivered.frames === 1)
  const held = heldByClock(expected.rate, delivered, format)
  const rateGood = !rateKnown || sameRate(expected.rate, delivered.rate) || delivered.frames === 1 || held
  const durationGood = rateKnown && (delivered.frames === 1 || (rateGood && expected.frames === delivered.frames))
  const claim = delivered.claim
  const claimGood =
    claim.mode === 'unknown' ||
    (claim.mode === expected.alpha.mode &&
      (claim.mode !== 'premultiplied' ||
        expected.alpha.mode !== 'premultiplied' ||
        claim.matte === expected.alpha.matte))
  const pixelsSay = answer && overrules(answer) ? `, pixels ${answer.mode}` : ''
  const size = (s: { width: number; height: number }): string => `${s.width}×${s.height}`
  return [
    reading(
      'count',
      'Frames',
      String(expected.frames),
      String(delivered.frames),
      expected.frames === delivered.frames
        ? 'none'
        : `${Math.abs(expected.frames - delivered.frames)} ${delivered.frames < expected.frames ? 'missing' : 'too many'}`,
      expected.frames === delivered.frames ? 'good' : 'bad',
      delivered.frames - expected.frames
    ),
    reading(
      'rate',
      'Rate, f/s',
      expected.rate ? rateFraction(expected.rate) : 'not known',
      delivered.rate ? rateFraction(delivered.rate) : 'carried by the name and note',
      !rateKnown ? 'not compared' : held ? `rounded to 1/${format.clock} s` : rateGood ? 'none' : 'differs',
      !rateKnown ? 'plain' : rateGood ? 'good' : 'bad'
    ),
    reading(
      'duration',
      'Duration',
      expected.rate ? seconds(expected.frames, expected.rate) : 'not known',
      delivered.rate ? seconds(delivered.frames, delivered.rate) : 'carried by the name and note',
      !rateKnown ? 'not compared' : durationGood ? 'none' : 'differs',
      !rateKnown ? 'plain' : durationGood ? 'good' : 'bad'
    ),
    reading(
      'size',
      'Frame size',
      size(expected),
      size(delivered),
      size(expected) === size(delivered) ? 'none' : 'differs',
      size(expected) === size(delivered) ? 'good' : 'bad'
    ),
    reading(
      'mode',
      'Alpha mode',
      sayAlpha(expected.alpha),
      (claim.mode === 'unknown' ? 'not declared' : claim.mode) + pixelsSay,
      claimGood ? (claim.mode === 'unknown' ? 'undeclared' : 'agrees') : 'contradicts',
      claimGood ? (claim.mode === 'unknown' ? 'warning' : 'good') : 'bad'
    )
  ]
}

function pixelReadings(t: Totals, { expected, format }: Evidence): Reading[] {
  const full = codesOf(expected.depth)
  const allowed = alphaAllowed(expected, format)
  const codes =
    t.alphaMax === 0
      ? '0 codes'
      : `${Math.round(t.alphaMax)} ${Math.round(t.alphaMax) === 1 ? 'code' : 'codes'} of ${full}`
  const colourGood = t.colourMean < THRESHOLDS.colourMean && t.colourHigh < THRESHOLDS.colourHigh
  const share = t.pixels ? t.alphaChanged / t.pixels : 0
  return [
    reading(
      'alpha',
      expected.depth === 32 ? 'Alpha, float' : `Alpha, ${expected.depth} bit`,
      'clear and solid kept',
      t.clearLost + t.solidLost
        ? `${t.clearLost.toLocaleString('en')} no longer clear, ${t.solidLost.toLocaleString('en')} no longer solid`
        : `kept, ${t.least} to ${t.most}`,
      t.alphaMax === 0
        ? '0 codes'
        : `${codes}; mean ${two(t.alphaSum / t.pixels)}; ${psnr(t.alphaSquares, t.pixels, full)}; ${two(share * 100)} % of pixels`,
      t.alphaMax === 0 ? 'good' : t.alphaMax <= allowed ? 'good' : 'bad',
      t.alphaMax
    ),
    reading(
      'levels',
      'Alpha levels, of 256',
      String(levels(t.histogram.due)),
      String(levels(t.histogram.found)),
      sameLevels(t.histogram) ? 'none' : 'differs',
      sameLevels(t.histogram) ? 'good' : 'plain',
      levels(t.histogram.found)
    ),
    reading(
      'colour',
      'Colour, 5 backdrops',
      `mean < ${THRESHOLDS.colourMean}, 99.9 % < ${THRESHOLDS.colourHigh}`,
      t.colourMax === 0 ? 'equal' : `mean ${two(t.colourMean)}, 99.9 % ≤ ${two(t.colourHigh)}`,
      `ΔE ${two(t.colourMax)}`,
      colourGood ? 'good' : 'bad',
      t.colourMax
    ),
    reading(
      'edges',
      'Edges, 2 px',
      '',
      t.edgeMax === 0 ? 'equal' : `mean ${two(t.edgeMean)}`,
      `ΔE ${two(t.edgeMax)}`,
      colourGood ? 'good' : 'bad',
      t.edgeMax
    )
  ]
}

const levels = (histogram: readonly number[]): number => histogram.filter(count => count > 0).length
const sameLevels = ({ due, found }: Totals['histogram']): boolean =>
  due.every((count, i) => count > 0 === found[i]! > 0)

function alphaAllowed({ depth, paired }: Expectation, format: Format): number {
  return (paired ? format.lossless : format.exactAlpha)
    ? THRESHOLDS.alphaCodes
    : Math.max(THRESHOLDS.alphaCodes, THRESHOLDS.alphaLossy * codesOf(depth))
}

export function sizeText(bytes: number): string {
  return bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${Math.round(bytes / 1e5) / 10} MB`
}

/** Names the matte colour that was solved for. */
function sayOtherMatte({ comparisons, expected }: Evidence): string {
  const matte = comparisons.flatMap(c => c.explanations).find(x => x.matte)?.matte ?? 'another colour'
  return `The delivered colour is premultiplied on ${colourName(matte)} instead of ${sayAlpha(expected.alpha)}. Soft edges will carry that colour.`
}

function faults(e: Evidence, t: Totals | null, mistake: Explanation['mistake'] | null): Finding[] {
  const found: Finding[] = []
  const fault = (id: string, sentence: string, frames: number[] = []): void =>
    void found.push({ id, severity: 'fault', frames, sentence })
  const { expected, delivered } = e
  for (const sentence of new Set(e.failures.map(f => f.sentence)))
    fault(
      'unreadable',
      sentence,
      e.failures.filter(f => f.sentence === sentence).map(f => f.frame)
    )
  if (delivered.frames !== expected.frames)
    fault('wrong-count', `The delivery has ${delivered.frames} frames instead of ${expected.frames}.`)
  if (
    expected.rate &&
    delivered.rate &&
    delivered.frames > 1 &&
    !sameRate(expected.rate, delivered.rate) &&
    !heldByClock(expected.rate, delivered, e.format)
  )
    fault(
      'wrong-rate',
      `The delivery plays at ${rateFraction(delivered.rate)} frames per second instead of ${rateFraction(expected.rate)}.`
    )
  if (delivered.width !== expected.width || delivered.height !== expected.height)
    fault(
      'wrong-size',
      `The delivery is ${delivered.width}×${delivered.height} instead of ${expected.width}×${expected.height}.`
    )
  const claim = delivered.claim
  if (claim.mode === 'none' && expected.alpha.mode !== 'none' && t && t.clear + t.solid < t.pixels + t.clear)
    fault('alpha-missing', `The delivery has no alpha: ${claim.says}.`)
  else if (claim.mode !== 'unknown' && claim.mode !== 'none' && expected.alpha.mode !== 'none') {
    const said: AlphaMode =
      claim.mode === 'straight' ? { mode: 'straight' } : { mode: 'premultiplied', matte: claim.matte ?? '#000000' }
    if (!sameAlphaMode(said, expected.alpha))
      fault('wrong-mode', `The file says ${sayAlpha(said)} (${claim.says}) instead of ${sayAlpha(expected.alpha)}.`)
  }
  found.push(...(e.displaced ?? []))
  if (e.sound && !e.sound.right) fault('wrong-sound', `The sound is not that of the source: ${e.sound.error}.`)
  const known = mistake && MISTAKES[mistake]
  if (known && !(known.id === 'alpha-solid' && found.some(f => f.id === 'alpha-missing')))
    fault(known.id, mistake === 'premultiplied-other' ? sayOtherMatte(e) : known.sentence)
  return found
}

/** A film may be this much larger than asked before it is told. */
const SIZE_SLACK = 0.15

function notes(e: Evidence, t: Totals | null): Finding[] {
  const found: Finding[] = []
  if (t?.underClear)
    found.push({
      id: 'colour-under-clear',
      severity: 'note',
      frames: [],
      sentence: `Colour changed under ${t.underClear.toLocaleString('en')} clear pixels, where it cannot be seen.`
    })
  if (
    e.answer &&
    e.expected.alpha.mode !== 'none' &&
    overrules(e.answer) &&
    (e.answer.mode === 'straight' || e.answer.mode === 'premultiplied') &&
    e.answer.mode !== e.expected.alpha.mode
  ) {
    found.push({
      id: 'pixels-look-otherwise',
      severity: 'warning',
      frames: [],
      sentence: `A reader who judges by the pixels would take this for ${e.answer.mode}, not ${sayAlpha(e.expected.alpha)}. Check how the source was read.`
    })
  }
  if (t && e.expected.depth === 16 && t.fineDue > 0 && t.fineFound === 0) {
    found.push({
      id: 'eight-in-sixteen',
      severity: 'warning',
      frames: [],
      sentence:
        'The file has 16 bits, but every code in it is one of 8: somewhere on the way the picture was rounded to 8 bits.'
    })
  }
  if (
    e.expected.plays !== undefined &&
    e.expected.plays !== null &&
    e.delivered.plays !== null &&
    e.delivered.frames > 1 &&
    e.expected.plays !== e.delivered.plays
  ) {
    found.push({
      id: 'wrong-loop',
      severity: 'warning',
      frames: [],
      sentence: `The delivery plays ${sayPlays(e.delivered.plays)}; ${sayPlays(e.expected.plays)} was asked.`
    })
  }
  if (
    t &&
    e.expected.alpha.mode !== 'none' &&
    e.delivered.claim.mode !== 'none' &&
    t.solid === t.pixels &&
    t.least === codesOf(e.expected.depth)
  ) {
    found.push({
      id: 'nothing-see-through',
      severity: 'warning',
      frames: [],
      sentence: 'Every pixel is solid, as it is in the source: nothing in this clip is see-through.'
    })
  }
  const { most = null } = e.expected
  if (most !== null && e.delivered.bytes > most * (1 + SIZE_SLACK)) {
    const held =
      e.expected.alpha.mode === 'none' ? '' : ' Alpha is coded at a quality of its own, which no size lowers.'
    found.push({
      id: 'larger-than-asked',
      severity: 'warning',
      frames: [],
      sentence: `The delivery is ${sizeText(e.delivered.bytes)}; ${sizeText(most)} were asked for.${held}`
    })
  }
  if (e.delivered.claim.mode === 'unknown')
    found.push({
      id: 'mode-undeclared',
      severity: 'note',
      frames: [],
      sentence: `Nothing in the file says that it is ${sayAlpha(e.expected.alpha)}; the receiver must be told.`
    })
  return found
}

function judge(e: Evidence, t: Totals | null, wrong: readonly Finding[]): Verdict {
  if (wrong.length > 0 || !t || e.failures.length) return 'broken'
  if (t.changed === 0) return 'identical'
  const good =
    t.alphaMax <= alphaAllowed(e.expected, e.format) &&
    t.colourMean < THRESHOLDS.colourMean &&
    t.colourHigh < THRESHOLDS.colourHigh
  return good ? 'faithful' : 'visible-loss'
}

function sentence(verdict: Verdict, e: Evidence, t: Totals | null, wrong: readonly Finding[]): string {
  const all = e.comparisons.length === 1 ? 'the frame' : `all ${e.comparisons.length} frames`
  const by = e.format.proofReader.independent ? ` Read back by ${e.format.proofReader.name}.` : ''
  if (verdict === 'broken') return wrong[0]?.sentence ?? 'The delivery could not be compared.'
  if (!t) return ''
  if (verdict === 'identical') return `Every code of ${all} is equal, alpha and colour.${by}`
  const alpha =
    t.alphaMax === 0
      ? `Alpha is identical in ${all} ${e.expected.depth === 32 ? 'in float' : `at ${e.expected.depth} bits`}.`
      : `Alpha differs by ${Math.round(t.alphaMax)} of ${codesOf(e.expected.depth)} codes at most.`
  if (t.colourMax === 0) return `${alpha} Colour is identical wherever it can be seen.${by}`
  const worst = worstFrame(e)
  const at = worst === null ? '' : ` (frame ${worst})`
  const judged = verdict === 'faithful' ? ', which cannot be seen' : ''
  return `${alpha} Colour differs by ${two(t.colourMean)} on average, ${two(t.colourMax)} at most${at}${judged}.${by}`
}

function worstFrame({ comparisons }: Evidence): number | null {
  let worst: number | null = null
  let score = 0
  comparisons.forEach((c, i) => {
    const s = c.colour.max + c.alpha.max / 1e6
    if (s > score) {
      score = s
      worst = i + 1
    }
  })
  return worst
}

/** Weighs everything into the report. */
export function reportOf(evidence: Evidence): ProofReport {
  const { expected, format, delivered, comparisons } = evidence
  const full = codesOf(expected.depth)
  const t = comparisons.length ? totals(comparisons, full) : null
  const mistake = likelyMistake(comparisons)
  const wrong = faults(evidence, t, mistake)
  const verdict = judge(evidence, t, wrong)
  const readings = [...structureReadings(evidence), ...clipReadings(evidence), ...(t ? pixelReadings(t, evidence) : [])]
  readings.push(
    reading(
      'bytes',
      'Size',
      expected.bytes ? `about ${sizeText(expected.bytes)}` : '',
      sizeText(delivered.bytes),
      expected.bytes ? `${Math.round((delivered.bytes / expected.bytes - 1) * 100)} %` : '',
      'plain',
      delivered.bytes
    )
  )
  if (evidence.sha256) readings.push(reading('digest', 'SHA-256', '', evidence.sha256, '', 'plain'))
  return {
    version: 1,
    verdict,
    title: '',
    sentence: sentence(verdict, evidence, t, wrong),
    file: null,
    ledger: [],
    readings,
    findings: [...wrong, ...notes(evidence, t)],
    reader: { ...format.proofReader },
    frames: comparisons.map(c => ({
      alpha: c.alpha.max,
      colour: Math.round(c.colour.max * 1000) / 1000,
      colourMean: c.colour.visible ? Math.round((c.colour.sum / c.colour.visible) * 10000) / 10000 : 0,
      edge: Math.round(c.edge.max * 1000) / 1000
    })),
    histogram: t?.histogram ?? null,
    worstFrame: worstFrame(evidence),
    depth: expected.depth,
    sha256: evidence.sha256,
    thresholds: { ...THRESHOLDS }
  }
}
