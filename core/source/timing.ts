/**
 * Frame times of formats that count in milliseconds or hundredths: written so that they never drift, and read back as
 * the rate they stand for.
 */
import { gcd, nearestRate, rateFraction, type Rate } from '../base/rate'
import type { Finding } from './source'

/**
 * How long frame `index` is shown, in units of `perSecond`: the end of the frame rounded, less its beginning rounded.
 */
export function ticksOf(index: number, [n, d]: Rate, perSecond: number): number {
  const at = (i: number): number => Math.round((i * d * perSecond) / n)
  return at(index + 1) - at(index)
}

/** Rates in use, the likeliest first, then every whole one. */
const CANDIDATES: readonly Rate[] = [
  [24, 1],
  [25, 1],
  [30, 1],
  [12, 1],
  [50, 1],
  [60, 1],
  [15, 1],
  [24000, 1001],
  [30000, 1001],
  [60000, 1001],
  ...Array.from({ length: 120 }, (_, i): Rate => [i + 1, 1])
]

/** A clip as it is shown: at one rate, each entry the index of a picture, which may stand for several frames. */
export interface Conformed {
  rate: Rate | null
  /** Null where every picture is one frame. */
  shown: number[] | null
  findings: Finding[]
}

/** Frames that held pictures may come to: a day at 50 a second. */
const MOST_SHOWN = 5_000_000
/** A rate above this is no clip's own; pictures that stand so short a time are placed on the grid of the commonest. */
const FASTEST = 120

/** A rate as two whole numbers, whatever clock it comes from. */
const fraction = (n: number, d: number): Rate => nearestRate([n, d]) ?? [1, 1]

/**
 * How far from the beginnings of frames of a rate those of pictures lie, at most; infinite where that is beyond `most`.
 */
type Off = (rate: Rate, most: number) => number

/**
 * Times that waver about those of one rate by less than half a frame, as recorders leave them: that rate, with a note.
 */
function wavers(off: Off, longest: (rate: Rate) => boolean, perSecond: number): Conformed | null {
  const [best] = CANDIDATES.map(rate => ({ rate, far: off(rate, (0.5 * perSecond * rate[1]) / rate[0]) }))
    .filter(({ rate, far }) => far < Infinity && longest(rate))
    .sort((a, b) => a.far - b.far)
  if (!best) return null
  const sentence =
    `Its pictures are up to ${Math.ceil((1000 * best.far) / perSecond)} ms early or late; they ` +
    `are taken as even, at ${rateFraction(best.rate)} f/s.`
  return {
    rate: best.rate,
    shown: null,
    findings: [{ id: 'wavering-times', severity: 'note', frames: [], sentence }]
  }
}

/**
 * What times of pictures in units of `perSecond` mean. Times that are those of one rate, rounded, are that rate; the
 * last picture's may be anything up to two frames, since writers say of it what they like. Others are held: the clip
 * has the rate that all times are whole frames of, or that of the commonest time where there is none up to 120, and
 * each picture stands for as many frames as it is shown.
 */
export function timesOf(ticks: readonly number[], perSecond: number): Conformed {
  const total = ticks.reduce((sum, t) => sum + t, 0)
  if (total === 0 || perSecond <= 0) return { rate: null, shown: null, findings: [] }
  const counts = new Map<number, number>()
  for (const t of ticks) if (t > 0) counts.set(t, (counts.get(t) ?? 0) + 1)
  const commonest = [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]![0]
  const starts: number[] = []
  ticks.reduce((at, t) => (starts.push(at), at + t), 0)
  const own = fraction(perSecond, commonest)
  const longest = (rate: Rate): boolean => (ticks.at(-1)! * rate[0]) / (perSecond * rate[1]) < 2.5
  const off: Off = ([n, d], most) => {
    let far = 0
    for (let i = 0; i < starts.length; i++) {
      far = Math.max(far, Math.abs(starts[i]! - (i * d * perSecond) / n))
      if (far > most) return Infinity
    }
    return far
  }
  // exact times are believed before rounded ones
  const even = off(own, 0) === 0 && longest(own)
  // rounded to the nearest unit, which several rates may be over a short clip: the likeliest; rounded otherwise, the
  // nearest
  const known = even
    ? own
    : (CANDIDATES.find(rate => off(rate, 0.5001) < Infinity && longest(rate)) ??
      CANDIDATES.map(rate => ({ rate, far: off(rate, 1) }))
        .filter(({ rate, far }) => far < Infinity && longest(rate))
        .sort((x, y) => x.far - y.far)[0]?.rate)
  if (known) return { rate: known, shown: null, findings: [] }
  const mean = fraction(ticks.length * perSecond, total)
  if (off(mean, 1) <= 1 && longest(mean)) return { rate: mean, shown: null, findings: [] }
  const common = [...counts.keys()].reduce((all, each) => gcd(all, each), 0)
  const fits = perSecond / common <= FASTEST && total / common <= MOST_SHOWN
  // times on a grid of their own are meant
  const wavering = fits ? null : wavers(off, longest, perSecond)
  if (wavering) return wavering
  const rate = fits ? fraction(perSecond, common) : perSecond / commonest <= FASTEST ? own : ([30, 1] as Rate)
  const frameAt = (at: number): number => Math.round((at * rate[0]) / (perSecond * rate[1]))
  const shown: number[] = []
  ticks.forEach((t, i) => {
    const until = Math.min(MOST_SHOWN, frameAt(starts[i]! + t))
    do shown.push(i)
    while (shown.length < until)
  })
  const seconds = Math.round((total / perSecond) * 1000) / 1000
  return {
    rate,
    shown,
    findings: [
      {
        id: 'uneven-timing',
        severity: 'warning',
        frames: ticks.flatMap((t, i) => (t === commonest ? [] : [i + 1])).slice(0, 10_000),
        sentence:
          `Its ${ticks.length} pictures are shown for different times, ${seconds} s in all: each is ` +
          `held as long, which makes ${shown.length} frames.`,
        causes:
          'Taken one by one, they would play in ' +
          `${Math.round((1000 * ticks.length * commonest) / perSecond) / 1000} s.`,
        mend: { id: 'each-picture', label: 'Take the pictures one by one' }
      }
    ]
  }
}
