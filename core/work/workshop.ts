/** What long work is done with. */
import type { Host } from '../host'
import type { Pool } from './pool'

export interface Workshop {
  host: Host
  pool: Pool
  /** Ends the work soon after it fires: what is under way rejects with an AbortError. */
  signal?: AbortSignal | undefined
}
