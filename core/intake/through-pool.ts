/** Bringing in with the pool's workers: files are opened, listed and measured there, and whoever waits is free meanwhile. */
import type { Pool } from '../work/pool'
import type { Looking } from './intake'

export function lookingThrough(pool: Pool, signal?: AbortSignal): Looking {
  const options = signal ? { signal } : {}
  return {
    unpack: file => pool.run('unpackFile', [file], options),
    note: file => pool.run('noteIn', [file], options),
    look: file => pool.run('recogniseFile', [file], options),
    describe: spec => pool.run('describe', [spec], options)
  }
}
