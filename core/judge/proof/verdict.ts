/** From the comparisons of all frames to readings, findings, a verdict and its sentence. */
import { colourName } from '../../base/colour'
import { overrules } from '../examine/mode'
import { sameAlphaMode, type AlphaMode } from '../../frame/frame'
import { sayAlpha } from '../../job/outlet/outlet'
import { rateFraction, sameRate } from '../../base/rate'
import type { Finding } from '../../source/source'
import { codesOf, type Explanation } from './compare'
import type { ProofReport } from './report'
import type { Verdict } from './grades'
import { THRESHOLDS } from './thresholds'
import { alphaAllowed, comparedFrames, totals, type Evidence, type Totals } from './evidence'
import { likelyMistake, MISTAKES } from './mistakes'
import {
  clipReadings,
  pixelReadings,
  reading,
  two,
  sayPlays,
  heldByClock,
  sizeText,
  structureReadings
} from './readings'

/** Names the matte colour that was solved for. */
function sayOtherMatte({ comparisons, expected }: Evidence): string {
  const matte = comparisons.flatMap(c => c.explanations).find(x => x.matte)?.matte ?? 'another colour'
  return (
    `The delivered colour is premultiplied on ${colourName(matte)} instead of ` +
    `${sayAlpha(expected.alpha)}. Soft edges will carry that colour.`
  )
}

/** Faults of an alpha that lets nothing through any more. */
const GONE: ReadonlySet<string> = new Set(['alpha-missing', 'alpha-solid', 'background-baked', 'alpha-constant'])

/** Pixels of a frame that must have been see-through for their loss to be called a background left in. */
const FEW = 16
/** From here on, of 255, a pixel is solid to any eye: what a codec rounds up there is no background. */
const NEARLY_SOLID = 250
/** The share of what should be clear that is solid where a background was baked in. */
const BAKED = 0.5

/** What the figures of alpha alone show: transparency that is gone, whatever became of the colours. */
function bakedFaults({ comparisons, failures, expected, delivered }: Evidence, t: Totals): Finding[] {
  const full = codesOf(expected.depth)
  const through = (levels: ArrayLike<number>): number => {
    let sum = 0
    for (let bin = 0; bin < NEARLY_SOLID; bin++) sum += levels[bin]!
    return sum
  }
  const numbers = comparedFrames(comparisons.length, failures)
  const solid = comparisons.flatMap((c, i) =>
    through(c.alpha.dueLevels) >= FEW && c.alpha.foundLeast >= full ? [numbers[i]!] : []
  )
  const fault = (id: string, sentence: string, frames: number[] = []): Finding[] => [
    { id, severity: 'fault', frames, sentence }
  ]
  if (solid.length > 0 && delivered.claim.mode !== 'none')
    return fault(
      'alpha-solid',
      solid.length === comparisons.length
        ? 'Alpha is solid in every pixel: the transparency is gone, and whatever lay behind is baked in.'
        : `Alpha is solid in every pixel of ${solid.length} of ${comparisons.length} frames: their ` +
            'transparency is gone.',
      solid.length === comparisons.length ? [] : solid
    )
  const { due, found } = t.histogram
  const levels = (bins: readonly number[]): number => bins.filter(count => count > 0).length
  if (t.least === t.most && levels(due) > 1)
    return fault(
      'alpha-constant',
      `Alpha is the same in every pixel, ${Math.round((100 * t.most) / full)} % of full: nothing is cut out any more.`
    )
  const grown = found[255]! - due[255]!
  if (due[0]! >= FEW && t.clearLost >= BAKED * due[0]! && grown >= BAKED * due[0]!)
    return fault(
      'background-baked',
      `${Math.round((100 * t.clearLost) / due[0]!)} % of what should be clear is solid: a background is baked in.`
    )
  return []
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
      `The delivery plays at ${rateFraction(delivered.rate)} frames per second instead of ` +
        `${rateFraction(expected.rate)}.`
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
  // a mistake that explains the frames says more than that their alpha is gone: inverted, clear is solid too
  if (t && expected.alpha.mode !== 'none' && (!known || known.id === 'alpha-solid')) found.push(...bakedFaults(e, t))
  // alpha that is gone is told once, whatever found it
  if (known && !(known.id === 'alpha-solid' && found.some(f => GONE.has(f.id))))
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
      sentence:
        `A reader who judges by the pixels would take this for ${e.answer.mode}, not ` +
        `${sayAlpha(e.expected.alpha)}. Check how the source was read.`
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

/** Who read the file back; where that was Pour's own code, whether strangers hold it in the tests. */
function sayLooked({ proofReader, stranger }: Evidence['format']): string {
  if (proofReader.independent) return ` Read back by ${proofReader.name}.`
  return stranger?.seen
    ? ` Read back by Pour's own reader, which is held against ${stranger.by}.`
    : ` Read back by Pour's own reader alone: ${stranger?.because ?? 'no other reader has seen this format'}.`
}

function sentence(verdict: Verdict, e: Evidence, t: Totals | null, wrong: readonly Finding[]): string {
  const all = e.comparisons.length === 1 ? 'the frame' : `all ${e.comparisons.length} frames`
  const by = sayLooked(e.format)
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

function worstFrame({ comparisons, failures }: Evidence): number | null {
  const numbers = comparedFrames(comparisons.length, failures)
  let worst: number | null = null
  let score = 0
  comparisons.forEach((c, i) => {
    const s = c.colour.max + c.alpha.max / 1e6
    if (s > score) {
      score = s
      worst = numbers[i]!
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
    reading({
      id: 'bytes',
      name: 'Size',
      asked: expected.bytes ? `about ${sizeText(expected.bytes)}` : '',
      found: sizeText(delivered.bytes),
      error: expected.bytes ? `${Math.round((delivered.bytes / expected.bytes - 1) * 100)} %` : '',
      state: 'plain',
      value: delivered.bytes
    })
  )
  if (evidence.sha256)
    readings.push(
      reading({ id: 'digest', name: 'SHA-256', asked: '', found: evidence.sha256, error: '', state: 'plain' })
    )
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
