/**
 * POST /api/stations/ID with a file as the body: how that family of programs would take it. It sees nothing but the
 * bytes, and so stands in for a program outside. Answers JSON, or the picture alone where `Accept: image/png` asks for
 * it. A sequence comes as a ZIP.
 */
import { createError, defineEventHandler, getHeader, getQuery, getRouterParam, setHeader, setHeaders } from 'h3'
import { isAbort, PourError } from '../../../core/base/errors'
import { StationAsk } from '../../../core/run/reception'
import { stationById } from '../../../core/judge/stations/stations'
import { sayIssue } from '../../../core/base/say-issue'
import { uploaded } from '../../body'
import { atReception } from '../../reception'

const MOST_BYTES = 64 * 2 ** 20
/** A 4096x4096 frame. */
const MOST_PIXELS = 2 ** 24

const STATUS = { unreadable: 422, impossible: 422, 'wrong-call': 400, 'no-room': 413, unreachable: 503 } as const

export default defineEventHandler(async event => {
  const id = getRouterParam(event, 'id') ?? ''
  if (!stationById(id))
    throw createError({
      statusCode: 404,
      statusMessage: 'No such station',
      message: `There is no station called ${id}. GET /api/stations lists them.`
    })
  const ask = StationAsk.safeParse(getQuery(event))
  if (!ask.success)
    throw createError({ statusCode: 400, statusMessage: 'Wrong question', message: sayIssue(ask.error.issues[0]!) })
  const left = new AbortController()
  event.node.res.once('close', () => event.node.res.writableEnded || left.abort())
  try {
    // a place at the stations is taken when the file is there, not while it comes
    const upload = await uploaded(event, MOST_BYTES, left.signal)
    try {
      return await atReception(left.signal, async visit => {
        const { answer, standing, png } = await visit({
          station: id,
          location: upload.location,
          size: upload.size,
          ask: ask.data,
          mostPixels: MOST_PIXELS
        })
        if (getHeader(event, 'accept')?.startsWith('image/png')) {
          setHeaders(event, { 'Content-Type': 'image/png', 'X-Station-Standing': standing })
          return Buffer.from(png, 'base64')
        }
        setHeader(event, 'Content-Type', 'application/json')
        return { ...answer, picture: `data:image/png;base64,${png}` }
      })
    } finally {
      await upload.remove()
    }
  } catch (error) {
    if (error instanceof PourError)
      throw createError({ statusCode: STATUS[error.kind], statusMessage: 'Not taken', message: error.message })
    // nobody is there to be answered
    if (isAbort(error)) return null
    throw error
  }
})
