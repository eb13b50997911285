/** Pools of web workers. The worker itself is started by the interface, whose bundler knows where it lies. */
import { wrap } from 'comlink'
import type { Pool } from '../../core/base/pool'
import type { Tasks } from '../../core/tasks/tasks'
import { createPool, failing } from '../pool'
import type { WorkerFace } from '../worker-side'

/** One worker for each processor, started when first needed. */
export function workerPool(start: () => Worker, size = navigator.hardwareConcurrency || 2): Pool<Tasks> {
  return createPool(size, () => {
    const worker = start()
    const face = wrap<WorkerFace>(worker)
    const { onFailed, fail } = failing()
    worker.addEventListener('error', event => fail(new Error(event.message || 'the worker could not start')))
    worker.addEventListener('messageerror', () => fail(new Error('its answer could not be read')))
    return {
      face: { run: (name, packed) => face.run(name, packed) },
      onFailed,
      end: () => worker.terminate()
    }
  })
}
