/** `npm start`: installs what is missing, builds when sources are newer than the build, serves. `-- --empty` starts without the demo job. */
import { spawn } from 'node:child_process'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildPage, root } = await import('./build.mjs')
buildPage()

const port = process.env.PORT ?? '3000'
const server = spawn(process.execPath, [path.join(root, '.output/server/index.mjs')], {
  stdio: 'inherit',
  env: {
    ...process.env,
    PORT: port,
    HOST: process.env.HOST ?? 'localhost',
    NUXT_EMPTY: process.argv.includes('--empty') ? 'true' : 'false'
  }
})
console.log(`Pour is at http://localhost:${port}`)
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', code => process.exit(code ?? 0))
