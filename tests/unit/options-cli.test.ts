/** Options of the command line, each seen to change what it says it changes. */
import { execFile } from 'node:child_process'
import { copyFile, mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { zipSync } from 'fflate'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { withAlphaMode } from '../../core/frame/alpha'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { emptyJob } from '../../core/job/job'
import { newOutlet } from '../../core/job/outlet/outlet'
import { encodePng } from '../../core/media/pictures/png/encode'
import { formatById } from '../../core/open/registry'
import { JOB_ENTRY, jobText } from '../../core/run/job-file'
import { builtCommandLine, runIn, type Ended } from './command-line'
import { noise, root, testHost, writeFilm } from './support'

const host = await testHost()
const folder = await mkdtemp(path.join(tmpdir(), 'pour-options-'))
afterAll(() => rm(folder, { recursive: true, force: true }))
const at = (...parts: string[]): string => path.join(folder, ...parts)
const run = (...args: string[]): Promise<Ended> => runIn(folder, args)

/** A bar of one colour whose alpha rises from left to right, in codes of a mode. */
function ramp(alpha: AlphaMode): Frame {
  const samples = new Uint8Array(4 * 64 * 16)
  for (let i = 0; i < samples.length; i += 4) samples.set([226, 178, 66, 4 * ((i / 4) % 64)], i)
  const straight: Frame = { ...noise({ width: 64, height: 16, depth: 8 }), samples, alpha: STRAIGHT }
  return alpha.mode === 'straight' ? straight : withAlphaMode(straight, alpha, host.kernels)
}

beforeAll(async () => {
  await builtCommandLine()
  for (const [name, mode] of [
    ['bar', STRAIGHT],
    ['bar on black', { mode: 'premultiplied', matte: '#000000' }]
  ] as const) {
    await mkdir(at(name))
    for (const n of [1, 2]) await writeFile(at(name, `${name}_000${n}.png`), encodePng(host, ramp(mode)))
  }
  await copyFile(path.join(root, 'tests/vectors/as-they-come/held.mov'), at('held.mov'))
})

test('--reference-alpha and --delivered-alpha say how each side is meant, and the verdict follows', async () => {
  const prove = async (first: string, second: string, ...modes: [string, string]): Promise<[number, string]> => {
    const [reference, delivered] = modes
    const meant = ['--reference-alpha', reference, '--delivered-alpha', delivered]
    const { code, out } = await run('prove', first, second, '--json', ...meant)
    return [code, (JSON.parse(out) as { sentence: string }).sentence]
  }
  const premultiplied = 'premultiplied:#000000'
  expect((await prove('bar', 'bar', 'straight', 'straight'))[0]).toBe(0)
  // read as what it is, its pixels are right, and only its label is not
  const meant = await prove('bar', 'bar on black', 'straight', premultiplied)
  expect(meant).toEqual([4, expect.stringContaining('The file says straight')])
  const mistaken = await prove('bar', 'bar on black', 'straight', 'straight')
  expect(mistaken).toEqual([4, expect.not.stringContaining('The file says')])
  const light = await prove('bar', 'bar', premultiplied, 'straight')
  expect(light).toEqual([0, expect.stringContaining('Premultiplied on black cannot be told as straight')])
})

test('--meant says what its sender meant, and stations are held against that', async () => {
  const standing = async (meant: string, station: string): Promise<string> => {
    const { out } = await run('stations', 'bar on black', '--json', '--meant', meant)
    const found = JSON.parse(out) as { station: string; standing: string }[]
    return found.find(each => each.station === station)!.standing
  }
  expect(await standing('straight', 'always-straight')).toBe('right')
  expect(await standing('premultiplied:#000000', 'always-straight')).toBe('wrong')
  expect(await standing('premultiplied:#000000', 'always-premultiplied')).toBe('right')
})

test('--timing each takes the pictures of a film one by one, not as it shows them', async () => {
  const frames = async (timing: string, to: string): Promise<number> => {
    const { code, error } = await run('convert', 'held.mov', '--format', 'png-sequence', '--to', to, '--timing', timing)
    expect([code, error]).toEqual([0, expect.any(String)])
    return (await readdir(at(to))).filter(name => name.endsWith('.png')).length
  }
  const [shown, each] = [await frames('shown', 'as shown'), await frames('each', 'one by one')]
  expect(each).toBeLessThan(shown)
  const { code, error } = await run('convert', 'held.mov', '--format', 'apng', '--to', 'x.png', '--timing', 'all')
  expect([code, error]).toEqual([2, expect.stringContaining('--timing takes shown or each')])
})

test('--marker leaves an arrival where it is until a file of its name and that ending stands beside it', async () => {
  const outlet = newOutlet('o', formatById('quicktime-png'), 'Film')
  const job = { ...emptyJob('j', 'Inbox'), outlets: { o: outlet }, outletOrder: ['o'] }
  await writeFile(at('inbox.pour'), zipSync({ [JOB_ENTRY]: new TextEncoder().encode(jobText(job, {})) }))
  await mkdir(at('in'))
  await writeFile(at('in', 'moth wing.mov'), await writeFilm('quicktime-animation', [ramp(STRAIGHT), ramp(STRAIGHT)]))
  const watch = (...more: string[]): Promise<Ended> =>
    run('watch', 'in', '--job', 'inbox.pour', '--to', 'out', '--once', '--settle', '0', '--marker', '.ready', ...more)
  expect((await watch()).code).toBe(0)
  expect((await readdir(at('in'))).includes('moth wing.mov')).toBe(true)
  await writeFile(at('in', 'moth wing.mov.ready'), '')
  expect((await watch()).code).toBe(0)
  expect(await readdir(at('in', 'done'))).toContain('moth wing.mov')
  expect(await readdir(at('out'))).toEqual(['moth_wing_Film.mov'])
  const { code, error } = await run('watch', 'in', '--job', 'inbox.pour', '--to', 'out', '--marker', 'ready')
  expect([code, error]).toEqual([2, expect.stringContaining('--marker takes an ending such as .ready')])
})

test('--memory is held to a number that a worker can have, and a small one still does small work', async () => {
  for (const wrong of ['none', '-5', '0'])
    expect([wrong, (await run('inspect', 'bar', '--memory', wrong)).code]).toEqual([wrong, 2])
  expect((await run('inspect', 'bar', '--memory', '256')).code).toBe(0)
})

test('serve refuses what it does not take, and says what it does', async () => {
  const serve = (...args: string[]): Promise<Ended> =>
    new Promise(resolve => {
      execFile(process.execPath, [path.join(root, 'bin/pour.mjs'), 'serve', ...args], (error, out, err) =>
        resolve({ code: error ? Number(error.code) : 0, out, error: err })
      )
    })
  expect(await serve('--port', 'nine')).toMatchObject({ code: 2, error: expect.stringContaining('--port takes') })
  expect(await serve('--host', '')).toMatchObject({ code: 2, error: expect.stringContaining('--host takes a name') })
  expect(await serve('--full')).toMatchObject({ code: 2, error: expect.stringContaining('does not take "--full"') })
  const { out } = await serve('--help')
  for (const option of ['--empty', '--port', '--host']) expect(out).toContain(option)
})
