/** Files of words that a call names: outlets, preparations, scenes, tables, demands. */
import { readFile } from 'node:fs/promises'
import { sentenceOf, unreadable, wrongCall } from '../core/base/errors'

/** What is in a file; `what` it is, for the error where it cannot be read. */
export async function textAt(location: string, what = 'it'): Promise<string> {
  return readFile(location, 'utf8').catch((error: unknown) => {
    throw unreadable(
      location,
      null,
      `${what} cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)})`
    )
  })
}

/** The file as `read` understands it; what it does not is a wrong call. */
export async function readAt<T>(location: string, what: string, read: (text: string) => T): Promise<T> {
  const words = await textAt(location, what)
  try {
    return read(words)
  } catch (error) {
    throw wrongCall(`${location}: ${sentenceOf(error)}`)
  }
}
