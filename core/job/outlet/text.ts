/** Outlets as text: in files, on the clipboard, in the library. */
import { sentenceOf } from '../../base/errors'
import { sayIssue } from '../../base/say-issue'
import { FIELD_LABELS } from './settings'
import { OutletText, type Outlet } from './outlet'

/** An outlet as JSON, without its id, which is a job's own. */
export const writeOutlet = (outlet: Outlet): string => `${JSON.stringify(OutletText.parse(outlet), null, 2)}\n`

/** Reads one; throws a plain Error with one sentence where the text is none. */
export function readOutlet(text: string): Omit<Outlet, 'id'> {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw new Error(`This is not an outlet: it is not JSON (${sentenceOf(error)}).`, { cause: error })
  }
  const read = OutletText.safeParse(value)
  if (!read.success) throw new Error(`This is not an outlet. ${sayIssue(read.error.issues[0]!, FIELD_LABELS, value)}`)
  return read.data
}
