/**
 * Bringing in with the pool's workers: files are opened, listed and measured there, and whoever waits is free
 * meanwhile.
 */
import { unreadable } from '../../base/errors'
import { TooLong, type Pool } from '../../base/pool'
import type { IntakeTasks } from './tasks'
import type { Looking } from './intake'

/** Milliseconds that one file may take to be opened and measured. */
export const OPENING = 120_000

/** `within` is how long one file may take, in milliseconds; one that takes longer is refused by its name. */
export function lookingThrough(pool: Pool<IntakeTasks>, signal?: AbortSignal, within = OPENING): Looking {
  const options = { signal, within }
  const timed = async <T>(file: string, work: Promise<T>): Promise<T> => {
    try {
      return await work
    } catch (error) {
      throw error instanceof TooLong ? unreadable(file, null, error.matter) : error
    }
  }
  return {
    async unpack(file) {
      const within = await timed(file.path, pool.run('unpackFile', [file], options))
      // what comes back names a copy of the archive; the one that was given is the one its owner knows
      return within?.map(found => (found.kind === 'zipped' ? { ...found, archive: file } : found)) ?? null
    },
    note: file => timed(file.path, pool.run('noteIn', [file], options)),
    look: file => timed(file.path, pool.run('recogniseFile', [file], options)),
    describe: spec => timed(spec.files[0]?.path ?? spec.name, pool.run('describe', [spec], options))
  }
}
