/** What a delivery asks of workers from its first frame to its proof. */
import type { LedgerTasks } from '../ledger/tasks'
import type { PourTasks } from '../pour/tasks'
import type { ProofTasks } from '../proof/tasks'

export type DeliveryTasks = LedgerTasks & PourTasks & ProofTasks
