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

/** A clip that somebody goes through: its frames, and what time code counts in it. */
export interface Counted {
  frames: number
  rate: Rate | null
  /** Time code of the first frame, where the film has one. */
  start: string | null
}

/**
 * The frame, from 0, that was typed: a number from 1, a way on or back ("+10", "-3"), or a time code, of which hours
 * and minutes may be left out. Throws a plain Error with one sentence where it is none of the clip.
 */
export function frameTyped(text: string, at: number, { frames, rate, start }: Counted): number {
  const typed = text.trim()
  const within = (index: number): number => {
    if (index < 0 || index >= frames)
      throw new Error(`There is no such frame: this clip has ${frames === 1 ? 'one' : `frames 1 to ${frames}`}.`)
    return index
  }
  if (/^\d+$/.test(typed)) return within(Number(typed) - 1)
  if (/^[+-]\d+$/.test(typed)) return within(at + Number(typed))
  if (!/^\d{1,2}([:;]\d{1,2}){1,3}$/.test(typed))
    throw new Error('Type a frame ("12"), a way ("+10", "-3") or a time code ("00:00:02:05").')
  if (!rate) throw new Error('Without a rate there is no time code to go to.')
  const parts = typed.split(/[:;]/).map(part => part.padStart(2, '0'))
  while (parts.length < 4) parts.unshift('00')
  const drop = start ? start.includes(';') : typed.includes(';')
  const whole = `${parts.slice(0, 3).join(':')}${drop ? ';' : ':'}${parts[3]!}`
  const problem = timecodeProblem(whole, rate)
  if (problem) throw new Error(problem)
  const first = start && !timecodeProblem(start, rate) ? timecodeToFrame(start, rate) : 0
  const index = timecodeToFrame(whole, rate) - first
  if (index < 0 || index >= frames)
    throw new Error(
      `${whole} is not in this clip: it goes from ${frameToTimecode(first, rate, drop)} to ` +
        `${frameToTimecode(first + frames - 1, rate, drop)}.`
    )
  return index
}
