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

/**
 * Rejects with 413 beyond `most` bytes, by the announced length before anything is read, and with 400 when nothing
 * comes.
 */
export async function uploaded(event: H3Event, most: number, signal: AbortSignal): Promise<Upload> {
  const tooLarge = (): Error =>
    createError({
      statusCode: 413,
      statusMessage: 'Too large',
      message: `The file is larger than ${most / 2 ** 20} MiB.`
    })
  if (Number(getHeader(event, 'content-length') ?? 0) > most) throw tooLarge()
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
  try {
    await pipeline(event.node.req, counted, createWriteStream(location), { signal })
    if (size === 0)
      throw createError({
        statusCode: 400,
        statusMessage: 'No file',
        message: 'Send the file as the body of the request.'
      })
    return { location, size, remove }
  } catch (error) {
    await remove()
    throw error
  }
}
