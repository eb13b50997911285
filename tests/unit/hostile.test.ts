/**
 * Damaged files end in frames or in one clear error, in every reader, and leave nothing open. A long run: `npm run
 * fuzz`.
 */
import { expect, test } from 'vitest'
import sharp from 'sharp'
import { counting, damaged, fuzz, readAnyhow, seedsIn } from '../hostile/fuzz'
import { bytesFile, random, testHost, vectors } from './support'

const host = await testHost()
const seeds = await seedsIn(vectors, host)
// no vector is of these; a library writes them here
const still = sharp({ create: { width: 40, height: 30, channels: 4, background: '#7a3b1f80' } })
for (const [id, name, made] of [
  ['jpeg-sequence', 'a.jpg', still.clone().flatten().jpeg()],
  ['webp-sequence', 'a.webp', still.clone().webp({ lossless: true })],
  ['avif-sequence', 'a.avif', still.clone().avif()]
] as const)
  seeds.set(id, [{ name, bytes: new Uint8Array(await made.toBuffer()) }])

test('the vectors seed the readers', () => {
  expect([...seeds.keys()].sort()).toEqual(
    expect.arrayContaining([
      'apng',
      'dpx-sequence',
      'exr-sequence',
      'gif',
      'png-sequence',
      'quicktime-animation',
      'quicktime-png',
      'quicktime-prores-4444',
      'tga-sequence',
      'tiff-sequence',
      'webm-vp9',
      'webp-animated',
      'webp-sequence',
      'jpeg-sequence',
      'avif-sequence'
    ])
  )
})

test.each([...seeds.keys()])('%s: damage ends in frames or in one clear error, and no file is left open', async id => {
  const { read, refused } = await fuzz(seeds.get(id)!, 40, host)
  expect(read + refused).toBe(40)
})

test('damage is the same each time, and is damage', () => {
  const bytes = Uint8Array.from({ length: 500 }, (_, i) => i)
  for (let n = 0; n < 50; n++) expect(damaged(bytes, random(n))).toEqual(damaged(bytes, random(n)))
  const kept = Array.from({ length: 50 }, (_, n) => damaged(bytes, random(n))).filter(
    out => out.length === bytes.length && out.every((byte, i) => byte === bytes[i])
  )
  expect(kept.length).toBeLessThan(10)
})

test('files that are left open are found out', async () => {
  const { host: watched, open } = counting(host)
  const [gif] = seeds.get('gif')!
  const reader = await watched.openFile(bytesFile('a.gif', gif!.bytes))
  expect(open()).toBe(1)
  await reader.close()
  await reader.close()
  expect(open()).toBe(0)
  expect(await readAnyhow(bytesFile('a.gif', gif!.bytes), watched)).toBe('read')
  expect(open()).toBe(0)
})
