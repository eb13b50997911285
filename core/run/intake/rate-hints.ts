/** Where a rate may be said when a sequence cannot carry one: in a file name, or in a note beside the files. */
import { parseRate, type Rate } from '../../base/rate'

/** A name without the words that say its rate: "strap_24fps" is the strap. */
export function withoutRate(title: string): string {
  const rest = title
    .replace(/[\s._-]*(?<![\d.])\d{1,3}(?:[.,]\d{1,3})?\s?(?:fps|f\/s|frames? ?per ?sec(?:ond)?)(?![a-z0-9])/i, '')
    .trim()
  return rest === '' ? title : rest
}

/**
 * A clip's rate lies between these, in frames a second; what is said beyond them is another number, and is asked for.
 */
const SLOWEST = 1
const QUICKEST = 240

/** A rate in the sane range, or null. */
function sane(text: string): Rate | null {
  const rate = parseRate(text)
  const perSecond = rate ? rate[0] / rate[1] : 0
  return perSecond >= SLOWEST && perSecond <= QUICKEST ? rate : null
}

/** What says that a number before it is of frames. */
const FRAMES_A_SECOND = String.raw`(?:fps|f\/s|frames?[ _-]?(?:\/|per|a|each)[ _-]?s(?:ec(?:ond)?)?)(?![a-z0-9])`
const NUMBER = String.raw`\d{1,3}(?:[.,]\d{1,3})?`
/** Rates that are written with a "p" for progressive, as in "25p"; heights and page numbers are written so as well. */
const PROGRESSIVE = [23.976, 23.98, 24, 25, 29.97, 30, 47.95, 48, 50, 59.94, 60, 100, 119.88, 120]

/** "moth_12fps_0001.png", "strap-25p", "23.976 f/s": a number followed by a word for frames per second. */
export function rateInName(name: string): Rate | null {
  const said = new RegExp(`(?:^|[^\\d.])(${NUMBER})\\s?${FRAMES_A_SECOND}`, 'i').exec(name)
  if (said) return sane(said[1]!)
  const short = new RegExp(`(?:^|[^\\d.])(${NUMBER})p(?![a-z0-9])`, 'i').exec(name)
  return short && PROGRESSIVE.includes(Number(short[1]!.replace(',', '.'))) ? sane(short[1]!) : null
}

/** Fields that only something about pictures has beside its rate, and names of files that are about them. */
const OF_PICTURES =
  /^(frames?|width|height|duration|size|resolution|timecode|clip|sequence|film|first_?frame|last_?frame|start_?frame|end_?frame)$/i
const NAMED = /rate|fps|frame|film|clip|shot|sequence|render/i

/**
 * The rate of an object: under a name that is of frames, or under "rate" where its value can only be of frames (a
 * fraction), or what stands beside it, or the file's name, is about pictures. A price list has rates too.
 */
function rateInJson(data: Record<string, unknown>, name: string): Rate | null {
  const keys = Object.keys(data)
  const own = keys.find(key => /^(frame[_ -]?rate|fps)$/i.test(key)) ?? (keys.includes('rate') ? 'rate' : undefined)
  const value = own === undefined ? null : data[own]
  const text = Array.isArray(value) && value.length === 2 ? `${value[0]}/${value[1]}` : value
  if (typeof text !== 'string' && typeof text !== 'number') return null
  const rate = sane(String(text))
  const certain =
    own !== 'rate' ||
    /\//.test(String(text)) ||
    rate?.[1] === 1001 ||
    keys.some(key => OF_PICTURES.test(key)) ||
    NAMED.test(name)
  return certain ? rate : null
}

/**
 * A note in plain text ("Rate: 24000/1001", "12 frames per second") or JSON with a field "rate". Only a sentence about
 * frames counts: other things have rates too, of samples, of bits, of bids.
 */
export function rateInNote(text: string, name = ''): Rate | null {
  const head = text.slice(0, 20000)
  if (head.trimStart().startsWith('{')) {
    try {
      return rateInJson(JSON.parse(text) as Record<string, unknown>, name)
    } catch {
      return null
    }
  }
  // "rate" by itself at the head of a line or sentence, or of frames or pictures; never of something else
  const labelled = new RegExp(
    String.raw`(?:(?:^|[\n.;,(])[ \t*-]*|\b(?:frame|picture|film|video)[ _-]?)rate[ \t]*[:=]?[ \t]*(\d{1,9}[ \t]*\/[ \t]*\d{1,9}|${NUMBER})(?![\d.,]*\d)(?![ \t]*(?:[kmg]?hz|[kmg]?bi?t|[kmg]b|%|x\b))`,
    'i'
  ).exec(head)
  if (labelled) return sane(labelled[1]!.replace(/\s/g, ''))
  const spoken = new RegExp(`(?:^|[^\\d.,])(${NUMBER})\\s*${FRAMES_A_SECOND}`, 'i').exec(head)
  return spoken ? sane(spoken[1]!) : null
}

/**
 * Name of the note that says the rate of numbered pictures, from the name of any of them: those that share what stands
 * before their numbers share it.
 */
export function rateNoteName(picture: string): string {
  const name = picture.lastIndexOf('/') + 1
  const base = picture
    .slice(name)
    .replace(/\.[^.]*$/, '')
    .replace(/[ ._-]*\d+$/, '')
  return `${picture.slice(0, name)}${base ? `${base}_` : ''}rate.txt`
}

/** Whether a file is such a note, and no picture. */
export const isRateNote = (path: string): boolean => /(?:^|[_/])rate\.txt$/.test(path)
