#!/usr/bin/env node
/**
 * The command, as a global install or `npm link` puts it in the path. A packed project holds what was built; a checkout
 * builds what is missing first. Paths are those of whoever calls it.
 */
import { existsSync } from 'node:fs'
import path from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

const home = path.dirname(path.dirname(fileURLToPath(import.meta.url)))
const checkout = existsSync(path.join(home, 'core'))
const load = file => import(pathToFileURL(path.join(home, file)).href)

if (process.argv[2] === 'serve') {
  const { readServe, serve } = await load('scripts/serve.mjs')
  // what is wrong with a call is told before anything is installed or built
  const asked = readServe(process.argv.slice(3))
  if (asked && checkout) {
    const { ensureInstalled } = await load('scripts/ensure.mjs')
    ensureInstalled()
    const { buildPage } = await load('scripts/build.mjs')
    await buildPage()
  }
  if (asked) serve(asked)
} else await load(checkout ? 'scripts/pour.mjs' : 'dist/cli/pour.mjs')
