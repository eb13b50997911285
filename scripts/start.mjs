/**
 * `npm start`: installs what is missing, builds when sources are newer than the build, serves. `-- --empty` starts
 * without the demo job.
 */
import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildPage, root } = await import('./build.mjs')
await buildPage()

const port = process.env.PORT ?? '3000'
const host = process.env.HOST ?? 'localhost'
// a server that others can reach asks for a token; without one of the owner's, it makes one for this run
const open = !/^(localhost|127\.\d+\.\d+\.\d+|::1)$/.test(host)
const token = process.env.POUR_TOKEN ?? (open ? randomBytes(18).toString('base64url') : '')
const server = spawn(process.execPath, [path.join(root, '.output/server/index.mjs')], {
  stdio: 'inherit',
  env: {
    ...process.env,
    PORT: port,
    HOST: host,
    POUR_TOKEN: token,
    NUXT_EMPTY: process.argv.includes('--empty') ? 'true' : 'false'
  }
})
console.log(`Pour is at http://${open ? host : 'localhost'}:${port}/${token ? `?token=${token}` : ''}`)
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', code => process.exit(code ?? 0))
