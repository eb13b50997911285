/** Frame rates are exact fractions [numerator, denominator] in frames per second; floats are for showing only. */
import { z } from 'zod'

export const Rate = z.tuple([z.number().int().min(1).max(0xffffffff), z.number().int().min(1).max(0xffffffff)])
export type Rate = z.infer<typeof Rate>

/** The greatest number that both are multiples of. */
export function gcd(a: number, b: number): number {
  while (b) [a, b] = [b, a % b]
  return a
}

/** The same rate in lowest terms. */
export function reduceRate([n, d]: readonly [number, number]): Rate {
  const g = gcd(n, d)
  return [n / g, d / g]
}

const MOST = 0xffffffff

/** Neither side of a pixel's shape is larger, so that a frame's shape still fits 32 bits. */
export const MOST_OF_SHAPE = 9999

/**
 * The rate as two whole numbers from 1 to `most`, 2^32-1 where it is not given: itself in lowest terms, or the nearest
 * fraction that fits, by continued fractions. Null for what is no rate.
 */
export function nearestRate([n, d]: readonly [number, number], most = MOST): Rate | null {
  const wanted = n / d
  if (!(wanted > 0) || !Number.isFinite(wanted) || wanted > MOST || wanted < 1 / MOST) return null
  if (Number.isSafeInteger(n) && Number.isSafeInteger(d) && n > 0) {
    const [a, b] = reduceRate([n, d])
    if (a <= most && b <= most) return [a, b]
  }
  let [above, before] = [[1, 0] as const, [0, 1] as const] as [readonly [number, number], readonly [number, number]]
  let rest = wanted
  for (let turn = 0; turn < 64; turn++) {
    const whole = Math.floor(rest)
    const next = [whole * above[0] + before[0], whole * above[1] + before[1]] as const
    if (next[0] > most || next[1] > most) break
    before = above
    above = next
    if (rest === whole || next[0] / next[1] === wanted) break
    rest = 1 / (rest - whole)
  }
  return above[0] >= 1 && above[1] >= 1 ? [above[0], above[1]] : null
}

/** Whether two rates are the same number, however the fraction is written; null equals null alone. */
export function sameRate(a: Rate | null, b: Rate | null): boolean {
  return a === b || (a !== null && b !== null && a[0] * b[1] === b[0] * a[1])
}

/** Frames per second as a number, for arithmetic that only places pictures on a clock. */
export function framesPerSecond([n, d]: Rate): number {
  return n / d
}

/**
 * Reads "25", "24000/1001", "23.976" or "29.97". The decimals by which the 1001 family is commonly called become their
 * exact fraction (SMPTE ST 12-1); any other decimal is taken to the thousandth. Null when it is no positive rate.
 */
export function parseRate(text: string): Rate | null {
  const fraction = /^\s*(\d{1,9})\s*[/:]\s*(\d{1,9})\s*$/.exec(text)
  if (fraction) {
    const n = Number(fraction[1])
    const d = Number(fraction[2])
    return n > 0 && d > 0 ? reduceRate([n, d]) : null
  }
  const decimal = /^\s*(\d{1,6})(?:[.,](\d{1,6}))?\s*$/.exec(text)
  if (!decimal) return null
  const value = Number(`${decimal[1]}.${decimal[2] ?? '0'}`)
  if (!(value > 0)) return null
  const nearest = Math.ceil(value)
  if (decimal[2] && Math.abs((nearest * 1000) / 1001 - value) < 0.006) return reduceRate([nearest * 1000, 1001])
  return reduceRate([Math.round(value * 1000), 1000])
}

/** "12", "23.976", "29.97": the way the trade calls a rate. */
export function formatRate([n, d]: Rate): string {
  return String(Math.round((n / d) * 1000) / 1000)
}

/** The fraction spelled out when it is not whole: "24000/1001". */
export function rateFraction([n, d]: Rate): string {
  return d === 1 ? String(n) : `${n}/${d}`
}

/** Duration of `frames` at `rate` in seconds. */
export function secondsOf(frames: number, [n, d]: Rate): number {
  return (frames * d) / n
}
