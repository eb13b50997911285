/**
 * `npm run digests -- record FILE` notes what the command line delivers: checksums of more than two hundred
 * conversions, preparations, proofs and scenes. `npm run digests -- compare FILE` does them again and tells what came
 * out otherwise: what is moved about within the house must change no byte of it.
 */
import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import os from 'node:os'
import path from 'node:path'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildCommandLine, root } = await import('./build.mjs')
const [what, file] = process.argv.slice(2)
if (!['record', 'compare'].includes(what) || !file) {
  console.error('Usage: npm run digests -- record|compare FILE')
  process.exit(2)
}

const script = await buildCommandLine()
const place = mkdtempSync(path.join(os.tmpdir(), 'digests-'))
const vectors = path.join(root, 'tests/vectors')

/** Runs the command line; gives what it wrote to standard output, and how it ended. */
function pour(...args) {
  return new Promise(resolve => {
    const child = spawn(process.execPath, [script, ...args, '--quiet'], { cwd: place })
    const out = []
    child.stdout.on('data', part => out.push(part))
    child.on('close', code => resolve({ code, out: Buffer.concat(out).toString() }))
  })
}

const filesIn = at =>
  statSync(at).isDirectory()
    ? readdirSync(at)
        .sort()
        .flatMap(name => filesIn(path.join(at, name)))
    : [at]

/** A checksum over the names and bytes of what lies at a place; "nothing" where nothing does. */
function digestOf(at) {
  const hash = createHash('sha256')
  try {
    for (const each of filesIn(at)) hash.update(path.relative(at, each)).update(readFileSync(each))
  } catch {
    return 'nothing'
  }
  return hash.digest('hex').slice(0, 16)
}

/** Figures of time, which no two runs share, and places of this run. */
const timeless = text =>
  text
    .replaceAll(place, '')
    .replaceAll(root, '')
    .replace(/"(ms|took|began|ended|at|seconds|provenAt|madeAt|date)": ?("[^"]*"|[\d.]+)/g, '"$1":0')
    .replace(/\d{4}-\d\d-\d\dT[\d:.]+Z/g, '')
const digestText = text => createHash('sha256').update(timeless(text)).digest('hex').slice(0, 16)

const preparations = {
  key: [{ kind: 'chroma-key', settings: { screen: '#2f9e4c', edges: 'beside', noise: 'measured', chroma: 'led' } }],
  hue: [{ kind: 'chroma-key', settings: { screen: '#2f9e4c', edges: 'hue' } }],
  half: [{ kind: 'scale', settings: { by: 50 } }],
  lit: [{ kind: 'scale', settings: { by: 60, filter: 'smooth', space: 'light' } }],
  turned: [{ kind: 'turn', settings: { by: 7, whole: true } }],
  edges: [{ kind: 'edge-fill', settings: { reach: 12 } }],
  levels: [
    { kind: 'alpha-levels', settings: { low: 4, high: 90, middle: 1.4 } },
    { kind: 'alpha-soften', settings: { by: 2 } }
  ],
  specks: [{ kind: 'alpha-specks', settings: { size: 20 } }],
  grown: [{ kind: 'alpha-grow', settings: { by: -1.5 } }],
  flat: [{ kind: 'flatten', settings: { colour: '#335577' } }],
  cut: [
    { kind: 'crop', settings: { box: { x: 4, y: 2, width: 40, height: 30 } } },
    { kind: 'pad', settings: { left: 3, top: 5, right: 7, bottom: 9 } }
  ],
  slow: [{ kind: 'convert-rate', settings: {} }],
  round: [{ kind: 'close-loop', settings: { over: 2 } }],
  luma: [{ kind: 'luma-key', settings: {} }],
  glow: [{ kind: 'glow-to-alpha', settings: {} }]
}
for (const [name, steps] of Object.entries(preparations))
  writeFileSync(
    path.join(place, `${name}.json`),
    JSON.stringify({
      pour: 'preparation',
      version: 1,
      name,
      steps: steps.map((step, n) => ({ id: `s${n}`, on: true, ...step }))
    })
  )

const { out: table } = await pour('formats', '--json')
const written = JSON.parse(table).filter(format => format.writes)
const films = readdirSync(vectors).filter(name => !['truth', 'as-they-come', 'exr-packed'].includes(name))
const deep = ['png16.mov', 'seq-exr-float-rle', 'apng8.png', 'rle32-premultiplied.mov', 'vp9-alpha.webm']

const jobs = []
const add = (name, ...args) => jobs.push({ name, args })
for (const source of deep) for (const { id } of written) add(`${source} as ${id}`, 'convert', source, '--format', id)
for (const source of films) {
  add(`${source} as stored`, 'convert', source, '--format', 'png-sequence')
  add(`facts of ${source}`, 'inspect', source)
}
for (const source of ['rle32.mov', 'seq-exr-half-zip'])
  for (const name of Object.keys(preparations))
    for (const id of ['png-sequence', 'exr-sequence'])
      add(`${source} ${name} as ${id}`, 'convert', source, '--format', id, '--prepare', `${name}.json`)
for (const mode of ['premultiplied', 'none'])
  for (const id of ['quicktime-prores-4444', 'tiff-sequence', 'quicktime-raw'])
    add(`png16.mov ${mode} as ${id}`, 'convert', 'png16.mov', '--format', id, '--alpha', mode)

const scenes = path.join(root, 'tests/material/scenes')
for (const name of readdirSync(scenes))
  for (const id of ['png-sequence', 'quicktime-animation', 'exr-sequence'])
    add(`scene ${name} as ${id}`, 'scene', path.join(scenes, name), '--format', id)

const found = {}
async function run({ name, args: [command, source, ...rest] }, n) {
  const at = path.resolve(vectors, source)
  const to = path.join(place, `out ${n}`)
  const common = ['--json', ...(command === 'inspect' ? [] : ['--to', to, '--rate', '25', ...rest])]
  const { code, out } = await pour(command, at, ...common)
  found[name] = `${code} ${command === 'inspect' ? '-' : digestOf(to)} ${digestText(out.replaceAll(`out ${n}`, 'out'))}`
  rmSync(to, { recursive: true, force: true })
}

let next = 0
await Promise.all(
  Array.from({ length: Math.max(1, os.cpus().length) }, async () => {
    while (next < jobs.length) {
      const n = next++
      await run(jobs[n], n)
    }
  })
)
rmSync(place, { recursive: true })

// what is refused has no bytes to differ
const refused = Object.entries(found).filter(([, told]) => told.split(' ')[1] === 'nothing')
for (const [name] of refused) console.log(`nothing was delivered: ${name}`)

const sorted = Object.fromEntries(Object.entries(found).sort(([a], [b]) => (a < b ? -1 : 1)))
if (what === 'record') {
  writeFileSync(file, `${JSON.stringify(sorted, null, 1)}\n`)
  console.log(`${jobs.length} digests in ${file}, ${refused.length} of nothing`)
} else {
  const before = JSON.parse(readFileSync(file, 'utf8'))
  const names = [...new Set([...Object.keys(before), ...Object.keys(sorted)])]
  const other = names.filter(name => before[name] !== sorted[name])
  for (const name of other)
    console.log(`${name}\n  was ${before[name] ?? 'not there'}\n  is  ${sorted[name] ?? 'not there'}`)
  console.log(`${names.length - other.length} of ${names.length} are the same`)
  process.exitCode = other.length || refused.length ? 1 : 0
}
