/** Where tasks run. The core asks for results; `platform/` owns the threads. */
import { PourError } from './errors'

/** A task had not ended when its time was over. */
export class TooLong extends PourError {
  constructor(ms: number) {
    const matter = `it took longer than ${Math.round(ms / 1000)} seconds, and was given up`
    super({ kind: 'unreadable', file: null, place: null, matter })
  }
}

/** What a task is asked with, and what it gives. */
export interface TaskKind {
  args: unknown[]
  result: unknown
}

/** Kinds of tasks by their names. */
export type TaskTable = Record<string, TaskKind>

/** The table of tasks that stand as functions of a worker's context and arguments. */
export type TasksOf<T> = {
  [N in keyof T]: T[N] extends (context: never, ...args: infer A) => infer R ? { args: A; result: Awaited<R> } : never
}

/** Threads that do the tasks of a table; one that does more stands for one that does fewer. */
export interface Pool<T extends TaskTable> {
  /** How many tasks run at once. */
  readonly size: number
  /** Tasks running or waiting. */
  readonly load: number
  /**
   * Runs a task on a free worker. Rejects with the task's own error, or with an AbortError as soon as `signal` fires:
   * a task already running is left to end unseen, and ended where it does not. Tasks of priority 'now' overtake those
   * of 'later'. One that takes longer than `within` milliseconds is ended, and rejects with a TooLong.
   */
  run<N extends keyof T & string>(
    name: N,
    args: T[N]['args'],
    options?: { signal?: AbortSignal | undefined; priority?: 'now' | 'normal' | 'later'; within?: number }
  ): Promise<T[N]['result']>
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
