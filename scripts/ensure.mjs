/** Installs what is missing: the packages of the lock file, and on request Debian's Chromium. */
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)))

/** Installs packages when there are none, or when the lock file is not the one that was installed. */
export function ensureInstalled() {
  const installed = path.join(root, 'node_modules/.package-lock.json')
  if (existsSync(installed)) {
    const versions = file =>
      Object.fromEntries(
        Object.entries(JSON.parse(readFileSync(file, 'utf8')).packages)
          .filter(([name, p]) => name && !p.optional && !p.peer)
          .map(([name, p]) => [name, p.version])
      )
    const wanted = versions(path.join(root, 'package-lock.json'))
    const have = versions(installed)
    if (Object.keys(wanted).every(name => have[name] === wanted[name])) return
  }
  console.error('Installing packages …')
  execFileSync('npm', ['ci', '--no-audit', '--no-fund'], {
    cwd: root,
    stdio: ['ignore', 2, 2],
    env: { ...process.env, NODE_ENV: 'development' }
  })
}

/** The media library of the tests, a package of its own that the product never sees. No scripts of it are run. */
export function ensureWitness() {
  const place = path.join(root, 'tests/witness')
  const installed = path.join(place, 'node_modules/.package-lock.json')
  const version = file => JSON.parse(readFileSync(file, 'utf8')).packages['node_modules/node-av']?.version
  if (existsSync(installed) && version(installed) === version(path.join(place, 'package-lock.json'))) return
  console.error('Installing what the tests read files with …')
  execFileSync('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'], {
    cwd: place,
    stdio: ['ignore', 2, 2],
    env: { ...process.env, NODE_ENV: 'development' }
  })
}

export const CHROMIUM = '/usr/bin/chromium'

export function ensureChromium() {
  if (existsSync(CHROMIUM)) return
  console.error('Installing Chromium …')
  const sudo = process.getuid?.() === 0 ? [] : ['sudo']
  const run = args => execFileSync([...sudo, ...args][0], [...sudo, ...args].slice(1), { stdio: ['ignore', 2, 2] })
  run(['apt-get', 'update', '-qq'])
  run(['apt-get', 'install', '-y', '-qq', '--no-install-recommends', 'chromium'])
}
