/** Memory is bounded by the frames in flight: the process that pours a long clip needs no more than for a short one. */
import { spawn } from 'node:child_process'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { builtCommandLine, script } from './command-line'
import { noise, writeFilm } from './support'

const folder = await mkdtemp(path.join(tmpdir(), 'pour-memory-'))
afterAll(() => rm(folder, { recursive: true, force: true }))

/** The most memory that the process had, threads and their buffers included, in MB. */
async function peakOf(args: readonly string[]): Promise<number> {
  const child = spawn(process.execPath, [script, ...args], { cwd: folder })
  let peak = 0
  const look = setInterval(() => {
    readFile(`/proc/${child.pid}/status`, 'utf8').then(
      status => (peak = Math.max(peak, Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? 0))),
      () => undefined
    )
  }, 25)
  const code = await new Promise(resolve => child.on('exit', resolve))
  clearInterval(look)
  expect(code).toBe(0)
  return peak / 1024
}

beforeAll(builtCommandLine)

test('four hundred frames are poured and proven in the memory of a hundred', async () => {
  // noise does not pack: every frame that was kept would be half a megabyte, as it is and as it is coded
  const frames = Array.from({ length: 20 }, (_, n) => noise({ width: 480, height: 270, depth: 8, seed: n }))
  for (const count of [100, 400])
    await writeFile(
      path.join(folder, `${count}.mov`),
      await writeFilm(
        'quicktime-animation',
        Array.from({ length: count }, (_, n) => frames[n % frames.length]!)
      )
    )
  const pour = (count: number): Promise<number> =>
    peakOf(['convert', `${count}.mov`, '--format', 'quicktime-animation', '--to', `out ${count}.mov`])
  const [short, long] = [await pour(100), await pour(400)]
  // 300 frames more, kept once, would be 150 MB
  expect(long - short, `${short.toFixed()} MB and ${long.toFixed()} MB`).toBeLessThan(90)
}, 300_000)
