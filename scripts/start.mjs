/**
 * `npm start`: installs what is missing, builds when sources are newer than the build, serves. `-- --empty` starts
 * without the demo job.
 */
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildPage } = await import('./build.mjs')
await buildPage()
const { serve } = await import('./serve.mjs')
serve(process.argv.slice(2))
