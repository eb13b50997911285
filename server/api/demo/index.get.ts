/** GET /api/demo: what the demo job brings in; `enabled` is false when the server was started empty. */
import { useRuntimeConfig } from 'nitropack/runtime'
import { defineEventHandler } from 'h3'
import { DEMO_NAME, demoSources } from '../../../demo/fernbrook'

export default defineEventHandler(event => ({
  enabled: !useRuntimeConfig(event).empty,
  name: DEMO_NAME,
  files: demoSources.map(source => source.file)
}))
