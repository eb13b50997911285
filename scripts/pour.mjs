/**
 * Runs the command line, installing and building first what is missing. Nothing but the command's own output goes to
 * standard output.
 */
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildCommandLine } = await import('./build.mjs')
await import(await buildCommandLine())
