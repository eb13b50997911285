/** What a counter shows at a time, in words. */
import { eased } from '../../ease'
import type { CounterLook } from './look'

const MARKS: Readonly<Record<CounterLook['marks'], readonly [thousands: string, decimal: string]>> = {
  '1000.5': ['', '.'],
  '1 000.5': ['\u00a0', '.'],
  '1,000.5': [',', '.'],
  '1 000,5': ['\u00a0', ','],
  '1.000,5': ['.', ',']
}

/** Parts of the last decimal that rounding may leave. */
const NONE = 1e-6

/** The value so many seconds after it came: each is shown until the next is reached, the last from its time on. */
export function valueAt({ from, to, takes, ease, decimals }: CounterLook, since: number): number {
  const share = takes > 0 ? eased(ease, Math.max(0, since) / takes) : 1
  const unit = 10 ** decimals
  const exact = (from + (to - from) * share) * unit
  const shown = to >= from ? Math.floor(exact + NONE) : Math.ceil(exact - NONE)
  // nothing is never less than nothing
  return shown / unit || 0
}

/** A value as a counter shows it. */
export function sayValue(
  look: Pick<CounterLook, 'shows' | 'decimals' | 'marks' | 'before' | 'behind'>,
  value: number
): string {
  const { shows, decimals, marks, before, behind } = look
  const [thousands, decimal] = MARKS[marks]
  const [whole, rest] = Math.abs(value).toFixed(decimals).split('.') as [string, string?]
  const two = (n: number): string => String(n).padStart(2, '0')
  const seconds = Number(whole)
  const [minutes, hours] = [Math.floor(seconds / 60), Math.floor(seconds / 3600)]
  const words = {
    number: () => whole.replace(/\B(?=(\d{3})+$)/g, thousands),
    minutes: () => `${minutes}:${two(seconds % 60)}`,
    hours: () => `${hours}:${two(minutes % 60)}:${two(seconds % 60)}`
  }[shows]()
  const minus = value < 0 && /[1-9]/.test(whole + (rest ?? '')) ? '−' : ''
  return `${before}${minus}${words}${rest === undefined ? '' : decimal + rest}${behind}`
}

/** Every letter that it may come to show. */
export function lettersOf({ before, behind, from, to, shows, decimals, marks }: CounterLook): string {
  const [thousands, decimal] = MARKS[marks]
  const minus = Math.min(from, to) < 0 ? '−' : ''
  return `${before}0123456789${minus}${shows === 'number' ? thousands : ':'}${decimals > 0 ? decimal : ''}${behind}`
}
