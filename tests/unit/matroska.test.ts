/** The walk over Matroska's outermost elements, before anything else reads the file. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { memoryReader } from '../../core/base/files/file'
import { checkMatroska } from '../../core/media/containers/matroska/check'
import { looksLikeEbml } from '../../core/media/containers/matroska/ebml'
import { damage, survives, vectorFile } from './support'

const film = async (name: string): Promise<Uint8Array> => ((await vectorFile(name)) as { bytes: Uint8Array }).bytes
const check = (bytes: Uint8Array): Promise<void> => checkMatroska(memoryReader('film.webm', bytes))

const size = (n: number): number[] => [0x10 | (n >>> 24), (n >>> 16) & 255, (n >>> 8) & 255, n & 255]
const EBML = [0x1a, 0x45, 0xdf, 0xa3, ...size(0)]
const SEGMENT = [0x18, 0x53, 0x80, 0x67]
const TRACKS = [0x16, 0x54, 0xae, 0x6b]
const CLUSTER = [0x1f, 0x43, 0xb6, 0x75]

test('films of another writer pass', async () => {
  for (const name of ['vp8-alpha.webm', 'vp9-alpha.webm']) {
    const bytes = await film(name)
    expect(looksLikeEbml(bytes)).toBe(true)
    await expect(check(bytes)).resolves.toBeUndefined()
  }
})

test('open lengths are taken, and each fault is named with its place', async () => {
  const open = [0x01, 255, 255, 255, 255, 255, 255, 255]
  await expect(
    check(Uint8Array.from([...EBML, ...SEGMENT, ...open, ...TRACKS, ...size(2), 1, 2, ...CLUSTER, ...open, 9, 9]))
  ).resolves.toBeUndefined()
  await expect(check(Uint8Array.from([...EBML, ...SEGMENT, ...size(99)]))).rejects.toMatchObject({
    matter: expect.stringContaining('cut short') as string
  })
  await expect(
    check(Uint8Array.from([...EBML, ...SEGMENT, ...size(10), ...TRACKS, ...size(9), 1, 2]))
  ).rejects.toMatchObject({ place: 'byte 16', matter: expect.stringContaining('runs beyond') as string })
  await expect(
    check(Uint8Array.from([...EBML, ...SEGMENT, ...size(10), 0x43, 0x21, ...size(4), 1, 2, 3, 4]))
  ).rejects.toMatchObject({ place: 'byte 16', matter: expect.stringContaining('none is known') as string })
  await expect(check(Uint8Array.from([...EBML, ...SEGMENT, ...size(3), 0, 0, 0]))).rejects.toMatchObject({
    place: 'byte 16',
    matter: expect.stringContaining('broken') as string
  })
  await expect(check(Uint8Array.from([...EBML, 0x16, 0x54, 0xae, 0x6b, ...size(0)]))).rejects.toMatchObject({
    matter: expect.stringContaining('segment') as string
  })
  await expect(check(Uint8Array.from([1, 2, 3]))).rejects.toMatchObject({ kind: 'unreadable' })
})

test('truncated and mutated films end in one clear error each, or pass', async () => {
  const bytes = await film('vp9-alpha.webm')
  let refused = 0
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 2 ** 31 - 1 }), async seed => {
      if ((await survives(() => check(damage(bytes, seed)))) === 'refused') refused++
    }),
    { numRuns: 2000 }
  )
  expect(refused).toBeGreaterThan(500)
})
