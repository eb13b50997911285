/** What gathering a hand-over asks of workers. */
import type { LedgerTasks } from '../ledger/tasks'
import type { ProofTasks } from '../proof/tasks'
import type { StationTasks } from '../stations/tasks'

export type HandoverTasks = LedgerTasks & ProofTasks & StationTasks
