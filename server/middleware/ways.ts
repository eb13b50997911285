/**
 * What can be asked under /api. Anything else is 404, a known address in another way 405; both in JSON, never the page.
 */
import { createError, defineEventHandler, setHeader } from 'h3'

const WAYS: readonly (readonly [RegExp, string])[] = [
  [/^\/api\/formats$/, 'GET'],
  [/^\/api\/demo$/, 'GET'],
  [/^\/api\/demo\/[^/]+$/, 'GET'],
  [/^\/api\/stations$/, 'GET'],
  [/^\/api\/stations\/[^/]+$/, 'POST']
]

export default defineEventHandler(event => {
  const path = event.path.replace(/\?.*$/, '').replace(/\/$/, '')
  if (path !== '/api' && !path.startsWith('/api/')) return
  const way = WAYS.find(([known]) => known.test(path))?.[1]
  if (!way) throw createError({ statusCode: 404, statusMessage: 'Not found', message: `There is nothing at ${path}.` })
  if (event.method === way || (event.method === 'HEAD' && way === 'GET')) return
  setHeader(event, 'Allow', way)
  throw createError({ statusCode: 405, statusMessage: 'Not so', message: `${path} takes ${way}, not ${event.method}.` })
})
