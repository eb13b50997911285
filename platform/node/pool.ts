/** Pools on Node: threads for real work, or this thread for tests and tiny jobs. */
import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import { wrap } from 'comlink'
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs'
import type { Host } from '../../core/frame/host'
import type { Pool } from '../../core/base/pool'
import { WorkContext } from '../../core/open/context'
import { tasks, type Tasks } from '../../core/tasks/tasks'
import { createPool, failing, type Thread } from '../pool'
import type { WorkerFace } from '../worker-side'

/**
 * Milliseconds that a thread has to end what nobody waits for: whoever stops a run is not kept waiting for a second.
 */
const PATIENCE = 700

/** Megabytes of objects that a thread may hold; pictures lie beside them, bounded by the frames in flight. */
const HEAP = 2048

/** How many threads, and what one task may take: milliseconds, and megabytes of objects. */
export interface Bounds {
  size?: number
  deadline?: number | undefined
  memory?: number | undefined
}

/**
 * A pool of threads running the bundled worker at `workerPath`, one for each processor unless `size` says otherwise.
 */
export function threadPool(
  workerPath: string,
  kernelsPath: string,
  { size = availableParallelism(), deadline, memory = HEAP }: Bounds = {}
): Pool<Tasks> {
  return createPool(size, () => startThread(workerPath, kernelsPath, memory), { patience: PATIENCE, deadline })
}

function startThread(workerPath: string, kernelsPath: string, memory: number): Thread {
  const worker = new Worker(workerPath, {
    workerData: kernelsPath,
    resourceLimits: { maxOldGenerationSizeMb: memory }
  })
  const face = wrap<WorkerFace>(nodeEndpoint(worker))
  const { onFailed, fail } = failing()
  worker.once('error', fail)
  worker.once('exit', code => fail(new Error(`it ended with code ${code}`)))
  return {
    face: { run: (name, packed) => face.run(name, packed) },
    onFailed,
    async end() {
      await worker.terminate()
    }
  }
}

/** Runs tasks in this thread, one at a time as they come. */
export function inlinePool(host: Host, size = 2): Pool<Tasks> {
  const context = new WorkContext(host)
  return {
    size,
    load: 0,
    async run(name, args, { signal } = {}) {
      signal?.throwIfAborted()
      const task = tasks[name] as (context: WorkContext, ...args: unknown[]) => Promise<never>
      return task(context, ...args)
    },
    close: () => Promise.resolve()
  }
}
