/**
 * GET /closed-page: the page in which this browser plays a delivered file. It is sandboxed: an origin of its own, no
 * network, no storage, nothing but its one script and what is handed to it.
 */
import { createHash } from 'node:crypto'
import { defineEventHandler, removeResponseHeader, setHeaders } from 'h3'
import { HALVES_DRAWER } from '../../core/run/handover/halves-page'
import { player } from '../closed-page/player'

const SCRIPT = `(${player.toString()})(${HALVES_DRAWER})`
const STYLE =
  'html,body{margin:0;height:100%;overflow:hidden}canvas,img,video{display:block;width:100%;height:100%;object-fit:contain}'
const hash = (text: string): string => `'sha256-${createHash('sha256').update(text).digest('base64')}'`

const POLICY = [
  "default-src 'none'",
  `script-src ${hash(SCRIPT)}`,
  `style-src 'unsafe-inline'`,
  'img-src blob:',
  'media-src blob:',
  "base-uri 'none'",
  "form-action 'none'",
  "frame-ancestors 'self'",
  'sandbox allow-scripts'
].join('; ')

export default defineEventHandler(event => {
  removeResponseHeader(event, 'X-Frame-Options')
  setHeaders(event, {
    'Content-Type': 'text/html; charset=utf-8',
    'Content-Security-Policy': POLICY,
    'Cache-Control': 'no-store'
  })
  return (
    '<!doctype html><html lang="en"><meta charset="utf-8"><title>One file, ' +
    `played</title><style>${STYLE}</style><body><script>${SCRIPT}</script></body></html>`
  )
})
