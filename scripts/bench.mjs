/** `npm run bench [-- PART]`: builds and runs the benchmarks in scripts/bench. */
import { execFileSync } from 'node:child_process'
import { copyFileSync, mkdirSync } from 'node:fs'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildKernels, root } = await import('./build.mjs')
const kernels = buildKernels()
const { build } = await import('esbuild')
const folder = path.join(root, 'dist/bench')
mkdirSync(folder, { recursive: true })
await build({
  entryPoints: { main: path.join(root, 'scripts/bench/main.ts'), worker: path.join(root, 'platform/node/worker.ts') },
  outdir: folder,
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  logLevel: 'error',
  packages: 'bundle',
  external: ['sharp', 'turbores']
})
copyFileSync(kernels, path.join(folder, 'kernels.wasm'))
execFileSync(process.execPath, [path.join(folder, 'main.mjs'), ...process.argv.slice(2)], {
  stdio: 'inherit',
  cwd: root
})
