/** What a disk refuses, as the errors the core speaks. */
import { impossible, noRoom, PourError, wrongCall } from '../../core/base/errors'

const WORDS: Record<string, (at: string) => PourError> = {
  ENOSPC: at => noRoom(`there is no room left on the disk for ${at}`),
  EDQUOT: at => noRoom(`the quota of the disk is used up; ${at} does not fit`),
  EFBIG: at => noRoom(`${at} is larger than a file may be here`),
  EACCES: at => impossible(`${at} may not be read or written by this user`),
  EPERM: at => impossible(`${at} may not be read or written by this user`),
  EROFS: at => impossible(`${at} lies on a disk that can only be read`),
  EISDIR: at => impossible(`${at} is a folder`),
  ENOTDIR: at => impossible(`a part of ${at} is a file, not a folder`),
  EEXIST: at => impossible(`${at} is there already`),
  ENAMETOOLONG: at => wrongCall(`the name is too long: ${at.slice(0, 60)}…`),
  ELOOP: at => impossible(`${at} is a link that leads back to itself`),
  ENOENT: at => impossible(`${at} is not there any more`),
  EBUSY: at => impossible(`${at} is in use`),
  EMFILE: at => impossible(`too many files are open to open ${at}`),
  EIO: at => impossible(`the disk failed at ${at}`)
}

/** The error to pass on for one of the file system's; anything else is passed on as it is. */
export function diskError(error: unknown, location: string): unknown {
  const { code } = (error ?? {}) as NodeJS.ErrnoException
  return code && !(error instanceof PourError) ? (WORDS[code]?.(location) ?? error) : error
}

/** Runs `work`, which touches `location`, and speaks its failures in words. */
export async function onDisk<T>(location: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    throw diskError(error, location)
  }
}
