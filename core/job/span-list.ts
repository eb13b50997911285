/**
 * Named ranges read from a list: cues of WebVTT (W3C), or lines of a name and one or two places. A place is a frame,
 * counted from 1, or a time code (SMPTE ST 12-1). A line with one place is a marker: its span goes on to the next
 * marker, the last one to the end.
 */
import { rateFraction, type Rate } from '../base/rate'
import { TIMECODE_PATTERN, timecodeProblem, timecodeToFrame } from '../base/timecode'

/** Frames counted from 1, both ends kept. */
export interface NamedSpan {
  name: string
  from: number
  to: number
}

/** The clip that the spans are of. `start` is the time code of its first frame, where it has one. */
export interface SpannedClip {
  frames: number
  rate: Rate | null
  start: string | null
}

export interface SpanList {
  spans: NamedSpan[]
  /** What was left out, a sentence each, beginning with the line. */
  problems: string[]
}

export const MOST_SPANS = 200
const MOST_NAME = 60
const MOST_TEXT = 1 << 20

interface Entry {
  line: number
  name: string
  from: number
  /** Null for a marker. */
  to: number | null
}

/** A comma, or a semicolon that does not stand before the frames of a drop-frame time code. */
const SEPARATOR = /,|(?<!(?:^|[^\d:])\d\d:\d\d:\d\d);/
const TIMECODE = new RegExp(`^${TIMECODE_PATTERN}$`)
const CUE =
  /^(?:(\d{2,}):)?([0-5]\d):([0-5]\d\.\d{3})[ \t]+-->[ \t]+(?:(\d{2,}):)?([0-5]\d):([0-5]\d\.\d{3})(?:[ \t].*)?$/

const secondsOf = (hours: string | undefined, minutes: string, seconds: string): number =>
  3600 * Number(hours ?? 0) + 60 * Number(minutes) + Number(seconds)

/** Reads `text`; never throws. Spans keep their order; names that occur twice are numbered. */
export function readSpanList(text: string, clip: SpannedClip): SpanList {
  const problems: string[] = []
  if (text.length > MOST_TEXT)
    return { spans: [], problems: ['The list is longer than a million characters: too long for a list of spans.'] }
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/)
  const entries = /^WEBVTT(?:[ \t]|$)/.test(lines[0] ?? '')
    ? cues(lines, clip, problems)
    : places(lines, clip, problems)
  const markers = entries.filter(entry => entry.to === null).sort((a, b) => a.from - b.from)
  const ended = entries.map(entry => ({
    ...entry,
    to: entry.to ?? (markers.find(next => next.from > entry.from)?.from ?? clip.frames + 1) - 1
  }))
  const spans: NamedSpan[] = []
  for (const { line, name, from, to } of ended) {
    if (from < 1 || to > clip.frames)
      problems.push(`Line ${line}: frames ${from} to ${to} are not within the ${clip.frames} of the clip.`)
    else if (to < from) problems.push(`Line ${line}: it ends at frame ${to}, before it begins at ${from}.`)
    else if (spans.length === MOST_SPANS) {
      problems.push(`Line ${line} and what follows: more than ${MOST_SPANS} spans are not taken at once.`)
      break
    } else spans.push({ name: freeOf(name, spans), from, to })
  }
  return { spans, problems }
}

/** The name, cut to length, with a number behind it where it is taken. */
function freeOf(name: string, taken: readonly NamedSpan[]): string {
  const wanted = name.slice(0, MOST_NAME)
  for (let n = 1; ; n++) {
    const tail = n === 1 ? '' : ` ${n}`
    const tried = wanted.slice(0, MOST_NAME - tail.length) + tail
    if (!taken.some(span => span.name === tried)) return tried
  }
}

