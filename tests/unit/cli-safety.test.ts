/**
 * The command line under a careless user, a full disk and a kill: nothing that stood is lost, and every end is a
 * documented one.
 */
import { spawn, spawnSync } from 'node:child_process'
import { cp, link, mkdir, mkdtemp, readdir, readFile, rm, symlink, utimes, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import { encodePng } from '../../core/media/pictures/png/encode'
import { builtCommandLine, held, runIn, script, type Ended } from './command-line'
import { noise, testHost, vectors } from './support'

const film = path.join(vectors, 'rle32.mov')
let home: string
let folder: string

const call = (...args: string[]): Promise<Ended> => runIn(folder, args)

const visible = (files: Record<string, string>): Record<string, string> =>
  Object.fromEntries(Object.entries(files).filter(([name]) => !/(^|\/)\.pour-/.test(name)))

/** Starts a long pour into `to`, and resolves once it has written something; the answer is how it ended. */
async function begun(
  to: string,
  ...args: string[]
): Promise<{ kill(signal: NodeJS.Signals): void; ended: Promise<Ended> }> {
  const child = spawn(
    process.execPath,
    [script, 'convert', path.join(home, 'long'), '--format', 'png-sequence', '--rate', '24', '--to', to, ...args],
    { cwd: folder }
  )
  let error = ''
  child.stderr.on('data', (data: Buffer) => (error += data.toString()))
  const ended = new Promise<Ended>(resolve =>
    child.once('close', code => resolve({ code: code ?? -1, out: '', error }))
  )
  const working = async (): Promise<boolean> =>
    (await readdir(path.join(folder, to), { recursive: true }).catch(() => [])).some(name =>
      /\.pour-.*\.png$/.test(name)
    )
  while (!(await working())) await new Promise(resolve => setTimeout(resolve, 20))
  return { kill: signal => void child.kill(signal), ended }
}

beforeAll(async () => {
  await builtCommandLine()
  home = await mkdtemp(path.join(tmpdir(), 'pour-safety-'))
  const host = await testHost()
  await mkdir(path.join(home, 'long'))
  for (let n = 1; n <= 48; n++)
    await writeFile(
      path.join(home, 'long', `long take ${String(n).padStart(3, '0')}.png`),
      await encodePng(host, noise({ width: 640, height: 360, depth: 16, seed: n }))
    )
})
afterAll(() => rm(home, { recursive: true, force: true }))
beforeEach(async () => {
  folder = await mkdtemp(path.join(home, 'run '))
})

test.each(['SIGKILL', 'SIGINT', 'SIGTERM'] as const)('%s in the middle leaves the frames that stood', async signal => {
  await mkdir(path.join(folder, 'out'))
  for (let n = 1; n <= 49; n++)
    await writeFile(path.join(folder, 'out', `${String(n).padStart(4, '0')}.png`), `good ${n}`)
  const before = await held(folder)
  const { kill, ended } = await begun('out', '--set', 'existing=replace')
  kill(signal)
  const { code } = await ended
  expect(code).toBe(signal === 'SIGKILL' ? -1 : 130)
  const now = await held(folder)
  expect(signal === 'SIGKILL' ? visible(now) : now).toEqual(before)
  // the next run clears up, and is whole
  const next = await call('convert', film, '--format', 'png-sequence', '--to', 'out', '--set', 'existing=replace')
  expect(next.code).toBe(0)
  const after = await held(folder)
  // of the former sequence no picture stays that the new one does not have
  const pictures = [1, 2, 3, 4, 5, 6].map(n => `out/000${n}.png`)
  expect(Object.keys(after).sort()).toEqual([...pictures, 'out/rate.txt'])
  expect(after['out/0006.png']).not.toBe(before['out/0006.png'])
})

test('two runs into one folder leave one of the two, whole', async () => {
  const other = path.join(vectors, 'rle32-premultiplied.mov')
  const to = (name: string, source: string): Promise<Ended> =>
    call('convert', source, '--format', 'png-sequence', '--to', name, '--set', 'existing=replace')
  await Promise.all([to('a', film), to('b', other)])
  const [a, b] = [await held(path.join(folder, 'a')), await held(path.join(folder, 'b'))]
  const codes = await Promise.all([to('both', film), to('both', other), to('both', film)])
  const both = await held(path.join(folder, 'both'))
  expect([a, b]).toContainEqual(both)
  // whichever came first found, at its proof, what the other had put there
  expect(codes.some(({ code }) => code === 0)).toBe(true)
  expect(codes.every(({ code }) => [0, 3, 4].includes(code))).toBe(true)
})

test('of two runs to one name that may not replace, one is done and one is told', async () => {
  const run = (): Promise<Ended> => call('convert', film, '--format', 'quicktime-animation', '--to', 'one.mov')
  const [a, b] = await Promise.all([run(), run()])
  expect([a.code, b.code].sort()).toEqual([0, 5])
  expect((a.code ? a : b).error).toMatch(/one\.mov is there already/)
  expect(await readdir(folder)).toEqual(['one.mov'])
})

test('source and target are never one, by whatever name', async () => {
  await cp(film, path.join(folder, 'clip.mov'))
  await link(path.join(folder, 'clip.mov'), path.join(folder, 'hard.mov'))
  await symlink('clip.mov', path.join(folder, 'soft.mov'))
  await cp(path.join(home, 'long', 'long take 001.png'), path.join(folder, 'frames', '0001.png'), { recursive: true })
  await cp(path.join(home, 'long', 'long take 002.png'), path.join(folder, 'frames', '0002.png'))
  await symlink('frames', path.join(folder, 'round'))
  expect((await call('convert', 'frames', '--format', 'png-sequence', '--to', 'pack.zip')).code).toBe(0)
  const before = await held(folder)
  const replace = ['--set', 'existing=replace']
  const animation = ['--format', 'quicktime-animation', ...replace]
  const png = ['--format', 'png-sequence', ...replace]
  for (const args of [
    ['convert', 'clip.mov', ...animation, '--to', 'clip.mov'],
    ['convert', 'clip.mov', ...animation, '--to', './x/../clip.mov'],
    ['convert', 'clip.mov', ...animation, '--to', 'hard.mov'],
    ['convert', 'soft.mov', ...animation, '--to', 'clip.mov'],
    ['convert', 'clip.mov', ...animation, '--to', 'soft.mov'],
    ['convert', 'pack.zip', ...png, '--to', 'pack.zip'],
    ['convert', 'frames', ...png, '--to', 'frames'],
    ['convert', 'frames', ...png, '--to', 'round'],
    ['frames', 'frames', '--to', 'round', '--replace'],
    ['frames', 'frames', '--to', 'frames'],
    ['stations', 'frames', '--to', 'frames', '--replace'],
    ['hand-over', 'clip.mov', 'hard.mov', '--to', 'hard.mov'],
    ['hand-over', 'frames', 'clip.mov', '--to', 'round']
  ]) {
    const { code, error } = await call(...args)
    expect([args.join(' '), code]).toEqual([args.join(' '), 2])
    expect(error).toMatch(/is the source itself/)
    expect(await held(folder)).toEqual(before)
  }
})

test('nothing that is there is overwritten unless asked', async () => {
  for (const [to, ...args] of [
    ['frames', 'frames', film, '--to', 'frames'],
    ['views', 'stations', film, '--to', 'views']
  ] as [string, ...string[]][]) {
    await mkdir(path.join(folder, to))
    const name = to === 'frames' ? '0003.png' : 'on-black.png'
    await writeFile(path.join(folder, to, name), 'mine')
    const { code, error } = await call(...args)
    expect([code, error]).toEqual([5, expect.stringContaining('is there already') as string])
    expect(await readdir(path.join(folder, to))).toEqual([name])
    expect((await call(...args, '--replace')).code).toBe(0)
    expect((await readFile(path.join(folder, to, name))).length).toBeGreaterThan(10)
  }
})

test('a file larger than the disk takes is told, with the good film where it was', async () => {
  await writeFile(path.join(folder, 'good.mov'), 'good')
  // a limit of 64 KiB a file stands for a full disk: the first write is cut short, the next one refused
  const ended = spawnSync(
    'bash',
    [
      '-c',
      `ulimit -f 64; exec "$0" "$@"`,
      process.execPath,
      script,
      'convert',
      path.join(home, 'long'),
      '--format',
      'quicktime-raw',
      '--rate',
      '24',
      '--to',
      'good.mov',
      '--set',
      'existing=replace'
    ],
    { cwd: folder, encoding: 'utf8' }
  )
  expect([ended.status, ended.stderr.split('\n').length]).toEqual([5, 2])
  expect(ended.stderr).toMatch(/good\.mov is larger than a file may be here/)
  expect(await readdir(folder)).toEqual(['good.mov'])
  expect(await readFile(path.join(folder, 'good.mov'), 'utf8')).toBe('good')
})

test('a source that changes while it is poured is no measure, and nothing takes its place', async () => {
  await cp(path.join(home, 'long'), path.join(folder, 'source'), { recursive: true })
  const child = spawn(
    process.execPath,
    [script, 'convert', 'source', '--format', 'png-sequence', '--rate', '24', '--to', 'out'],
    { cwd: folder }
  )
  let error = ''
  child.stderr.on('data', (data: Buffer) => (error += data.toString()))
  const ended = new Promise<number | null>(resolve => child.once('close', resolve))
  const working = async (): Promise<boolean> =>
    (await readdir(path.join(folder, 'out'), { recursive: true }).catch(() => [])).some(n => n.endsWith('.png'))
  while (!(await working())) await new Promise(resolve => setTimeout(resolve, 20))
  await utimes(path.join(folder, 'source', 'long take 048.png'), new Date(), new Date(0))
  expect(await ended).toBe(3)
  expect(error).toMatch(/long take 048\.png: it has changed since the pour began/)
  expect(await readdir(folder)).toEqual(['source'])
})

test('every wrong call is told in one sentence and ends with a documented code', async () => {
  spawnSync('mkfifo', [path.join(folder, 'pipe')])
  await mkdir(path.join(folder, 'empty'))
  await mkdir(path.join(folder, 'folder.png'))
  const to = ['--format', 'apng', '--rate', '12', '--to', 'a.png']
  for (const [code, ...args] of [
    [2, 'constructor'],
    [2, '__proto__', 'x'],
    [2, 'convert', film, ...to, '--set', '__proto__=1'],
    [2, 'convert', film, ...to, '--set', 'constructor=1'],
    [2, 'convert', film, ...to, '--set', 'toString=1'],
    [2, 'convert', film, '--format', 'hasOwnProperty', '--to', 'a.png'],
    [2, 'inspect', ''],
    [2, 'convert', film, '--format', 'apng', '--to', ''],
    [2, 'convert', film, '--format', 'apng', '--rate', '12', '--to', 'n'.repeat(300)],
    [3, 'inspect', 'pipe'],
    [3, 'inspect', 'nowhere'],
    [3, 'inspect', 'empty'],
    [3, 'inspect', `${film}/inside`],
    [5, 'convert', film, '--format', 'apng', '--rate', '12', '--to', 'folder.png', '--set', 'existing=replace'],
    [5, 'convert', film, '--format', 'apng', '--rate', '12', '--to', 'pipe', '--set', 'existing=replace']
  ] as [number, ...string[]][]) {
    const ended = await call(...args)
    expect([args.join(' ').slice(-60), ended.code, ended.error]).toEqual([args.join(' ').slice(-60), code, ended.error])
    // remarks about the source may come before it
    expect(ended.error.trim().split('\n').at(-1)).toMatch(/^[^:]+.*[^\s]$/)
    expect(ended.error.trim().split('\n').length).toBeLessThan(4)
    expect(ended.error).not.toMatch(/Pour failed|\bat .*:\d+:\d+/)
  }
})

test('closed ends of the pipes do not stop the work', async () => {
  const ended = spawnSync(
    'bash',
    [
      '-c',
      '"$0" "$@" 2>&- ',
      process.execPath,
      script,
      'convert',
      film,
      '--format',
      'apng',
      '--rate',
      '12',
      '--to',
      'a.png'
    ],
    { cwd: folder, encoding: 'utf8' }
  )
  expect(ended.status).toBe(0)
  expect(await readdir(folder)).toEqual(['a.png'])
})
