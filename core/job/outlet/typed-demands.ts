/** A receiver's demands as they are typed: numbers in the units people write them in, or why they are none. */
import { parseRate, type Rate } from '../../base/rate'

const PER: Readonly<Record<string, number>> = {
  '': 1,
  b: 1,
  byte: 1,
  bytes: 1,
  ...{ kb: 1e3, mb: 1e6, gb: 1e9, tb: 1e12 },
  ...{ kib: 2 ** 10, mib: 2 ** 20, gib: 2 ** 30, tib: 2 ** 40 }
}

/** A number with a point, or a comma in its place; with commas or spaces between thousands as well. Null for none. */
function numberOf(text: string): number | null {
  const tight = text.trim().replace(/[\s'’_]/g, '')
  const plain = /^\d{1,3}(,\d{3})+(\.\d+)?$/.test(tight) ? tight.replaceAll(',', '') : tight.replace(',', '.')
  return /^(\d+\.?\d*|\.\d+)$/.test(plain) ? Number(plain) : null
}

/** Bytes of "5 MB", "1.5 GiB", "250 000"; null where it is no size. Units of a thousand, and of 1,024 with an i. */
export function bytesOf(text: string): number | null {
  const [, number, unit] = /^(.*?)\s*([a-z]*)$/i.exec(text.trim()) ?? []
  const [value, per] = [numberOf(number ?? ''), PER[(unit ?? '').toLowerCase()]]
  return value === null || per === undefined ? null : Math.round(value * per)
}

/** Seconds of "2.5", "2,5 s" or "1:30"; null where it is no length. */
export function secondsOfText(text: string): number | null {
  const [, minutes, rest] = /^(\d+):([0-5]?\d(?:[.,]\d+)?)$/.exec(text.trim()) ?? []
  if (minutes !== undefined) return 60 * Number(minutes) + numberOf(rest!)!
  return numberOf(text.trim().replace(/\s*s(ec(onds?)?)?$/i, ''))
}

/** What is typed into the fields; empty where nothing is asked for. */
export interface TypedDemands {
  width: string
  height: string
  rate: string
  seconds: string
  bytes: string
}

export interface Read {
  size: { width: number; height: number } | null
  rate: Rate | null
  longestSeconds: number | null
  largestBytes: number | null
}

/** The demands, or one sentence on the first that cannot be understood. */
export function readTyped({ width, height, rate, seconds, bytes }: TypedDemands): Read | string {
  const side = (text: string): number | null => {
    const value = numberOf(text.replace(/\s*px$/i, ''))
    return value !== null && Number.isInteger(value) && value >= 1 && value <= 65_535 ? value : null
  }
  const [w, h] = [side(width), side(height)]
  if (!width.trim() !== !height.trim()) return 'Give width and height, or neither.'
  if (width.trim() && (w === null || h === null)) return 'Give width and height in whole pixels, up to 65,535.'
  const played = rate.trim() ? parseRate(rate) : null
  if (rate.trim() && !played) return 'Give the rate as 25, 23.976 or 24000/1001.'
  const lasts = seconds.trim() ? secondsOfText(seconds) : null
  if (seconds.trim() && !(lasts && lasts > 0 && lasts <= 86_400))
    return 'Give the length in seconds, such as 2.5, or as minutes and seconds, 1:30.'
  const weighs = bytes.trim() ? bytesOf(bytes) : null
  if (bytes.trim() && !(weighs && weighs >= 1 && Number.isSafeInteger(weighs)))
    return 'Give the size in bytes, or as 500 kB, 5 MB or 1.5 GB.'
  return {
    size: w !== null && h !== null ? { width: w, height: h } : null,
    rate: played,
    longestSeconds: lasts,
    largestBytes: weighs
  }
}

/** Bytes as they are typed: in the largest unit that holds them exactly. */
export function typedBytes(bytes: number | null): string {
  if (bytes === null) return ''
  for (const [unit, per] of [
    ['GB', 1e9],
    ['MB', 1e6],
    ['kB', 1e3]
  ] as const)
    if (bytes >= per && (bytes * 1000) % per === 0) return `${bytes / per} ${unit}`
  return String(bytes)
}
