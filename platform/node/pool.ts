/** Pools on Node: threads for real work, or this thread for tests and tiny jobs. */
import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import { wrap } from 'comlink'
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs'
import type { Host } from '../../core/host'
import type { Pool } from '../../core/work/pool'
import { WorkContext } from '../../core/work/context'
import { tasks } from '../../core/work/tasks'
import { createPool } from '../pool'
import type { WorkerFace } from '../worker-side'

/**
 * A pool of threads running the bundled worker at `workerPath`, one for each processor unless `size` says otherwise.
 */
export function threadPool(workerPath: string, kernelsPath: string, size = availableParallelism()): Pool {
  return createPool(size, () => {
    const worker = new Worker(workerPath, { workerData: kernelsPath })
    const face = wrap<WorkerFace>(nodeEndpoint(worker))
    return {
      face: { run: (name, packed) => face.run(name, packed) },
      failed: new Promise(resolve => {
        worker.once('error', resolve)
        worker.once('exit', code => resolve(new Error(`it ended with code ${code}`)))
      }),
      async end() {
        await worker.terminate()
      }
    }
  })
}

/** Runs tasks in this thread, one at a time as they come. */
export function inlinePool(host: Host, size = 2): Pool {
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
