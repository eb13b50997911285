/** `npm run matrix`: draws docs/alpha-matrix.md. */
import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildKernels, root } = await import('./build.mjs')
const { build } = await import('esbuild')
const outfile = path.join(root, 'dist/docs/matrix.mjs')
await build({
  stdin: {
    contents:
      "export * from './tests/material/matrix'\nexport * from './tests/material/page'\nexport { nodeHost } from './platform/node/host'",
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
const { contents, runContent, matrixPage, nodeHost } = await import(outfile)
const host = await nodeHost(buildKernels())
const outcomes = []
for (const content of contents) outcomes.push(...(await runContent(content, host)))
writeFileSync(path.join(root, 'docs/alpha-matrix.md'), matrixPage(outcomes))
