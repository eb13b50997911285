/** The body of a request, streamed to disk piece by piece and refused as soon as it is too large. */
import { createWriteStream } from 'node:fs'
import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createError, getHeader, type H3Event } from 'h3'
import { isAlive } from '../platform/node/alive'

/** Takes away what a server that was killed had left of its uploads. */
export async function clearUploads(): Promise<void> {
  for (const name of await readdir(tmpdir())) {
    const pid = /^pour-upload-(\d+)-/.exec(name)?.[1]
    if (pid && !isAlive(Number(pid))) await rm(path.join(tmpdir(), name), { recursive: true, force: true })
  }
}

export interface Upload {
  location: string
  size: number
  /** Takes it off the disk again. */
  remove(): Promise<void>
}

/** Uploads at once. */
const MOST_UPLOADS = 16
/** Milliseconds that a body may take as slowly as it likes, and bytes a second that it comes with after that. */
const PATIENCE = 10_000
const LEAST_RATE = 32 * 1024
let uploads = 0

/** Fires where a body comes so slowly that it only holds a place. */
function tooSlow(received: () => number): { signal: AbortSignal; end(): void } {
  const stop = new AbortController()
  const began = Date.now()
  const timer = setInterval(() => {
    const after = Date.now() - began - PATIENCE
    if (after >= 0 && received() < (LEAST_RATE * after) / 1000 + 1)
      stop.abort(
        createError({
          statusCode: 408,
          statusMessage: 'Too slow',
          message: `The file comes more slowly than ${LEAST_RATE / 1024} KiB a second.`
        })
      )
  }, 500)
  timer.unref()
  return { signal: stop.signal, end: () => clearInterval(timer) }
}

/**
 * Rejects with 413 beyond `most` bytes, by the announced length before anything is read, with 408 where it comes too
 * slowly, with 503 where too many come at once, and with 400 when nothing comes.
 */
export async function uploaded(event: H3Event, most: number, signal: AbortSignal): Promise<Upload> {
  const tooLarge = (): Error =>
    createError({
      statusCode: 413,
      statusMessage: 'Too large',
      message: `The file is larger than ${most / 2 ** 20} MiB.`
    })
  if (Number(getHeader(event, 'content-length') ?? 0) > most) throw tooLarge()
  if (uploads >= MOST_UPLOADS)
    throw createError({
      statusCode: 503,
      statusMessage: 'Busy',
      message: `${uploads} files are coming in. Ask again in a moment.`
    })
  uploads++
  try {
    return await received(event, most, signal, tooLarge)
  } finally {
    uploads--
  }
}

async function received(event: H3Event, most: number, signal: AbortSignal, tooLarge: () => Error): Promise<Upload> {
  const folder = await mkdtemp(path.join(tmpdir(), `pour-upload-${process.pid}-`))
  const remove = (): Promise<void> => rm(folder, { recursive: true, force: true })
  const location = path.join(folder, 'delivered')
  let size = 0
  const counted = new Transform({
    transform(piece: Buffer, _, done) {
      size += piece.length
      if (size > most) done(tooLarge())
      else done(null, piece)
    }
  })
  const slow = tooSlow(() => size)
  const { req, res } = event.node
  try {
    // the request itself stays open for its answer, whatever becomes of the bytes
    const written = pipeline(counted, createWriteStream(location), {
      signal: AbortSignal.any([signal, slow.signal])
    })
    req.pipe(counted)
    req.once('error', error => counted.destroy(error))
    await written
    if (size === 0)
      throw createError({
        statusCode: 400,
        statusMessage: 'No file',
        message: 'Send the file as the body of the request.'
      })
    return { location, size, remove }
  } catch (error) {
    await remove()
    // what still comes is not waited for, and the connection ends with the answer
    req.unpipe(counted)
    req.resume()
    res.setHeader('Connection', 'close')
    res.once('finish', () => setImmediate(() => req.destroy()))
    throw slow.signal.aborted ? slow.signal.reason : error
  } finally {
    slow.end()
  }
}
