/** `npm run bench [-- PART]`: builds and runs the benchmarks in scripts/bench. */
import { execFileSync } from 'node:child_process'
import { copyFileSync, mkdirSync } from 'node:fs'
import path from 'node:path'
import { pathToFileURL } from 'node:url'
import { ensureInstalled, ensureWitness } from './ensure.mjs'

ensureInstalled()
// codecs are held against the media library of the tests
if (!process.argv[2] || 'codecs'.includes(process.argv[2])) ensureWitness()
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
  external: ['sharp', 'turbores'],
  plugins: [
    {
      name: 'the library of the tests stays where it is installed',
      setup(bundler) {
        bundler.onResolve({ filter: /^node-av\// }, ({ path: name }) => ({
          path: pathToFileURL(path.join(root, 'tests/witness/node_modules/node-av/dist', name.slice(8), 'index.js'))
            .href,
          external: true
        }))
      }
    }
  ]
})
copyFileSync(kernels, path.join(folder, 'kernels.wasm'))
execFileSync(process.execPath, [path.join(folder, 'main.mjs'), ...process.argv.slice(2)], {
  stdio: 'inherit',
  cwd: root
})
