/**
 * Refuses whoever may not ask, before anything else looks at the request, the files of the page with it. A page that
 * comes with the token in its address is given it as a cookie, and sent on to the address without it.
 */
import { createError, eventHandler, getCookie, getHeader, getQuery, getRequestIP, sendRedirect, setCookie } from 'h3'
import { defineNitroPlugin } from 'nitropack/runtime'
import { Guesses, refusalOf } from '../guard'

const COOKIE = 'pour-token'
const guesses = new Guesses()

const guard = eventHandler(async event => {
  const { HOST, NITRO_HOST, POUR_TOKEN } = process.env
  const asked = getQuery(event).token
  const inAddress = typeof asked === 'string' ? asked : undefined
  const tokens = [getHeader(event, 'authorization')?.replace(/^Bearer /, ''), getCookie(event, COOKIE), inAddress]
  const refused = refusalOf(
    { host: getHeader(event, 'host'), origin: getHeader(event, 'origin'), tokens },
    NITRO_HOST ?? HOST,
    POUR_TOKEN
  )
  if (refused) {
    // whoever says none has not guessed
    const waits = refused.status === 401 && tokens.some(Boolean) ? guesses.guess(getRequestIP(event) ?? '') : 0
    if (waits === null)
      throw createError({
        statusCode: 429,
        statusMessage: 'Refused',
        message: 'Too many wrong tokens. Ask again later.'
      })
    if (waits) await new Promise(resolve => setTimeout(resolve, waits))
    throw createError({ statusCode: refused.status, statusMessage: 'Refused', message: refused.matter })
  }
  if (!inAddress || !POUR_TOKEN) return undefined
  setCookie(event, COOKIE, inAddress, { httpOnly: true, sameSite: 'strict', path: '/' })
  const url = new URL(event.path, 'http://here')
  if (event.method !== 'GET' || url.pathname.startsWith('/api/')) return undefined
  // it does not stay in the address bar, the history, or what somebody copies from them
  url.searchParams.delete('token')
  return sendRedirect(event, url.pathname + url.search, 302)
})

export default defineNitroPlugin(nitro => {
  // before the handler of static files, which would hand them out to anybody
  nitro.h3App.stack.unshift({ route: '/', handler: guard })
})
