/** The body of a request, taken piece by piece and refused as soon as it is too large. */
import { createError, getHeader, type H3Event } from 'h3'

/** Rejects with 413 beyond `most` bytes, by the announced length before anything is read, and with 400 when nothing comes. */
export async function readBody(event: H3Event, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const tooLarge = (): Error =>
    createError({
      statusCode: 413,
      statusMessage: 'Too large',
      message: `The file is larger than ${most / 2 ** 20} MiB.`
    })
  if (Number(getHeader(event, 'content-length') ?? 0) > most) throw tooLarge()
  const pieces: Uint8Array[] = []
  let length = 0
  for await (const piece of event.node.req as AsyncIterable<Uint8Array>) {
    length += piece.length
    if (length > most) throw tooLarge()
    pieces.push(piece)
  }
  if (length === 0)
    throw createError({
      statusCode: 400,
      statusMessage: 'No file',
      message: 'Send the file as the body of the request.'
    })
  const whole = new Uint8Array(length)
  let at = 0
  for (const piece of pieces) {
    whole.set(piece, at)
    at += piece.length
  }
  return whole
}
