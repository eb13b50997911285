/** What a delivery asks of workers from its first frame to its proof. */
import type { LedgerTasks } from '../../judge/ledger/tasks'
import type { PourTasks } from '../pour/tasks'
import type { ProofTasks } from '../../judge/proof/tasks'

export type DeliveryTasks = LedgerTasks & PourTasks & ProofTasks