function cues(lines: readonly string[], { rate }: SpannedClip, problems: string[]): Entry[] {
  if (!rate) {
    problems.push('The list counts in seconds; give the source its rate first.')
    return []
  }
  const perSecond = rate[0] / rate[1]
  const entries: Entry[] = []
  for (let n = 1; n < lines.length; n++) {
    if (!lines[n]!.includes('-->')) continue
    const parts = CUE.exec(lines[n]!.trim())
    if (!parts) {
      problems.push(`Line ${n + 1}: its times are not written 00:00:00.000 --> 00:00:00.000.`)
      continue
    }
    // the cue's first line of text without its tags, else its identifier on the line above
    const says = (lines[n + 1] ?? '').replace(/<[^>]*>/g, '').trim()
    const above = (lines[n - 1] ?? '').trim()
    const from = Math.round(secondsOf(parts[1], parts[2]!, parts[3]!) * perSecond) + 1
    entries.push({
      line: n + 1,
      name: says || (n > 1 ? above : '') || `span ${entries.length + 1}`,
      from,
      to: Math.round(secondsOf(parts[4], parts[5]!, parts[6]!) * perSecond)
    })
  }
  if (entries.length === 0 && problems.length === 0) problems.push('The list holds no cues.')
  return entries
}

/** A place and, behind a dash or "to", another. */
const PLACE = `(?:\\d{1,7}|${TIMECODE_PATTERN})`
const BETWEEN = '\\s*(?:-|–|—|\\.\\.+|\\bto\\b)\\s*'
const RANGE = new RegExp(`^(${PLACE})${BETWEEN}(${PLACE})$`)
/** A line without separators: a name, then one place or two, with blanks or a dash between them. */
const WORDS = new RegExp(`^(.*?)[\\s:=]*\\b(${PLACE})(?:(?:${BETWEEN}|\\s+)(${PLACE}))?$`)

/** A field that holds two places at once, as those two. */
function ranged(field: string): string[] {
  const found = RANGE.exec(field)
  return found ? [found[1]!, found[2]!] : [field]
}

function words(line: string): string[] {
  const found = WORDS.exec(line)
  if (!found) return [line]
  const [, name = '', from = '', to] = found
  // two places at the start of a line without a name leave the first of them in the name
  return [...(name.trim() ? ranged(name.trim()) : []), from, ...(to ? [to] : [])]
}

function places(lines: readonly string[], { rate, start }: SpannedClip, problems: string[]): Entry[] {
  const entries: Entry[] = []
  const first = start && rate ? timecodeToFrame(start, rate) : 0
  for (const [n, line] of lines.entries()) {
    if (line.trim() === '' || line.trimStart().startsWith('#')) continue
    const fields = line
      .split(line.includes('\t') ? '\t' : SEPARATOR)
      .map(field => field.trim().replace(/^"(.*)"$/, '$1'))
    const found: number[] = []
    const names: string[] = []
    let wrong: string | null = null
    for (const field of fields.length === 1 ? words(fields[0]!) : fields.flatMap(ranged)) {
      if (/^\d{1,7}$/.test(field)) found.push(Number(field))
      else if (TIMECODE.test(field)) {
        if (!rate) wrong = 'it counts in time code; give the source its rate first.'
        else wrong ??= timecodeProblem(field, rate)
        if (rate && !wrong) found.push(timecodeToFrame(field, rate) - first + 1)
      } else if (field) names.push(field)
    }
    if (wrong) problems.push(`Line ${n + 1}: ${wrong}`)
    else if (found.length === 0 || found.length > 2)
      problems.push(
        `Line ${n + 1}: a name and one or two places are needed, such as “hover, 1, ` +
          `48”${rate ? ` or “hover, 00:00:00:00, 00:00:01:00” at ${rateFraction(rate)} frames a second` : ''}.`
      )
    else
      entries.push({
        line: n + 1,
        name: names.join(' ') || `span ${entries.length + 1}`,
        from: found[0]!,
        to: found[1] ?? null
      })
  }
  if (entries.length === 0 && problems.length === 0) problems.push('The list is empty.')
  return entries
}
