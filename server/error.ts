/** Every error is answered in JSON; those that are the server's own are logged, a line each. */
import { defineNitroErrorHandler } from 'nitropack/runtime'
import { setResponseHeaders, setResponseStatus } from 'h3'

export default defineNitroErrorHandler((error, event) => {
  const status = error.statusCode || 500
  const own = status >= 500
  if (own && status !== 503)
    process.stderr.write(
      `${new Date().toISOString()} ${event.method} ${event.path}: ${String(error.message).replaceAll('\n', ' ')}\n`
    )
  setResponseStatus(event, status)
  setResponseHeaders(event, { 'Content-Type': 'application/json', 'Cache-Control': 'no-store' })
  event.node.res.end(
    JSON.stringify({
      statusCode: status,
      statusMessage: error.statusMessage ?? '',
      message: own && !error.statusMessage ? 'The server failed; its log says how.' : error.message
    })
  )
})
