/** A name for the code as it is: the same wherever it is built, another with every change. */
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync, statSync } from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)))
const PLACES = ['app', 'core', 'platform', 'package-lock.json']

function filesAt(place) {
  if (!statSync(path.join(root, place)).isDirectory()) return [place]
  return readdirSync(path.join(root, place))
    .filter(name => name !== 'build' && name !== 'node_modules')
    .sort()
    .flatMap(name => filesAt(`${place}/${name}`))
}

/** Sixteen hexadecimal digits. */
export function codeVersion() {
  const hash = createHash('sha256')
  for (const file of PLACES.flatMap(filesAt)) hash.update(`${file}\n`).update(readFileSync(path.join(root, file)))
  return hash.digest('hex').slice(0, 16)
}
