/** GET /api/demo/NAME.zip: one source of the demo as a ZIP of PNG pictures. */
import { createError, defineEventHandler, getRouterParam, setHeader } from 'h3'
import { demoFile } from '../../demo-media'
import { serverKernels } from '../../kernels'

export default defineEventHandler(async event => {
  const zip = demoFile(getRouterParam(event, 'file') ?? '', serverKernels)
  if (!zip) throw createError({ statusCode: 404, statusMessage: 'The demo has no such file' })
  setHeader(event, 'Content-Type', 'application/zip')
  return Buffer.from(await zip)
})
