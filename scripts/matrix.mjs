/**
 * `npm run matrix`: draws docs/alpha-matrix.md. The clips of the corpus take the better part of an hour, on all
 * processors; `npm run matrix -- --quick` leaves what is said of them as it was.
 */
import { fork } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { ensureInstalled } from './ensure.mjs'

const CLIPS = 4400

ensureInstalled()
const { buildKernels, root } = await import('./build.mjs')
const outfile = path.join(root, 'dist/docs/matrix.mjs')

/** Judges every so many-th clip, and sends what became of each. */
async function judge(from, step) {
  const { judged, nodeHost } = await import(outfile)
  const host = await nodeHost(buildKernels())
  for (let n = from; n < CLIPS; n += step) process.send(await judged(n, host))
  process.disconnect()
}

async function corpus() {
  const processes = availableParallelism()
  const all = []
  await Promise.all(
    Array.from(
      { length: processes },
      (_, i) =>
        new Promise((resolve, reject) => {
          const child = fork(fileURLToPath(import.meta.url), ['--from', String(i), String(processes)])
          child.on('message', each => void (each && all.push(each)))
          child.on('exit', code => (code === 0 ? resolve() : reject(new Error(`a process ended with ${code}`))))
        })
    )
  )
  return all.sort((a, b) => a.n - b.n)
}

async function draw() {
  const { build } = await import('esbuild')
  await build({
    stdin: {
      contents: ['matrix', 'page', 'reliability']
        .map(name => `export * from './tests/material/${name}'`)
        .concat("export { nodeHost } from './platform/node/host'")
        .join('\n'),
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
  const { contents, runContent, matrixPage, reliabilityPage, nodeHost } = await import(outfile)
  const host = await nodeHost(buildKernels())
  const outcomes = []
  for (const content of contents) outcomes.push(...(await runContent(content, host)))
  const page = path.join(root, 'docs/alpha-matrix.md')
  const before = readFileSync(page, 'utf8')
  const from = before.indexOf('\n## Said against right')
  const quick = process.argv.includes('--quick') && from >= 0
  writeFileSync(page, matrixPage(outcomes) + (quick ? before.slice(from) : reliabilityPage(await corpus())))
}

const [flag, from, step] = process.argv.slice(2)
await (flag === '--from' ? judge(Number(from), Number(step)) : draw())
