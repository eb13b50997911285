/** What long work is done with. */
import type { Host } from './host'
import type { Pool, TaskTable } from '../base/pool'

export interface Workshop<T extends TaskTable> {
  host: Host
  pool: Pool<T>
  /** Ends the work soon after it fires: what is under way rejects with an AbortError. */
  signal?: AbortSignal | undefined
}
