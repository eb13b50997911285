/** Stopping the command line: at the first signal within a second, with what stood at the target as it was. */
import { spawn } from 'node:child_process'
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { builtCommandLine, script } from './command-line'
import { noise, writeFilm } from './support'

const folder = await mkdtemp(path.join(tmpdir(), 'pour-stop-'))
afterAll(() => rm(folder, { recursive: true, force: true }))

beforeAll(async () => {
  await builtCommandLine()
  const frames = Array.from({ length: 8 }, (_, n) => noise({ width: 320, height: 180, depth: 8, seed: n }))
  const all = Array.from({ length: 60 }, (_, n) => frames[n % frames.length]!)
  await writeFile(path.join(folder, 'long.mov'), await writeFilm('quicktime-animation', all))
})

test('wherever a pour is stopped, its target is as it was, or proven whole', async () => {
  const target = path.join(folder, 'out.mov')
  const args = ['convert', 'long.mov', '--format', 'quicktime-png', '--to', 'out.mov', '--replace']
  let stopped = 0
  for (let n = 0; n < 9; n++) {
    await writeFile(target, 'what stood')
    const child = spawn(process.execPath, [script, ...args], { cwd: folder })
    const ended = new Promise<number | null>(resolve => child.on('exit', resolve))
    const timer = setTimeout(() => child.kill(n % 2 ? 'SIGINT' : 'SIGTERM'), 250 + 400 * n)
    const code = await ended
    clearTimeout(timer)
    if (code === 0) expect((await readFile(target)).length).toBeGreaterThan(1000)
    else {
      stopped++
      // one that has hardly begun is ended by the signal itself
      expect([130, null]).toContain(code)
      expect(await readFile(target, 'utf8'), `stopped after ${250 + 400 * n} ms`).toBe('what stood')
    }
    expect((await readdir(folder)).sort()).toEqual(['long.mov', 'out.mov'])
  }
  expect(stopped).toBeGreaterThan(2)
})
