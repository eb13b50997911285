/** Pools of web workers. The worker itself is started by the interface, whose bundler knows where it lies. */
import { wrap } from 'comlink'
import type { Pool } from '../../core/work/pool'
import { createPool } from '../pool'
import type { WorkerFace } from '../worker-side'

/** One worker for each processor, started when first needed. */
export function workerPool(start: () => Worker, size = navigator.hardwareConcurrency || 2): Pool {
  return createPool(size, () => {
    const worker = start()
    const face = wrap<WorkerFace>(worker)
    return {
      face: { run: (name, packed) => face.run(name, packed) },
      failed: new Promise(resolve => {
        worker.addEventListener('error', event => resolve(new Error(event.message || 'the worker could not start')))
        worker.addEventListener('messageerror', () => resolve(new Error('its answer could not be read')))
      }),
      end: () => worker.terminate()
    }
  })
}
