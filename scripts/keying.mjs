/** `npm run keying`: draws docs/keying.md, its tables anew and the words below them as they are. */
import { readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildKernels, root } = await import('./build.mjs')
const { build } = await import('esbuild')
const outfile = path.join(root, 'dist/docs/keying.mjs')
await build({
  stdin: {
    contents: "export * from './tests/material/keying'\nexport { nodeHost } from './platform/node/host'",
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
const { keyingPage, nodeHost } = await import(outfile)
const page = path.join(root, 'docs/keying.md')
const before = readFileSync(page, 'utf8')
const words = before.indexOf('## How it is found')
writeFileSync(page, (await keyingPage(await nodeHost(buildKernels()))) + before.slice(words))
