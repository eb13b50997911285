/**
 * When a film's pictures are shown: their times, and what the edit list makes of them (QuickTime File Format, "Edit
 * atoms").
 */
import type { Finding } from '../../../source/source'
import { timesOf, type Conformed } from '../../../source/timing'
import type { Atom } from './atoms'
import type { TrackReader } from './tables'

export interface Edit {
  /** In units of the film. */
  duration: number
  /** In units of the track; -1 shows nothing. */
  from: number
  rate: number
}

/** An edit list of either version; empty where there is none. */
export async function editsOf(film: TrackReader, track: Atom): Promise<Edit[]> {
  const list = await film.find(track, 'edts', 'elst')
  if (!list) return []
  const { view: head } = await film.table(list, 8)
  const wide = head.getUint8(0) === 1
  const size = wide ? 20 : 12
  const { view, count, start } = await film.entries(list, 4, size)
  return Array.from({ length: count }, (_, i) => {
    const at = start + i * size
    return {
      duration: wide ? Number(view.getBigUint64(at)) : view.getUint32(at),
      from: wide ? Number(view.getBigInt64(at + 8)) : view.getInt32(at + 4),
      rate: view.getInt32(at + size - 4) / 65536
    }
  })
}

/** Units of the film in which a list shows nothing before it first shows something; 0 where it never does. */
export function emptyBefore(edits: readonly Edit[]): number {
  const playing = edits.findIndex(({ from }) => from >= 0)
  return edits.slice(0, Math.max(0, playing)).reduce((sum, { duration }) => sum + duration, 0)
}

/** Pictures and their times as edits make them: parts of the track, one after another. */
function edited(
  ticks: readonly number[],
  edits: readonly Edit[],
  perFilmUnit: number
): { index: number; ticks: number }[] {
  const parts: { index: number; ticks: number }[] = []
  for (const { duration, from } of edits) {
    if (from < 0) continue
    const until = from + duration * perFilmUnit
    let at = 0
    for (const [index, length] of ticks.entries()) {
      const seen = Math.min(until, at + length) - Math.max(from, at)
      // what is cut by rounding between two clocks is no part of its own
      if (seen > length * 0.25) parts.push({ index, ticks: seen > length * 0.75 ? length : Math.round(seen) })
      at += length
    }
  }
  return parts
}

/** Edits applied at most: more than any film was ever cut into by hand. */
const MOST_EDITS = 10_000

/**
 * The pictures as the film shows them. `ticks` are the times of the stored ones, `scales` the units a second of track
 * and film.
 */
export function shownBy(
  ticks: readonly number[],
  edits: readonly Edit[],
  scales: { track: number; film: number }
): Conformed {
  const whole = timesOf(ticks, scales.track)
  const said = (sentence: string, more: Partial<Finding> = {}): Finding => ({
    id: 'edit-list',
    severity: 'warning',
    frames: [],
    sentence,
    ...more
  })
  const playing = edits.filter(edit => edit.from >= 0 && edit.duration > 0)
  if (playing.length === 0) return whole
  if (
    playing.some(edit => edit.rate !== 1) ||
    playing.length * ticks.length > 50_000_000 ||
    playing.length > MOST_EDITS
  )
    return {
      ...whole,
      findings: [
        ...whole.findings,
        said(
          'The film has an edit list that slows or repeats part of it, which is not followed: every stored ' +
            'picture is shown once.'
        )
      ]
    }
  const parts = edited(ticks, playing, scales.track / scales.film)
  const inOrder = parts.length === ticks.length && parts.every(({ index }, i) => index === i)
  if (parts.length === 0 || inOrder) return whole
  const { rate, shown, findings } = timesOf(
    parts.map(part => part.ticks),
    scales.track
  )
  const indices = (shown ?? parts.map((_, i) => i)).map(i => parts[i]!.index)
  return {
    rate: rate ?? whole.rate,
    shown: indices,
    findings: [
      ...findings,
      said(
        `The film's edit list shows ${new Set(indices).size} of its ${ticks.length} stored pictures, in ` +
          `${indices.length} frames; those are taken.`,
        { mend: { id: 'each-picture', label: 'Take every stored picture' } }
      )
    ]
  }
}
