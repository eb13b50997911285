/** A pool over any kind of worker: one task a worker, a queue by priority, cancel at once, crashed workers replaced. */
import type { Pool, TaskName } from '../core/work/pool'
import { Stow } from './stow'
import { revive, type Outcome, type WorkerFace } from './worker-side'

/** A started worker. `failed` settles when the thread dies. */
export interface Thread {
  face: { run: (...args: Parameters<WorkerFace['run']>) => Promise<Outcome> }
  failed: Promise<Error>
  end(): Promise<void> | void
}

interface Job {
  name: TaskName
  args: unknown[]
  rank: number
  signal: AbortSignal | undefined
  resolve(value: unknown): void
  reject(error: unknown): void
}

const RANKS = { now: 0, normal: 1, later: 2 }

/** The reason a signal carries, always as an error named AbortError. */
function abortError(): Error {
  return new DOMException('The work was cancelled.', 'AbortError')
}

/** Starts threads as they are needed, up to `size`. */
export function createPool(size: number, start: () => Thread): Pool {
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
      const outcome = await Promise.race([
        thread.face.run(job.name, stowOf(thread).pack(job.args)),
        thread.failed.then(error => {
          throw error
        })
      ])
      if (outcome.ok) job.resolve(outcome.value)
      else job.reject(revive(outcome.error))
      idle.push(thread)
    } catch (error) {
      threads--
      await thread.end()
      job.reject(
        new Error(
          `a worker stopped while it ran "${job.name}": ${error instanceof Error ? error.message : String(error)}`
        )
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
    run(name, args, { signal, priority = 'normal' } = {}) {
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
      // a thread that still works would keep the process alive for ever, and one that is stopped within a library's
      // call may hang: so each ends its task
      await Promise.all(works)
      await Promise.all(idle.splice(0).map(thread => thread.end()))
    }
  }
}
