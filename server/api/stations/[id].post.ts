/**
 * POST /api/stations/ID with a file as the body: how that family of programs would take it. It sees nothing but the bytes, and so stands
 * in for a program outside. Answers JSON, or the picture alone where `Accept: image/png` asks for it. A sequence comes as a ZIP.
 */
import { createError, defineEventHandler, getHeader, getQuery, getRouterParam, setHeader, setHeaders } from 'h3'
import { PourError } from '../../../core/errors'
import { receive, StationAsk } from '../../../core/stations/reception'
import { screenPng } from '../../../core/stations/show'
import { stationById } from '../../../core/stations/stations'
import { readBody } from '../../body'
import { serverHost } from '../../host'

const MOST_BYTES = 64 * 2 ** 20
/** A 4096x4096 frame. */
const MOST_PIXELS = 2 ** 24
/** Files at the stations at once; others wait their turn. */
let last: Promise<unknown> = Promise.resolve()

const STATUS = { unreadable: 422, impossible: 422, 'wrong-call': 400, 'no-room': 413, unreachable: 503 } as const

function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const mine = last.then(work)
  last = mine.catch(() => undefined)
  return mine
}

export default defineEventHandler(async event => {
  const id = getRouterParam(event, 'id') ?? ''
  if (!stationById(id))
    throw createError({
      statusCode: 404,
      statusMessage: 'No such station',
      message: `There is no station called ${id}. GET /api/stations lists them.`
    })
  const ask = StationAsk.safeParse(getQuery(event))
  if (!ask.success) {
    const [issue] = ask.error.issues
    throw createError({
      statusCode: 400,
      statusMessage: 'Wrong question',
      message: `${issue?.path.join('.') || 'The question'}: ${issue?.message}`
    })
  }
  const bytes = await readBody(event, MOST_BYTES)
  const host = await serverHost()
  try {
    const { station, facts, meant, frame, visit } = await inTurn(() =>
      receive(id, [{ kind: 'bytes', path: 'delivered', size: bytes.length, bytes }], ask.data, host, MOST_PIXELS)
    )
    const png = Buffer.from(screenPng(host, visit))
    if (getHeader(event, 'accept')?.startsWith('image/png')) {
      setHeaders(event, { 'Content-Type': 'image/png', 'X-Station-Standing': visit.standing })
      return png
    }
    setHeader(event, 'Content-Type', 'application/json')
    const { kind, width, height, frames, rate, claim } = facts
    return {
      station: { id: station.id, name: station.name, family: station.family },
      file: { kind, width, height, frames, rate, says: claim },
      meant,
      frame,
      standing: visit.standing,
      sentence: visit.sentence,
      error: visit.error,
      picture: `data:image/png;base64,${png.toString('base64')}`
    }
  } catch (error) {
    if (error instanceof PourError)
      throw createError({ statusCode: STATUS[error.kind], statusMessage: 'Not taken', message: error.message })
    throw error
  }
})
