/** Pictures that their file keeps turned stand upright, as another reader sets them. */
import fc from 'fast-check'
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { oriented, orientationOf, orientedSize, type Orientation } from '../../core/frame/orient'
import { takeIn } from '../../core/run/intake/intake'
import { openSource } from '../../core/open/open'
import { anyNoise, bytesFile, firstDifference, noise, testHost } from './support'

const host = await testHost()
const ALL = [1, 2, 3, 4, 5, 6, 7, 8] as const
/** What undoes each. */
const BACK: Record<Orientation, Orientation> = { 1: 1, 2: 2, 3: 3, 4: 4, 5: 5, 6: 8, 7: 7, 8: 6 }

test('every turn is undone by its opposite, and moves samples without changing them', () => {
  fc.assert(
    fc.property(anyNoise(8), fc.constantFrom(...ALL), (frame, orientation) => {
      const turned = oriented(frame, orientation)
      expect([turned.width, turned.height]).toEqual(
        Object.values(orientedSize({ w: 0, width: frame.width, height: frame.height }, orientation)).slice(1)
      )
      expect(firstDifference(oriented(turned, BACK[orientation]).samples, frame.samples)).toBeNull()
    }),
    { numRuns: 100 }
  )
  expect([0, 9, 1.5, NaN].map(orientationOf)).toEqual([1, 1, 1, 1])
})

test.each(ALL)(
  'TIFF and JPEG of orientation %i are set upright as another reader does, and it is told',
  async orientation => {
    const { samples, width, height } = noise({
      width: 23,
      height: 14,
      depth: 8,
      alpha: { mode: 'none' },
      seed: 3,
      runs: 0.9
    })
    const stored = sharp(Buffer.from(samples as Uint8Array), { raw: { width, height, channels: 4 } })
      .removeAlpha()
      .withMetadata({ orientation })
    for (const [name, bytes] of [
      ['a.tif', await stored.clone().tiff({ compression: 'lzw' }).toBuffer()],
      ['a.jpg', await stored.clone().jpeg({ quality: 100, chromaSubsampling: '4:4:4' }).toBuffer()]
    ] as const) {
      const { found } = await takeIn([bytesFile(name, new Uint8Array(bytes))], host)
      const upright = await sharp(bytes).rotate().ensureAlpha().raw().toBuffer({ resolveWithObject: true })
      expect([found[0]!.facts.width, found[0]!.facts.height]).toEqual([upright.info.width, upright.info.height])
      expect(found[0]!.facts.findings.map(f => f.id).includes('orientation')).toBe(orientation !== 1)
      const source = await openSource({ ...found[0]!.spec, id: 'turned' }, host)
      expect(firstDifference((await source.frame(0)).samples, upright.data)).toBeNull()
      await source.close()
    }
  }
)

test('a block of another kind under the same marker does not undo what Exif says', async () => {
  const stored = await sharp({ create: { width: 20, height: 12, channels: 3, background: '#7a3b1f' } })
    .withMetadata({ orientation: 6 })
    .jpeg()
    .toBuffer()
  const at = stored.indexOf(Buffer.from([0xff, 0xe1]))
  const end = at + 2 + stored.readUInt16BE(at + 2)
  const words = Buffer.from('http://ns.example/words\0<x/>')
  const block = Buffer.concat([Buffer.from([0xff, 0xe1, 0, words.length + 2]), words])
  const file = Buffer.concat([stored.subarray(0, end), block, stored.subarray(end)])
  const { found } = await takeIn([bytesFile('a.jpg', new Uint8Array(file))], host)
  expect([found[0]!.facts.width, found[0]!.facts.height]).toEqual([12, 20])
})
