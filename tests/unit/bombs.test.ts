/** Bombs of every kind are refused by their headers: by the command line within 512 MB, and by the service's way in. */
import { spawn } from 'node:child_process'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { PourError } from '../../core/base/errors'
import { MOST_FRAME, overBudget } from '../../core/base/files/budget'
import { receive, StationAsk } from '../../core/run/reception'
import { BOMBS } from '../hostile/bombs'
import { builtCommandLine, script } from './command-line'
import { bytesFile, root, testHost } from './support'

let folder: string

beforeAll(async () => {
  await builtCommandLine()
  folder = await mkdtemp(path.join(tmpdir(), 'pour-bombs-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

interface Ended {
  code: number | null
  error: string
  megabytes: number
}

async function inspect(name: string): Promise<Ended> {
  const rss = path.join(folder, `${name}.rss`)
  const child = spawn(
    process.execPath,
    ['--import', path.join(root, 'tests/hostile/rss.mjs'), script, 'inspect', name],
    { cwd: folder, env: { ...process.env, POUR_RSS: rss } }
  )
  let error = ''
  child.stderr.on('data', (data: Buffer) => (error += data.toString()))
  // a loop that never ends hears no polite signal
  const guard = setTimeout(() => child.kill('SIGKILL'), 20_000)
  const code = await new Promise<number | null>(resolve => child.once('close', resolve))
  clearTimeout(guard)
  return { code, error, megabytes: code === null ? Infinity : Number(await readFile(rss, 'utf8')) / 1024 }
}

test.each(Object.keys(BOMBS))('%s is refused, in little memory', async name => {
  await writeFile(path.join(folder, name), BOMBS[name]!())
  const { code, error, megabytes } = await inspect(name)
  expect([code, error]).toEqual([3, expect.stringMatching(/^\S.{10,}\n$/) as string])
  expect(megabytes).toBeLessThan(512)
})

test.each(Object.keys(BOMBS))('%s is refused where the service takes it in', async name => {
  const host = await testHost()
  const asked = receive('plain-player', [bytesFile('delivered', BOMBS[name]!())], StationAsk.parse({}), host, {
    mostPixels: 2 ** 24
  })
  const error: unknown = await asked.catch((thrown: unknown) => thrown)
  expect(error).toBeInstanceOf(PourError)
})

test('a budget refuses what no file of that size holds, and nothing that one may', () => {
  const claim = { width: 1920, height: 1080, depth: 8, frames: 300, bytes: 9000 } as const
  expect(overBudget(claim, 'a')).toBeNull()
  // a clear frame of 4096x4096 in a few hundred bytes, one of 8K in some more, an hour of 1080p that hardly moves, the
  // largest picture at 8 bits
  expect(overBudget({ ...claim, width: 4096, height: 4096, frames: 1, bytes: 200 }, 'a')).toBeNull()
  expect(overBudget({ ...claim, width: 7680, height: 4320, frames: 1, bytes: 2100 }, 'a')).toBeNull()
  expect(overBudget({ ...claim, width: 7680, height: 4320, frames: 1, bytes: 2000 }, 'a')?.kind).toBe('unreadable')
  expect(overBudget({ ...claim, frames: 86_400, bytes: 86_400 * 40 }, 'a')).toBeNull()
  expect(overBudget({ ...claim, width: 16384, height: 8192, frames: 1, bytes: 20_000 }, 'a')).toBeNull()
  expect(overBudget({ ...claim, width: 16384, height: 8192, frames: 1, bytes: 43 }, 'a')?.message).toBe(
    'a: 43 bytes cannot hold a picture of 16384x8192'
  )
  expect(overBudget({ ...claim, width: 16384, height: 8192, depth: 16, bytes: 1e9 }, 'a')?.kind).toBe('no-room')
  expect(overBudget({ ...claim, frames: 100_000, bytes: 900 }, 'a')?.message).toMatch(/100000 frames of 1920x1080/)
  expect(overBudget({ ...claim, width: NaN }, 'a')?.kind).toBe('no-room')
  expect(MOST_FRAME).toBe(16384 * 8192 * 4)
})
