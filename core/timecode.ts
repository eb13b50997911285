/** Time code as it is written on slates, HH:MM:SS:FF, and the frame it counts to (SMPTE ST 12-1). */
import type { Rate } from './rate'

/** How a time code is written; a semicolon before the frames says drop-frame. */
export const TIMECODE_PATTERN = '\\d\\d:[0-5]\\d:[0-5]\\d[:;]\\d\\d'

/** Frames that a second is counted as: the rate rounded up to a whole number. */
export function nominalRate([n, d]: Rate): number {
  return Math.ceil(n / d - 1e-9)
}

/**
 * Drop-frame leaves numbers out at every minute but each tenth, and only counts rates of 30000/1001 and 60000/1001
 * right.
 */
function droppedEachMinute([n, d]: Rate): number {
  return d === 1001 && (n === 30000 || n === 60000) ? n / 15000 : 0
}

/** What is wrong with a time code at a rate, in a sentence, or null. */
export function timecodeProblem(text: string, rate: Rate): string | null {
  if (!new RegExp(`^${TIMECODE_PATTERN}$`).test(text)) return `A time code is written 01:00:00:00, not "${text}".`
  const [h, m, s, f] = text.split(/[:;]/).map(Number) as [number, number, number, number]
  const nominal = nominalRate(rate)
  if (nominal > 100) return `Time code counts up to 100 frames a second; this film has ${nominal}.`
  if (h > 23) return `The time code ${text} is past the 24 hours of a day.`
  if (f >= nominal) return `The time code ${text} counts frame ${f} of a second that has ${nominal}.`
  if (!text.includes(';')) return null
  const dropped = droppedEachMinute(rate)
  if (!dropped)
    return 'Drop-frame time code is for 30000/1001 and 60000/1001 frames a second; write a colon before the frames.'
  return m % 10 !== 0 && s === 0 && f < dropped
    ? `Drop-frame time code leaves ${text} out; the next is ${text.slice(0, -2)}${String(dropped).padStart(2, '0')}.`
    : null
}

/** The time code so many frames after another; null where that is none at this rate. */
export function timecodeAfter(start: string, frames: number, rate: Rate): string | null {
  if (timecodeProblem(start, rate)) return null
  return frameToTimecode(timecodeToFrame(start, rate) + frames, rate, start.includes(';'))
}

/** The frame a time code counts to from 00:00:00:00. The time code must have no problem at this rate. */
export function timecodeToFrame(text: string, rate: Rate): number {
  const [h, m, s, f] = text.split(/[:;]/).map(Number) as [number, number, number, number]
  const minutes = 60 * h + m
  const counted = (60 * minutes + s) * nominalRate(rate) + f
  return text.includes(';') ? counted - droppedEachMinute(rate) * (minutes - Math.floor(minutes / 10)) : counted
}

/** The time code of a frame counted from 00:00:00:00; drop-frame where asked and the rate knows it. */
export function frameToTimecode(frame: number, rate: Rate, drop: boolean): string {
  const nominal = nominalRate(rate)
  const dropped = drop ? droppedEachMinute(rate) : 0
  let number = frame
  if (dropped) {
    const tenMinutes = 600 * nominal - 9 * dropped
    const rest = frame % tenMinutes
    const minute = 60 * nominal - dropped
    // the first minute of ten leaves nothing out
    const later = rest < 60 * nominal ? 0 : 1 + Math.floor((rest - 60 * nominal) / minute)
    number += Math.floor(frame / tenMinutes) * 9 * dropped + later * dropped
  }
  const two = (value: number): string => String(value).padStart(2, '0')
  const seconds = Math.floor(number / nominal)
  return `${two(Math.floor(seconds / 3600) % 24)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${dropped ? ';' : ':'}${two(number % nominal)}`
}
