/**
 * Headers of every answer: cross-origin isolation (shared memory and exact clocks), no framing, and a content security
 * policy. Scripts that stand in the page itself are allowed by their hash, and by nothing else.
 */
import { createHash } from 'node:crypto'
import { defineNitroPlugin } from 'nitropack/runtime'
import { setHeader, setHeaders } from 'h3'

const ISOLATION = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'X-Frame-Options': 'DENY',
  'Referrer-Policy': 'no-referrer'
}

/** Hashes of the scripts written into a page (CSP level 3, "hash-source"). */
function inlineScripts(html: string): string[] {
  return [...html.matchAll(/<script(?![^>]*\ssrc=)[^>]*>([\s\S]*?)<\/script>/g)].map(
    match => `'sha256-${createHash('sha256').update(match[1]!).digest('base64')}'`
  )
}

function policy(scripts: readonly string[]): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'wasm-unsafe-eval' ${scripts.join(' ')}`.trim(),
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "media-src 'self' blob:",
    "connect-src 'self' blob:",
    "worker-src 'self' blob:",
    "font-src 'self' data:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'"
  ].join('; ')
}

export default defineNitroPlugin(nitro => {
  nitro.hooks.hook('request', event => setHeaders(event, ISOLATION))
  nitro.hooks.hook('render:response', (response, { event }) => {
    if (typeof response.body === 'string' && !import.meta.dev)
      setHeader(event, 'Content-Security-Policy', policy(inlineScripts(response.body)))
  })
})
