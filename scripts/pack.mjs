/** Before `npm pack`: everything that the package holds is built; a packed project builds nothing where it lands. */
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildCommandLine, buildPage } = await import('./build.mjs')
await buildCommandLine()
await buildPage()
