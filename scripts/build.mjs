/**
 * Builds what is not the page: the kernels, and the command line with its worker. Rebuilds only what is older than its
 * sources.
 */
import { execFileSync } from 'node:child_process'
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync
} from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)))

function newest(place) {
  const info = statSync(place)
  if (!info.isDirectory()) return info.mtimeMs
  return Math.max(
    0,
    ...readdirSync(place)
      .filter(name => name !== 'build' && name !== 'node_modules')
      .map(name => newest(path.join(place, name)))
  )
}

function stale(target, ...sources) {
  return !existsSync(target) || sources.some(source => newest(path.join(root, source)) > statSync(target).mtimeMs)
}

export function buildKernels() {
  const target = path.join(root, 'core/frame/kernels/build/kernels.wasm')
  if (!stale(target, 'core/frame/kernels/assembly')) return target
  mkdirSync(path.dirname(target), { recursive: true })
  const part = `${target}.${process.pid}.wasm`
  const compiler = path.join(root, 'node_modules/assemblyscript/bin/asc.js')
  execFileSync(
    process.execPath,
    [
      compiler,
      path.join(root, 'core/frame/kernels/assembly/index.ts'),
      '-o',
      part,
      '-O3',
      '--enable',
      'simd',
      '--enable',
      'bulk-memory',
      '--runtime',
      'stub',
      '--noAssert',
      '--bindings',
      'raw'
    ],
    { stdio: ['ignore', 2, 2] }
  )
  writeExports(part.replace(/\.wasm$/, '.d.ts'))
  rmSync(part.replace(/\.wasm$/, '.js'), { force: true })
  renameSync(part, target)
  return target
}

/** Words with a mark between them, as many to a line of 120 columns as fit, so far in. */
function filled(words, indent, mark = ',') {
  const lines = []
  for (const [n, word] of words.entries()) {
    const said = n < words.length - 1 ? word + mark : word
    if (lines.length && lines.at(-1).length + 1 + said.length <= 120) lines[lines.length - 1] += ` ${said}`
    else lines.push(' '.repeat(indent) + said)
  }
  return lines
}

/** Numbers that a kernel is given one behind the other; of more, each has its name. */
const MOST_IN_LINE = 5

/**
 * What the compiler says its kernels take and give, as an interface: callers are held to it, and name what they give
 * where that is much. Truth is a number.
 */
function writeExports(declared) {
  const lines = readFileSync(declared, 'utf8').split('\n')
  rmSync(declared)
  const named = []
  const members = lines.flatMap(line => {
    const [, name, taken, given] = /^ {2}export function (\w+)\((.*)\): (\w+);$/.exec(line) ?? []
    if (!name) {
      // what the compiler says in words that are not known here would be left out without one
      if (line.startsWith('  export function')) throw new Error(`the kernels export what is not understood: ${line}`)
      const [, held] = /^ {2}export const (\w+): \{$/.exec(line) ?? []
      return held ? [`  readonly ${held}: WebAssembly.Global`] : []
    }
    const gives = given === 'boolean' ? 'number' : given
    const names = taken.split(', ').map(each => each.split(':')[0])
    if (names.length <= MOST_IN_LINE) return [`  ${name}(${taken.replaceAll('boolean', 'number')}): ${gives}`]
    named.push(
      `    ${name}: given =>`,
      `      raw.${name}!(`,
      ...filled(
        names.map(each => `given.${each}`),
        8
      ),
      `      )${gives === 'void' ? '' : ' as number'},`
    )
    return [
      `  ${name}(given: {`,
      ...filled(
        names.map(each => `${each}: number`),
        4,
        ';'
      ),
      `  }): ${gives}`
    ]
  })
  const text = [
    '/** What the compiled kernels take and give. Made by the build from `assembly/`; not to be edited. */',
    'export interface KernelExports {',
    '  readonly memory: WebAssembly.Memory',
    ...members,
    '}',
    '',
    '/** The kernels of an instance. */',
    'export function kernelsOf(instance: WebAssembly.Instance): KernelExports {',
    '  const raw = instance.exports as Record<string, (...given: number[]) => unknown>',
    '  return {',
    '    ...(instance.exports as unknown as KernelExports),',
    ...named,
    '  }',
    '}',
    ''
  ].join('\n')
  const file = path.join(root, 'core/frame/kernels/exports.ts')
  if (!existsSync(file) || readFileSync(file, 'utf8') !== text) writeFileSync(file, text)
}

export async function buildCommandLine() {
  const kernels = buildKernels()
  const folder = path.join(root, 'dist/cli')
  const target = path.join(folder, 'pour.mjs')
  if (!stale(target, 'core', 'platform', 'cli', 'package.json', 'core/frame/kernels/build/kernels.wasm')) return target
  const { build } = await import('esbuild')
  mkdirSync(folder, { recursive: true })
  const part = `${folder}.${process.pid}`
  const common = {
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    logLevel: 'error',
    absWorkingDir: root,
    packages: 'bundle',
    external: ['sharp', '@libav.js/variant-webm-vp9']
  }
  await build({
    ...common,
    // libraries of the older kind ask for Node's own modules while they run
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);"
    },
    entryPoints: { pour: 'cli/main.ts', worker: 'platform/node/worker.ts' },
    outdir: part,
    outExtension: { '.js': '.mjs' }
  })
  copyFileSync(kernels, path.join(part, 'kernels.wasm'))
  for (const name of ['kernels.wasm', 'worker.mjs', 'pour.mjs'])
    renameSync(path.join(part, name), path.join(folder, name))
  return target
}

/** The process in which the service opens files from outside, beside the built server. */
async function buildReception(kernels) {
  const { build } = await import('esbuild')
  const folder = path.join(root, '.output/server/reception')
  await build({
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    logLevel: 'error',
    absWorkingDir: root,
    packages: 'bundle',
    external: ['sharp', '@libav.js/variant-webm-vp9'],
    entryPoints: { worker: 'platform/node/reception-worker.ts' },
    outdir: folder,
    outExtension: { '.js': '.mjs' }
  })
  copyFileSync(kernels, path.join(folder, 'kernels.wasm'))
}

export async function buildPage() {
  const kernels = buildKernels()
  const target = path.join(root, '.output/server/index.mjs')
  if (!stale(target, 'app', 'core', 'platform', 'server', 'demo', 'public', 'nuxt.config.ts', 'package.json')) return
  execFileSync(process.execPath, [path.join(root, 'node_modules/nuxt/bin/nuxt.mjs'), 'build'], {
    cwd: root,
    stdio: ['ignore', 2, 2],
    env: { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1' }
  })
  await buildReception(kernels)
}
