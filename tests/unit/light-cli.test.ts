/** Labels, light and preparations on the command line: what `prove` and `hand-over` hold files against. */
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { potOnScreen } from '../../demo/scenes'
import { withDepth } from '../../core/frame/depth'
import type { Frame } from '../../core/frame/frame'
import { formatById } from '../../core/open/registry'
import { encodePng } from '../../core/media/pictures/png/encode'
import { builtCommandLine, runIn, type Ended } from './command-line'
import { deliverable, noise, testHost } from './support'

const host = await testHost()
const folder = await mkdtemp(path.join(tmpdir(), 'pour-light-'))
afterAll(() => rm(folder, { recursive: true, force: true }))
const run = (...args: string[]): Promise<Ended> => runIn(folder, args)

async function pictures(
  name: string,
  count: number,
  bytes: (n: number) => Uint8Array | Promise<Uint8Array>,
  kind = 'png'
): Promise<void> {
  await mkdir(path.join(folder, name), { recursive: true })
  for (let n = 0; n < count; n++)
    await writeFile(path.join(folder, name, `${name} take_${String(n + 1).padStart(4, '0')}.${kind}`), await bytes(n))
}

/** Two frames of light: a peak of 4, shine where alpha has ended, and one value that is no number where asked. */
function light(broken: boolean): Frame {
  const samples = new Float32Array(4 * 32 * 24)
  for (let y = 0, i = 0; y < 24; y++)
    for (let x = 0; x < 32; x++, i += 4) {
      const glow = 4 * Math.exp(-((x - 16) ** 2 + (y - 12) ** 2) / 40)
      samples.set([glow, glow / 2, glow / 8, glow > 1 ? 1 : glow > 0.5 ? 2 * glow - 1 : 0], i)
    }
  if (broken) samples[4 * (5 * 32 + 7)] = NaN
  return {
    width: 32,
    height: 24,
    depth: 32,
    samples,
    alpha: { mode: 'premultiplied', matte: '#000000' },
    transfer: 'linear'
  }
}

beforeAll(async () => {
  await builtCommandLine()
  const frame = { ...noise({ width: 24, height: 16, depth: 8, seed: 6 }), alpha: { mode: 'straight' as const } }
  await pictures('wide', 2, () => encodePng(host, frame, { tags: [12, 13, 0] }))
  await pictures('plain', 2, () => encodePng(host, frame))
  await pictures('plate', 3, n =>
    encodePng(host, { ...withDepth(potOnScreen(n / 3), 8, host.kernels), alpha: { mode: 'none' } })
  )
  const exr = (frame: Frame) =>
    formatById('exr-sequence').encode(host, frame, deliverable(frame, 2, { rate: [25, 1] }), null)
  await pictures('fire', 2, () => exr(light(false)), 'exr')
  await pictures('odd', 2, () => exr(light(true)), 'exr')
  const key = { id: 'a', kind: 'chroma-key', on: true, settings: { screen: '#2f9e4c' } }
  const preparation = (step: object): string =>
    JSON.stringify({ pour: 'preparation', version: 1, name: 'p', steps: [step] })
  await writeFile(path.join(folder, 'key.json'), preparation(key))
  await writeFile(path.join(folder, 'mend.json'), preparation({ id: 'm', kind: 'mend-values', on: true, settings: {} }))
  await writeFile(
    path.join(folder, 'half.json'),
    preparation({ id: 's', kind: 'scale', on: true, settings: { by: 50 } })
  )
})

describe('labels', () => {
  test('the same codes under another name are no identical picture, either way round, and the difference is told', async () => {
    for (const [from, to, words] of [
      ['wide', 'plain', 'Colour came labelled Display P3'],
      ['plain', 'wide', 'Colour came as sRGB and the file says Display P3']
    ] as const) {
      const { code, out } = await run('prove', from, to)
      expect(code).toBe(0)
      expect(out).toMatch(/^visible-loss: /)
      expect(out).toContain(words)
      expect(out).toMatch(/off by ΔE [\d.]+ on average and [\d.]+ at most/)
    }
    expect((await run('prove', 'wide', 'wide')).out).toMatch(/^identical: /)
  })

  test('a label that cannot go along is a loss, or codes are kept as was asked', async () => {
    const to = ['convert', 'wide', '--rate', '25', '--format', 'tga-sequence', '--json', '--to']
    const lost = await run(...to, 'lost')
    expect(JSON.parse(lost.out)).toMatchObject({ verdict: 'visible-loss' })
    const kept = await run(...to, 'kept', '--codes', 'keep')
    expect(JSON.parse(kept.out).verdict).not.toBe('visible-loss')
    const wrong = await run(...to, 'wrong', '--codes', 'bend')
    expect([wrong.code, wrong.error]).toEqual([2, expect.stringContaining('--codes takes keep')])
  })
})

describe('a reference as it is prepared', () => {
  test('a keyed film is held against what its preparation makes of the plate, and goes into a hand-over so', async () => {
    const to = ['--rate', '25', '--prepare', 'key.json', '--format', 'quicktime-animation', '--to', 'pot.mov']
    expect((await run('convert', 'plate', ...to)).code).toBe(0)
    const bare = await run('prove', 'plate', 'pot.mov')
    expect(bare.error).toContain('--prepare FILE')
    expect(bare.out).not.toMatch(/^(identical|faithful)/)
    const proven = await run('prove', 'plate', 'pot.mov', '--prepare', 'key.json')
    expect(proven.code).toBe(0)
    expect(proven.out).toMatch(/^(identical|faithful)/)
    const given = await run('hand-over', 'plate', 'pot.mov', '--prepare', 'key.json', '--to', 'pot.zip')
    expect([given.code, given.error]).toEqual([0, ''])
    expect((await run('check', 'pot.zip')).out).toContain('Nothing has changed')
  })
})

describe('light', () => {
  test('at half its size it is poured as light, and proven', async () => {
    const { code, out } = await run(
      'convert',
      'fire',
      '--prepare',
      'half.json',
      '--format',
      'exr-sequence',
      '--to',
      'small',
      '--json'
    )
    expect(code).toBe(0)
    expect(JSON.parse(out)).toMatchObject({ verdict: 'identical' })
  })

  test('values that are no numbers stop whole codes, by frame and place, and are mended by a step', async () => {
    const found = await run('inspect', 'odd')
    expect(found.out).toMatch(/fault: 2 pixels in 2 frames hold values that are no numbers.*frame 1 at 7, 5/)
    const refused = await run('convert', 'odd', '--format', 'png-sequence', '--to', 'whole')
    expect(refused.code).toBe(5)
    expect(refused.error).toContain('frame 1 has a value at 7, 5')
    const mended = await run(
      'convert',
      'odd',
      '--prepare',
      'mend.json',
      '--format',
      'exr-sequence',
      '--to',
      'mended',
      '--json'
    )
    expect(mended.code).toBe(0)
    expect((await run('inspect', 'mended')).out).not.toContain('no numbers')
  })
})
