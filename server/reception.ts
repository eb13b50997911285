/**
 * Files from outside are opened in processes of their own. A file that freezes or bursts one is answered when its time
 * is up, and keeps nobody else waiting; a process that has grown, or has nothing to do, is ended, and its memory given
 * back.
 */
import { fork, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import path from 'node:path'
import { createError } from 'h3'
import { PourError } from '../core/base/errors'
import type { ReceptionAnswer, ReceptionRequest } from '../platform/node/reception-worker'

/** Processes at once, and requests that may wait for one. */
const MOST_AT_ONCE = 2
const MOST_WAITING = 8
/** Milliseconds that a file may take, and that a process without work is kept. */
const DEADLINE = 20_000
const IDLE = 10_000
/** Files that one process takes before it is replaced. */
const MOST_USES = 20

interface Worker {
  child: ChildProcess
  uses: number
  idle: NodeJS.Timeout | null
}

const idle: Worker[] = []
const waiting: (() => void)[] = []
let running = 0

/** The built process lies beside the built server. */
function workerPath(): string {
  const built = path.join(path.dirname(process.argv[1] ?? ''), 'reception/worker.mjs')
  if (!existsSync(built))
    throw createError({ statusCode: 503, statusMessage: 'Not at hand', message: 'The stations were not built.' })
  return built
}

function started(): Worker {
  const child = fork(workerPath(), [], {
    // a process that wants more memory ends, and its request with it
    execArgv: ['--max-old-space-size=768'],
    stdio: ['ignore', 'ignore', 'inherit', 'ipc']
  })
  const worker: Worker = { child, uses: 0, idle: null }
  // one that ends while it waits for work must not be given any
  child.once('exit', () => setAside(worker))
  // what could not be sent to it shows as its end, where its request is answered
  child.on('error', () => child.kill('SIGKILL'))
  return worker
}

function setAside(worker: Worker): void {
  if (worker.idle) clearTimeout(worker.idle)
  const at = idle.indexOf(worker)
  if (at >= 0) idle.splice(at, 1)
}

function taken(): Worker {
  const worker = idle.pop() ?? started()
  if (worker.idle) clearTimeout(worker.idle)
  worker.uses++
  return worker
}

function giveBack(worker: Worker): void {
  if (worker.uses >= MOST_USES) {
    worker.child.kill('SIGKILL')
    return
  }
  worker.idle = setTimeout(() => {
    setAside(worker)
    worker.child.kill('SIGKILL')
  }, IDLE)
  worker.idle.unref()
  idle.push(worker)
}

const late = (): Error =>
  createError({
    statusCode: 504,
    statusMessage: 'Took too long',
    message: `The file was not read within ${DEADLINE / 1000} seconds.`
  })

function ask(worker: Worker, request: ReceptionRequest, signal: AbortSignal): Promise<ReceptionAnswer> {
  const { child } = worker
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => end(late()), DEADLINE)
    const gone = (): void => end(new DOMException('The client left.', 'AbortError'))
    const exited = (): void =>
      end(
        createError({
          statusCode: 422,
          statusMessage: 'Not taken',
          message: 'The file could not be read in the memory that one may take.'
        })
      )
    const answered = (answer: ReceptionAnswer): void => end(null, answer)
    function end(error: Error | null, answer?: ReceptionAnswer): void {
      clearTimeout(timer)
      signal.removeEventListener('abort', gone)
      child.off('exit', exited)
      child.off('message', answered)
      if (error) {
        child.kill('SIGKILL')
        reject(error)
      } else {
        giveBack(worker)
        resolve(answer!)
      }
    }
    signal.addEventListener('abort', gone, { once: true })
    child.once('exit', exited)
    child.once('message', answered)
    child.send(request)
  })
}

/**
 * Reserves a place in line for a file that has arrived; refuses when too many are there. Resolves when it is its turn.
 */
async function turn(signal: AbortSignal): Promise<void> {
  if (running < MOST_AT_ONCE) {
    running++
    return
  }
  if (waiting.length >= MOST_WAITING)
    throw createError({
      statusCode: 503,
      statusMessage: 'Busy',
      message: `${running + waiting.length} files are at the stations. Ask again in a moment.`
    })
  await new Promise<void>((resolve, reject) => {
    const mine = (): void => resolve()
    waiting.push(mine)
    signal.addEventListener(
      'abort',
      () => {
        const at = waiting.indexOf(mine)
        if (at < 0) return
        waiting.splice(at, 1)
        reject(new DOMException('The client left.', 'AbortError'))
      },
      { once: true }
    )
  })
}

/** Runs `work`, which is given a way to a process, once it is its turn; at most two at once. */
export async function atReception<T>(
  signal: AbortSignal,
  work: (ask: (request: ReceptionRequest) => Promise<Extract<ReceptionAnswer, { ok: true }>>) => Promise<T>
): Promise<T> {
  await turn(signal)
  try {
    return await work(async request => {
      const answer = await ask(taken(), request, signal)
      if (answer.ok) return answer
      if ('matter' in answer.error) throw new PourError(answer.error)
      throw new Error(answer.error.message)
    })
  } finally {
    const next = waiting.shift()
    // the place goes on to whoever waits longest
    if (next) next()
    else running--
  }
}
