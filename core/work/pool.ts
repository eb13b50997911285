/** Where tasks run. The core asks for results; `platform/` owns the threads. */
import { PourError } from '../errors'
import type { TaskArguments, TaskName, TaskResult } from './tasks'

/** A task had not ended when its time was over. */
export class TooLong extends PourError {
  constructor(ms: number) {
    const matter = `it took longer than ${Math.round(ms / 1000)} seconds, and was given up`
    super({ kind: 'unreadable', file: null, place: null, matter })
  }
}

export interface Pool {
  /** How many tasks run at once. */
  readonly size: number
  /** Tasks running or waiting. */
  readonly load: number
  /**
   * Runs a task on a free worker. Rejects with the task's own error, or with an AbortError as soon as `signal` fires:
   * a task already running is left to end unseen, and ended where it does not. Tasks of priority 'now' overtake those
   * of 'later'. One that takes longer than `within` milliseconds is ended, and rejects with a TooLong.
   */
  run<N extends TaskName>(
    name: N,
    args: TaskArguments<N>,
    options?: { signal?: AbortSignal | undefined; priority?: 'now' | 'normal' | 'later'; within?: number }
  ): Promise<TaskResult<N>>
  close(): Promise<void>
}

/**
 * Runs `make(i)` for i in 0..count-1 with at most `ahead` unfinished or unconsumed results, and hands results to `use`
 * in order, waiting for it: this is where order and back-pressure come from. Stops at the first error.
 */
export async function inOrder<T>(
  count: number,
  ahead: number,
  make: (index: number) => Promise<T>,
  use: (result: T, index: number) => Promise<void> | void
): Promise<void> {
  const waiting: Promise<T>[] = []
  let started = 0
  const start = (): void => {
    const promise = make(started++)
    promise.catch(() => undefined) // it is awaited in its turn; until then a rejection is not unhandled
    waiting.push(promise)
  }
  for (let i = 0; i < count; i++) {
    while (started < count && waiting.length < ahead) start()
    await use(await waiting.shift()!, i)
  }
}

export type { TaskArguments, TaskName, TaskResult }
