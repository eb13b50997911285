/** What the browser's store did not do, in words. */
import { sentenceOf } from '~~/core/base/errors'

function names(error: unknown): string[] {
  const found: string[] = []
  for (
    let at = error;
    typeof at === 'object' && at !== null && found.length < 5;
    at = (at as { inner?: unknown }).inner
  )
    found.push(String((at as { name?: unknown }).name))
  return found
}

/** The sentence for an error of the browser's store. */
export function sayStore(error: unknown): string {
  const all = names(error)
  if (all.includes('QuotaExceededError'))
    return 'This browser has no room left for Pour. Remove results or sources, or make room on the disk.'
  if (all.includes('DatabaseClosedError') || all.includes('InvalidStateError'))
    return 'The browser has closed its store. Load the page again; what is on screen is kept until then.'
  return sentenceOf(error)
}
