/**
 * `npm test`: installs what is missing, then types, lint, code that stands twice, unit tests and the real interface in
 * Chromium. Stops at the first that fails.
 */
import { spawnSync } from 'node:child_process'
import { ensureChromium, ensureInstalled, ensureWitness } from './ensure.mjs'

ensureInstalled()
ensureWitness()
ensureChromium()
const { buildKernels, buildCommandLine, buildPage, root } = await import('./build.mjs')

function step(name, command, ...args) {
  console.log(`\n== ${name}`)
  const began = Date.now()
  const { status } = spawnSync(process.execPath, [`node_modules/${command}`, ...args], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' }
  })
  if (status !== 0) {
    console.error(`\n${name} failed`)
    process.exit(status ?? 1)
  }
  console.log(`== ${name}: ${Math.round((Date.now() - began) / 1000)} s`)
}

buildKernels()
await buildCommandLine()
step('Types: prepare', 'nuxt/bin/nuxt.mjs', 'prepare')
step('Types', 'vue-tsc/bin/vue-tsc.js', '--noEmit', '-p', 'tsconfig.json')
step('Lint', 'eslint/bin/eslint.js', '.', '--max-warnings', '0')
step('Code that stands twice', 'jscpd/bin/jscpd')
step('Unit tests', 'vitest/vitest.mjs', 'run')
console.log('\n== Build')
await buildPage()
step('End to end', '@playwright/test/cli.js', 'test')
