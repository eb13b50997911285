/** The readings of a report: of the clip, its structure and its pixels. */
import type { Carrying } from '../../media/formats/traits/carrying'
import { overrules } from '../examine/mode'
import { sayAlpha } from '../../job/outlet/outlet'
import { rateFraction, sameRate, secondsOf, type Rate } from '../../base/rate'
import type { SourceFacts } from '../../source/source'
import { codesOf } from './compare'
import type { Reading } from './report'
import { THRESHOLDS } from './thresholds'
import { alphaAllowed, type Evidence, type Totals } from './evidence'

/** A number to two places, or that it is less than those can say. */
export const two = (value: number): string =>
  value === 0 ? '0' : value < 0.01 ? 'under 0.01' : String(Math.round(value * 100) / 100)

function psnr(squares: number, pixels: number, full: number): string {
  return squares === 0
    ? 'without error'
    : `${Math.round(10 * Math.log10((full * full * pixels) / squares) * 10) / 10} dB`
}

/** A reading; without a value where nothing of it is a number. */
export const reading = ({ value = null, ...said }: Omit<Reading, 'value'> & { value?: number | null }): Reading => ({
  ...said,
  value
})

const seconds = (frames: number, rate: Rate): string => `${Math.round(secondsOf(frames, rate) * 1000) / 1000} s`

/** How often a film plays, in words; 0 is for ever. */
export const sayPlays = (plays: number): string => (plays === 0 ? 'for ever' : plays === 1 ? 'once' : `${plays} times`)

/** Order, loop and colour tags. */
export function clipReadings({
  expected,
  delivered,
  displaced = [],
  comparisons,
  failures,
  sound
}: Evidence): Reading[] {
  const asked = expected.plays ?? null
  const plays = delivered.plays
  const looped = asked === null || plays === null || delivered.frames === 1 || asked === plays
  const order = displaced.filter(f => f.id !== 'picture-shifted')
  const compared = comparisons.length > 0 && failures.length === 0
  return [
    ...(expected.frames > 1
      ? [
          reading({
            id: 'order',
            name: 'Frame order',
            asked: 'in order',
            found: order.length ? 'displaced' : compared ? 'in order' : 'not compared',
            error: order.length ? `${order[0]!.frames.length} frames` : compared ? 'none' : '',
            state: order.length ? 'bad' : compared ? 'good' : 'plain'
          })
        ]
      : []),
    ...(plays === null
      ? []
      : [
          reading({
            id: 'loop',
            name: 'Plays',
            asked: asked === null ? '' : sayPlays(asked),
            found: sayPlays(plays),
            error: looped ? (asked === null ? '' : 'none') : 'differs',
            state: looped ? (asked === null ? 'plain' : 'good') : 'bad'
          })
        ]),
    ...(sound
      ? [
          reading({
            id: 'sound',
            name: 'Sound',
            asked: sound.asked,
            found: sound.found,
            error: sound.error,
            state: sound.right ? 'good' : 'bad'
          })
        ]
      : []),
    reading({
      id: 'tags',
      name: 'Colour tags',
      asked: '',
      found: delivered.colour ?? 'none',
      error: '',
      state: 'plain'
    })
  ]
}

/**
 * Whether a rate that the format's clock cannot say lies within one of its units from what was found, at every frame of
 * the clip.
 */
export function heldByClock(due: Rate | null, { rate, frames }: SourceFacts, { clock }: Carrying): boolean {
  if (!clock || !due || !rate || sameRate(due, rate)) return false
  return Math.abs(secondsOf(frames, due) - secondsOf(frames, rate)) <= 1.01 / clock
}

