/**
 * `npm start`: installs what is missing, builds when sources are newer than the build, serves. `-- --empty` starts
 * without the demo job.
 */
import { readServe, serve } from './serve.mjs'

const asked = readServe(process.argv.slice(2))
if (asked) {
  const { ensureInstalled } = await import('./ensure.mjs')
  ensureInstalled()
  const { buildPage } = await import('./build.mjs')
  await buildPage()
  serve(asked)
}
