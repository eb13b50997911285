/**
 * What workers do, named and typed once for browser and Node. Each task is a plain function of a context (which keeps
 * sources open) and structured-cloneable arguments; it stands beside its subject.
 */
import { examineTasks } from '../judge/examine/tasks'
import { intakeTasks } from '../run/intake/tasks'
import { ledgerTasks } from '../judge/ledger/tasks'
import { pourTasks } from '../run/pour/tasks'
import { prepareTasks } from '../prepare/tasks'
import { proofTasks } from '../judge/proof/tasks'
import { sceneTasks } from '../judge/view/scene-tasks'
import { sourceTasks } from '../open/tasks'
import { stationTasks } from '../judge/stations/tasks'
import { viewTasks } from '../judge/view/tasks'
import type { TasksOf } from '../base/pool'

export const tasks = {
  ...intakeTasks,
  ...sourceTasks,
  ...prepareTasks,
  ...examineTasks,
  ...pourTasks,
  ...proofTasks,
  ...ledgerTasks,
  ...stationTasks,
  ...viewTasks,
  ...sceneTasks
}

export type Tasks = TasksOf<typeof tasks>
export type TaskName = keyof Tasks & string

/** Buffers of a result that can be handed over instead of copied. */
export function transferables(result: unknown): ArrayBuffer[] {
  const buffers = new Set<ArrayBuffer>()
  const visit = (value: unknown): void => {
    if (ArrayBuffer.isView(value)) {
      if (value.buffer instanceof ArrayBuffer) buffers.add(value.buffer)
    } else if (value && typeof value === 'object' && !(value instanceof Blob))
      for (const part of Object.values(value)) visit(part)
  }
  if (
    ArrayBuffer.isView(result) ||
    (result && typeof result === 'object' && ('samples' in result || 'pixels' in result || 'bytes' in result))
  )
    visit(result)
  return [...buffers]
}
