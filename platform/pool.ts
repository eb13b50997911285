/** A pool over any kind of worker: one task a worker, a queue by priority, cancel at once, crashed workers replaced. */
import { isAbort } from '../core/base/errors'
import { TooLong, type Pool } from '../core/base/pool'
import type { TaskName, Tasks } from '../core/tasks/tasks'
import { Stow } from './stow'
import { revive, type Outcome, type WorkerFace } from './worker-side'

/** A started worker. */
export interface Thread {
  face: { run: (...args: Parameters<WorkerFace['run']>) => Promise<Outcome> }
  /** Is told when the thread dies; one listener at a time, which is taken away again with null. */
  onFailed(listener: ((error: Error) => void) | null): void
  end(): Promise<void> | void
}

/** `onFailed` for a thread, and what tells it of the death. A thread that died while nobody asked tells it later. */
export function failing(): { onFailed: Thread['onFailed']; fail(error: Error): void } {
  let [listens, died]: [((error: Error) => void) | null, Error | null] = [null, null]
  return {
    onFailed(listener) {
      listens = listener
      if (died && listener) listener(died)
    },
    fail(error) {
      died ??= error
      listens?.(died)
    }
  }
}

/**
 * What a thread answers, its death, or the end of the time it has: `within` milliseconds from its beginning, and
 * `patience` once nobody waits for it any more. A promise that lives as long as the thread must not be raced against:
 * each race would leave its answer hanging on it, and memory would grow by all that was ever done.
 */
function answered(thread: Thread, job: Job, stow: Stow, patience: number): Promise<Outcome> {
  const { signal, within } = job
  let timer: ReturnType<typeof setTimeout> | undefined
  let stop = (): void => undefined
  return new Promise<Outcome>((resolve, reject) => {
    thread.onFailed(reject)
    if (within !== undefined) timer = setTimeout(() => reject(new TooLong(within)), within)
    stop = () => {
      clearTimeout(timer)
      timer = setTimeout(() => reject(abortError()), patience)
    }
    signal?.addEventListener('abort', stop, { once: true })
    thread.face.run(job.name, stow.pack(job.args)).then(resolve, reject)
  }).finally(() => {
    clearTimeout(timer)
    // by name, not by a signal of its own: Node.js 20 forgets all but the last of those after a collection of memory
    signal?.removeEventListener('abort', stop)
    thread.onFailed(null)
  })
}

interface Job {
  name: TaskName
  args: unknown[]
  rank: number
  signal: AbortSignal | undefined
  within: number | undefined
  resolve(value: unknown): void
  reject(error: unknown): void
}

const RANKS = { now: 0, normal: 1, later: 2 }

/** The reason a signal carries, always as an error named AbortError. */
function abortError(): Error {
  return new DOMException('The work was cancelled.', 'AbortError')
}

/**
 * Starts threads as they are needed, up to `size`. A thread whose task nobody waits for any more has `patience`
 * milliseconds to end it, and is then ended itself: what a library is busy with cannot be asked to stop. `deadline` is
 * what a task may take where it does not say so itself.
 */
export function createPool(
  size: number,
  start: () => Thread,
  { patience = 5000, deadline }: { patience?: number; deadline?: number | undefined } = {}
): Pool<Tasks> {
  const idle: Thread[] = []
  const queue: Job[] = []
  const works = new Set<Promise<void>>()
  let threads = 0
  let busy = 0
  let closed = false
  // the thread that last did what somebody waits for: it has at hand what the next such task needs, and other tasks
  // keep away from it
  let foremost: Thread | null = null

  const stows = new WeakMap<Thread, Stow>()
  function stowOf(thread: Thread): Stow {
    const stow = stows.get(thread) ?? new Stow()
    stows.set(thread, stow)
    return stow
  }

  function free(rank: number): Thread | undefined {
    const urgent = rank === RANKS.now
    const at = idle.findLastIndex(thread => (thread === foremost) === urgent)
    return at < 0 ? idle.pop() : idle.splice(at, 1)[0]
  }

  function next(): void {
    while (queue.length && (idle.length || threads < size)) {
      const job = queue.shift()!
      if (job.signal?.aborted) continue
      let thread = free(job.rank)
      if (!thread) {
        thread = start()
        threads++
      }
      if (job.rank === RANKS.now) foremost = thread
      const running = work(thread, job)
      works.add(running)
      void running.finally(() => works.delete(running))
    }
  }

  async function work(thread: Thread, job: Job): Promise<void> {
    busy++
    try {
      const outcome = await answered(thread, job, stowOf(thread), patience)
      if (outcome.ok) job.resolve(outcome.value)
      else job.reject(revive(outcome.error))
      idle.push(thread)
    } catch (error) {
      threads--
      if (foremost === thread) foremost = null
      // one that is stopped within a library's call may never say so: nothing waits for it
      void Promise.resolve(thread.end()).catch(() => undefined)
      const why = error instanceof Error ? error.message : String(error)
      job.reject(
        error instanceof TooLong || isAbort(error)
          ? error
          : new Error(`a worker stopped while it ran "${job.name}": ${why}`)
      )
    } finally {
      busy--
      if (!closed) next()
    }
  }

  return {
    size,
    get load() {
      return busy + queue.length
    },
    run(name, args, { signal, priority = 'normal', within = deadline } = {}) {
      return new Promise((resolve, reject) => {
        if (closed) return reject(new Error('the pool is closed'))
        if (signal?.aborted) return reject(abortError())
        const stop = (): void => {
          const waiting = queue.indexOf(job)
          if (waiting >= 0) queue.splice(waiting, 1)
          reject(abortError())
        }
        const settle =
          <T>(then: (value: T) => void) =>
          (value: T): void => {
            signal?.removeEventListener('abort', stop)
            then(value)
          }
        const job: Job = {
          name,
          args,
          rank: RANKS[priority],
          signal,
          within,
          resolve: settle(resolve as (value: unknown) => void),
          reject: settle(reject)
        }
        signal?.addEventListener('abort', stop, { once: true })
        const at = queue.findIndex(other => other.rank > job.rank)
        queue.splice(at < 0 ? queue.length : at, 0, job)
        next()
      })
    },
    async close() {
      closed = true
      for (const job of queue.splice(0)) job.reject(abortError())
      // a thread that still works would keep the process alive: each ends its task, or has no more time for it
      await Promise.all(works)
      await Promise.all(idle.splice(0).map(thread => thread.end()))
    }
  }
}
