/** How figures are written everywhere. */

import type { SampledQuality } from '~~/core/run/delivery/quality'
import type { SizeEstimate } from '~~/core/run/pour/estimate-size'

/** "9.6 MB", "640 kB": decimal units, as disks and receivers count. */
export function sayBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  if (bytes < 1e6) return `${Math.round(bytes / 1e3)} kB`
  if (bytes < 1e9) return `${bytes < 1e7 ? (bytes / 1e6).toFixed(1) : Math.round(bytes / 1e6)} MB`
  return `${(bytes / 1e9).toFixed(2)} GB`
}

/** "about 1.2 MB", or "1.1 to 1.8 MB" where what was tried differs much. */
export function sayEstimate({ bytes, least, most }: SizeEstimate): string {
  const [low, high] = [sayBytes(least), sayBytes(most)]
  if (most <= 1.25 * least || low === high) return `about ${sayBytes(bytes)}`
  const unit = (words: string): string => words.slice(words.indexOf(' '))
  return `${unit(low) === unit(high) ? low.slice(0, low.indexOf(' ')) : low} to ${high}`
}

const few = (value: number): string => (value < 0.01 ? 'under 0.01' : String(Math.round(value * 100) / 100))

/** What was lost of the frames that were tried. */
export function sayQuality({ alpha, colour, verdict }: SampledQuality): string {
  if (verdict === 'broken') return 'cannot be read back right'
  if (verdict === 'identical') return 'nothing is lost'
  const lost = [
    ...(alpha > 0 ? [`alpha up to ${few(alpha)} ${alpha === 1 ? 'code' : 'codes'}`] : []),
    ...(colour > 0 ? [`colour up to ΔE ${few(colour)}`] : [])
  ]
  const off = lost.length ? `${lost.join(', ')} off` : ''
  if (verdict === 'visible-loss') return off ? `visible loss, ${off}` : 'visible loss'
  return off || 'nothing is lost that is seen'
}

/** "4 s", "2 min 10 s". */
export function sayTime(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds))
  if (whole < 60) return `${whole} s`
  return whole < 3600
    ? `${Math.floor(whole / 60)} min ${whole % 60} s`
    : `${Math.floor(whole / 3600)} h ${Math.floor((whole % 3600) / 60)} min`
}

/** A time that is judged, no finer than it can be: "about 40 s", "about 3 min", "about 2 h". */
export function sayAbout(seconds: number): string {
  const whole = Math.max(1, Math.ceil(seconds))
  if (whole < 10) return `${whole} s`
  if (whole < 58) return `about ${Math.round(whole / 5) * 5} s`
  if (whole < 600) return `about ${Math.round(whole / 30) / 2} min`
  return whole < 5400 ? `about ${Math.round(whole / 60)} min` : `about ${Math.round(whole / 1800) / 2} h`
}

/** "1 frame", "24 frames". */
export function sayFrames(count: number): string {
  return `${count.toLocaleString('en')} ${count === 1 ? 'frame' : 'frames'}`
}

/** Time left, from how much of the work is done since it began; null before anything can be said. */
export function secondsLeft(done: number, total: number, started: number): number | null {
  if (done < 1) return null
  return ((performance.now() - started) / 1000 / done) * (total - done)
}

/** "clear 93.2 % · partial 6.4 % · solid 0.4 %". */
export function sayCoverage(counts: { clearPixels: number; partialPixels: number; solidPixels: number }): string {
  const { clearPixels, partialPixels, solidPixels } = counts
  const total = clearPixels + partialPixels + solidPixels || 1
  const share = (n: number): string => `${Math.round((n / total) * 1000) / 10} %`
  return `clear ${share(clearPixels)} · partial ${share(partialPixels)} · solid ${share(solidPixels)}`
}
