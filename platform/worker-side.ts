/** The worker's half of the pool, alike in browser and Node: runs tasks and sends results, or errors in plain form. */
import { transfer } from 'comlink'
import { isAbort, PourError, sentenceOf, type PlainError } from '../core/base/errors'
import type { Host } from '../core/frame/host'
import { Unstow, type Packed } from './stow'
import { WorkContext } from '../core/open/context'
import { tasks, transferables, type TaskName } from '../core/tasks/tasks'

export type Outcome =
  { ok: true; value: unknown } | { ok: false; error: PlainError | { name: string; message: string } }

export interface WorkerFace {
  run(name: TaskName, packed: Packed): Promise<Outcome>
}

/** `host` is asked for when the first task comes, and again after it could not be had. */
export function workerFace(host: () => Promise<Host>): WorkerFace {
  const unstow = new Unstow()
  let context: Promise<WorkContext> | null = null
  function ready(): Promise<WorkContext> {
    context ??= host().then(made => new WorkContext(made))
    context.catch(() => (context = null))
    return context
  }
  return {
    async run(name, packed) {
      // before anything can fail: the sender takes what it sent for kept
      const args = unstow.unpack(packed)
      try {
        const task = tasks[name] as (context: WorkContext, ...args: unknown[]) => Promise<unknown>
        const value = await task(await ready(), ...args)
        return transfer({ ok: true, value }, transferables(value))
      } catch (error) {
        if (error instanceof PourError) return { ok: false, error: error.toPlain() }
        return {
          ok: false,
          error: {
            name: isAbort(error) ? 'AbortError' : error instanceof Error ? error.name : 'Error',
            message: sentenceOf(error)
          }
        }
      }
    }
  }
}

/** The error that came across, as the class it had. */
export function revive(error: Extract<Outcome, { ok: false }>['error']): Error {
  if ('matter' in error) return new PourError(error)
  return Object.assign(new Error(error.message), { name: error.name })
}
