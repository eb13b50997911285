/** Waiting for what comes by itself, as long as a busy machine may take: no test hangs on how fast that is. */
import { vi } from 'vitest'

/** Resolves with what `check` gives once it no longer throws; rejects with its last error after half a minute. */
export const eventually = <T>(check: () => T | Promise<T>): Promise<T> =>
  vi.waitFor(check, { timeout: 30_000, interval: 25 })
