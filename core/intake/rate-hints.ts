/** Where a rate may be said when a sequence cannot carry one: in a file name, or in a note beside the files. */
import { parseRate, type Rate } from '../rate'

/** A name without the words that say its rate: "strap_24fps" is the strap. */
export function withoutRate(title: string): string {
  const rest = title
    .replace(/[\s._-]*(?<![\d.])\d{1,3}(?:[.,]\d{1,3})?\s?(?:fps|f\/s|frames? ?per ?sec(?:ond)?)(?![a-z0-9])/i, '')
    .trim()
  return rest === '' ? title : rest
}

/** "moth_12fps_0001.png", "strap-25p", "23.976 f/s": a number followed by a word for frames per second. */
export function rateInName(name: string): Rate | null {
  const match = /(?:^|[^\d.])(\d{1,3}(?:[.,]\d{1,3})?)\s?(?:fps|f\/s|frames? ?per ?sec(?:ond)?|p)(?![a-z0-9])/i.exec(
    name
  )
  const rate = match ? parseRate(match[1]!) : null
  // "720p" and the like say a height
  return rate && rate[0] / rate[1] <= 240 ? rate : null
}

/** A note in plain text ("Rate: 24000/1001", "12 frames per second") or JSON with a field "rate". */
export function rateInNote(text: string): Rate | null {
  const head = text.slice(0, 20000)
  if (head.trimStart().startsWith('{')) {
    try {
      const rate: unknown = (JSON.parse(text) as { rate?: unknown }).rate
      if (Array.isArray(rate) && rate.length === 2) return parseRate(`${rate[0]}/${rate[1]}`)
      if (typeof rate === 'string' || typeof rate === 'number') return parseRate(String(rate))
    } catch {
      return null
    }
    return null
  }
  const labelled = /\b(?:frame )?rate\s*[:=]?\s*(\d{1,9}\s*\/\s*\d{1,9}|\d{1,3}(?:[.,]\d{1,3})?)/i.exec(head)
  if (labelled) return parseRate(labelled[1]!)
  const spoken = /(\d{1,3}(?:[.,]\d{1,3})?)\s*(?:fps|f\/s|frames?\s*(?:\/|per|a)\s*s(?:ec(?:ond)?)?)(?![a-z])/i.exec(
    head
  )
  return spoken ? parseRate(spoken[1]!) : null
}
