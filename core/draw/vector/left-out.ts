/** What is not drawn of a drawing, told once for all kinds of them. */
import type { Finding } from '../../source/source'

/** Features that are named one by one. */
const NAMED = 6

/** The finding that names what was left out; none where nothing was. */
export function leftOutFindings(leftOut: readonly string[]): Finding[] {
  if (leftOut.length === 0) return []
  const more = leftOut.length > NAMED ? `; and ${leftOut.length - NAMED} more` : ''
  const sentence = `Left out of what is drawn: ${leftOut.slice(0, NAMED).join('; ')}${more}.`
  return [{ id: 'features-left-out', severity: 'warning', frames: [], sentence }]
}
