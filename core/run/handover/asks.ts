/** What gathering a hand-over asks of workers. */
import type { LedgerTasks } from '../../judge/ledger/tasks'
import type { ProofTasks } from '../../judge/proof/tasks'
import type { StationTasks } from '../../judge/stations/tasks'

export type HandoverTasks = LedgerTasks & ProofTasks & StationTasks
