/** Serves the built page. `--empty` starts without the demo job; PORT, HOST and POUR_TOKEN are read from outside. */
import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)))

const HELP = `Usage: pour serve [--empty] [--port N] [--host NAME]

  --empty       begins without the demo job
  --port N      (3000) where it answers; PORT says the same
  --host NAME   (localhost) who reaches it; HOST says the same. Beyond this machine it asks for a token, that of
                POUR_TOKEN or one made for the run`

const valueOf = (args, name) => {
  const at = args.indexOf(name)
  return at < 0 ? undefined : (args[at + 1] ?? '')
}

/** What a call asks of the server; null where it asked for help. Ends the process with 2 where the call is wrong. */
export function readServe(args) {
  if (args.includes('--help')) {
    console.log(HELP)
    return null
  }
  const known = ['--empty', '--port', '--host']
  const strange = args.find((arg, i) => !known.includes(arg) && !['--port', '--host'].includes(args[i - 1]))
  const port = valueOf(args, '--port') ?? process.env.PORT ?? '3000'
  const host = valueOf(args, '--host') ?? process.env.HOST ?? 'localhost'
  const why =
    strange !== undefined
      ? `serve does not take "${strange}"`
      : !/^\d{1,5}$/.test(port)
        ? `--port takes a number, not "${port}"`
        : host === '' && '--host takes a name'
  if (why) {
    console.error(why)
    process.exit(2)
  }
  return { port, host, empty: args.includes('--empty') }
}

/** Runs the server until it ends or is stopped. */
export function serve({ port, host, empty }) {
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
      NUXT_EMPTY: String(empty)
    }
  })
  console.log(`Pour is at http://${open ? host : 'localhost'}:${port}/${token ? `?token=${token}` : ''}`)
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
  server.on('exit', code => process.exit(code ?? 0))
}