/** Readings of what the file says: size, length, rate, depth, mode. */
export function structureReadings({ expected, delivered, answer, format }: Evidence): Reading[] {
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
    reading({
      id: 'count',
      name: 'Frames',
      asked: String(expected.frames),
      found: String(delivered.frames),
      error:
        expected.frames === delivered.frames
          ? 'none'
          : `${Math.abs(expected.frames - delivered.frames)} ` +
            `${delivered.frames < expected.frames ? 'missing' : 'too many'}`,
      state: expected.frames === delivered.frames ? 'good' : 'bad',
      value: delivered.frames - expected.frames
    }),
    reading({
      id: 'rate',
      name: 'Rate, f/s',
      asked: expected.rate ? rateFraction(expected.rate) : 'not known',
      found: delivered.rate ? rateFraction(delivered.rate) : 'carried by the name and note',
      error: !rateKnown ? 'not compared' : held ? `rounded to 1/${format.clock} s` : rateGood ? 'none' : 'differs',
      state: !rateKnown ? 'plain' : rateGood ? 'good' : 'bad'
    }),
    reading({
      id: 'duration',
      name: 'Duration',
      asked: expected.rate ? seconds(expected.frames, expected.rate) : 'not known',
      found: delivered.rate ? seconds(delivered.frames, delivered.rate) : 'carried by the name and note',
      error: !rateKnown ? 'not compared' : durationGood ? 'none' : 'differs',
      state: !rateKnown ? 'plain' : durationGood ? 'good' : 'bad'
    }),
    reading({
      id: 'size',
      name: 'Frame size',
      asked: size(expected),
      found: size(delivered),
      error: size(expected) === size(delivered) ? 'none' : 'differs',
      state: size(expected) === size(delivered) ? 'good' : 'bad'
    }),
    reading({
      id: 'mode',
      name: 'Alpha mode',
      asked: sayAlpha(expected.alpha),
      found: (claim.mode === 'unknown' ? 'not declared' : claim.mode) + pixelsSay,
      error: claimGood ? (claim.mode === 'unknown' ? 'undeclared' : 'agrees') : 'contradicts',
      state: claimGood ? (claim.mode === 'unknown' ? 'warning' : 'good') : 'bad'
    })
  ]
}

/** Readings of what its pixels are, from the figures of all frames. */
export function pixelReadings(t: Totals, { expected, format }: Evidence): Reading[] {
  const full = codesOf(expected.depth)
  const allowed = alphaAllowed(expected, format)
  const codes =
    t.alphaMax === 0
      ? '0 codes'
      : `${Math.round(t.alphaMax)} ${Math.round(t.alphaMax) === 1 ? 'code' : 'codes'} of ${full}`
  const colourGood = t.colourMean < THRESHOLDS.colourMean && t.colourHigh < THRESHOLDS.colourHigh
  const share = t.pixels ? t.alphaChanged / t.pixels : 0
  return [
    reading({
      id: 'alpha',
      name: expected.depth === 32 ? 'Alpha, float' : `Alpha, ${expected.depth} bit`,
      asked: 'clear and solid kept',
      found:
        t.clearLost + t.solidLost
          ? `${t.clearLost.toLocaleString('en')} no longer clear, ${t.solidLost.toLocaleString('en')} no longer solid`
          : `kept, ${t.least} to ${t.most}`,
      error:
        t.alphaMax === 0
          ? '0 codes'
          : `${codes}; mean ${two(t.alphaSum / t.pixels)}; ${psnr(t.alphaSquares, t.pixels, full)}; ` +
            `${two(share * 100)} % of pixels`,
      state: t.alphaMax === 0 ? 'good' : t.alphaMax <= allowed ? 'good' : 'bad',
      value: t.alphaMax
    }),
    reading({
      id: 'levels',
      name: 'Alpha levels, of 256',
      asked: String(levels(t.histogram.due)),
      found: String(levels(t.histogram.found)),
      error: sameLevels(t.histogram) ? 'none' : 'differs',
      state: sameLevels(t.histogram) ? 'good' : 'plain',
      value: levels(t.histogram.found)
    }),
    reading({
      id: 'colour',
      name: 'Colour, 5 backdrops',
      asked: `mean < ${THRESHOLDS.colourMean}, 99.9 % < ${THRESHOLDS.colourHigh}`,
      found: t.colourMax === 0 ? 'equal' : `mean ${two(t.colourMean)}, 99.9 % ≤ ${two(t.colourHigh)}`,
      error: `ΔE ${two(t.colourMax)}`,
      state: colourGood ? 'good' : 'bad',
      value: t.colourMax
    }),
    reading({
      id: 'edges',
      name: 'Edges, 2 px',
      asked: '',
      found: t.edgeMax === 0 ? 'equal' : `mean ${two(t.edgeMean)}`,
      error: `ΔE ${two(t.edgeMax)}`,
      state: colourGood ? 'good' : 'bad',
      value: t.edgeMax
    })
  ]
}

const levels = (histogram: readonly number[]): number => histogram.filter(count => count > 0).length
const sameLevels = ({ due, found }: Totals['histogram']): boolean =>
  due.every((count, i) => count > 0 === found[i]! > 0)

/** Bytes as people read them, in kB or MB of powers of ten. */
export function sizeText(bytes: number): string {
  return bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${Math.round(bytes / 1e5) / 10} MB`
}
