/** Refuses whoever may not ask; a page that comes with the token in its address is given it as a cookie. */
import { createError, defineEventHandler, getCookie, getHeader, getQuery, setCookie } from 'h3'
import { refusalOf } from '../guard'

const COOKIE = 'pour-token'

export default defineEventHandler(event => {
  const { HOST, NITRO_HOST, POUR_TOKEN } = process.env
  const asked = getQuery(event).token
  const inAddress = typeof asked === 'string' ? asked : undefined
  const refused = refusalOf(
    {
      host: getHeader(event, 'host'),
      origin: getHeader(event, 'origin'),
      tokens: [getHeader(event, 'authorization')?.replace(/^Bearer /, ''), getCookie(event, COOKIE), inAddress]
    },
    NITRO_HOST ?? HOST,
    POUR_TOKEN
  )
  if (refused) throw createError({ statusCode: refused.status, statusMessage: 'Refused', message: refused.matter })
  if (inAddress && POUR_TOKEN) setCookie(event, COOKIE, inAddress, { httpOnly: true, sameSite: 'strict', path: '/' })
})
