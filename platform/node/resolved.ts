/** Places as the disk resolves them: links are followed before `..` is. */
import { realpath } from 'node:fs/promises'
import path from 'node:path'

/**
 * The real place that a path leads to, absolute. What is not there yet stands behind the deepest folder that is. The
 * way up from a link leads to the folder above what it points to, as it does for whoever opens the path.
 */
export async function asOnDisk(location: string): Promise<string> {
  const absolute = path.isAbsolute(location) ? location : process.cwd() + path.sep + location
  if (!goesUp(location)) return deepest(path.normalize(absolute))
  let at = path.parse(absolute).root
  for (const part of absolute.slice(at.length).split(path.sep)) {
    if (part === '' || part === '.') continue
    const next = part === '..' ? path.dirname(at) : path.join(at, part)
    at = await realpath(next).catch(() => next)
  }
  return at
}

/** Whether a path says to go up, which a link before it turns elsewhere. */
export const goesUp = (location: string): boolean => location.split(path.sep).includes('..')

/** The real place of a path that does not go up: most often it, or the folder it is in, is there. */
async function deepest(full: string): Promise<string> {
  const rest: string[] = []
  for (let at = full; ; at = path.dirname(at)) {
    const real = await realpath(at).catch(() => null)
    if (real !== null || at === path.dirname(at)) return path.join(real ?? at, ...rest)
    rest.unshift(path.basename(at))
  }
}

/** A place that was asked for, in the words it was asked in where the disk takes them so, else as it really is. */
export async function placeAsked(location: string): Promise<string> {
  if (!goesUp(location)) return location
  const [real, plain] = await Promise.all([asOnDisk(location), asOnDisk(path.resolve(location))])
  return real === plain ? location : real
}
