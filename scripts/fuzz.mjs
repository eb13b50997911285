/**
 * `npm run fuzz -- READER COUNT [FIRST]`: damages the vectors that a reader reads COUNT times and reads each. READER
 * is a format's id, or
 * "all". Ends with 1 at the first file that ends in neither frames nor one clear error; its number makes the same file
 * again.
 */
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildKernels, root } = await import('./build.mjs')
const { build } = await import('esbuild')
const outfile = path.join(root, 'dist/docs/fuzz.mjs')
await build({
  stdin: {
    contents: "export * from './tests/hostile/fuzz'\nexport { nodeHost } from './platform/node/host'",
    resolveDir: root,
    loader: 'ts'
  },
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  logLevel: 'error',
  packages: 'external'
})
const { fuzz, seedsIn, nodeHost } = await import(outfile)
const [reader = 'all', count = '1000', first = '0'] = process.argv.slice(2)
const host = await nodeHost(buildKernels())
const seeds = await seedsIn(path.join(root, 'tests/vectors'), host)
const wanted = [...seeds.keys()].filter(id => reader === 'all' || id === reader)
if (wanted.length === 0) {
  console.error(`There is no reader "${reader}" with vectors; there are ${[...seeds.keys()].sort().join(', ')}.`)
  process.exit(2)
}
for (const id of wanted) {
  const began = performance.now()
  let slowest = 0
  let last = began
  try {
    const { read, refused } = await fuzz(seeds.get(id), Number(count), host, {
      first: Number(first),
      onDone() {
        const now = performance.now()
        slowest = Math.max(slowest, now - last)
        last = now
      }
    })
    const seconds = ((performance.now() - began) / 1000).toFixed(1)
    const memory = Math.round(process.resourceUsage().maxRSS / 1024)
    console.log(
      `${id.padEnd(26)} ${String(read).padStart(7)} read, ${String(refused).padStart(7)} refused, ${seconds} ` +
        `s, slowest ${Math.round(slowest)} ms, ${memory} MB at most`
    )
  } catch (error) {
    console.error(`${id}: ${error.message}`)
    process.exitCode = 1
  }
}
