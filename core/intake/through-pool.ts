/**
 * Bringing in with the pool's workers: files are opened, listed and measured there, and whoever waits is free
 * meanwhile.
 */
import type { Pool } from '../work/pool'
import type { Looking } from './intake'

export function lookingThrough(pool: Pool, signal?: AbortSignal): Looking {
  const options = { signal }
  return {
    async unpack(file) {
      const within = await pool.run('unpackFile', [file], options)
      // what comes back names a copy of the archive; the one that was given is the one its owner knows
      return within?.map(found => (found.kind === 'zipped' ? { ...found, archive: file } : found)) ?? null
    },
    note: file => pool.run('noteIn', [file], options),
    look: file => pool.run('recogniseFile', [file], options),
    describe: spec => pool.run('describe', [spec], options)
  }
}
