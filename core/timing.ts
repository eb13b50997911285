/** Frame times of formats that count in milliseconds or hundredths: written so that they never drift, and read back as the rate they stand for. */
import { reduceRate, type Rate } from './rate'
import type { Finding } from './source/source'

/** How long frame `index` is shown, in units of `perSecond`: the end of the frame rounded, less its beginning rounded. */
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

/**
 * The rate whose rounded times these are; else the mean, with a finding when they are uneven. With `lastRounded` the last frame lasts as
 * long as its writer rounded a frame to be, not to where the next would begin, and may so be one unit off.
 */
export function rateOfTicks(
  ticks: readonly number[],
  perSecond: number,
  { lastRounded = false } = {}
): { rate: Rate | null; findings: Finding[] } {
  const total = ticks.reduce((sum, t) => sum + t, 0)
  if (total === 0) return { rate: null, findings: [] }
  const exact = ticks.every(t => t === ticks[0]) ? reduceRate([perSecond, ticks[0]!]) : null
  const slack = (i: number): number => (lastRounded && i === ticks.length - 1 ? 1 : 0)
  const known = CANDIDATES.find(rate => ticks.every((t, i) => Math.abs(ticksOf(i, rate, perSecond) - t) <= slack(i)))
  if (known && !(exact && exact[1] === 1)) return { rate: known, findings: [] }
  if (exact) return { rate: exact, findings: [] }
  const rate = reduceRate([ticks.length * perSecond, total])
  const mean = total / ticks.length
  const odd = ticks.flatMap((t, i) => (Math.abs(t - mean) > 1.5 ? [i + 1] : []))
  return {
    rate,
    findings: odd.length
      ? [
          {
            id: 'uneven-timing',
            severity: 'warning',
            frames: odd,
            sentence: `The frames are shown for different times; ${ticks.length} frames take ${Math.round((total / perSecond) * 1000) / 1000} s. Their mean rate is taken.`
          }
        ]
      : []
  }
}
