import { expect, test } from 'vitest'
import type { FileRef } from '../../core/base/files/file'
import { optionValues } from '../../core/base/settings/field'
import { memoryFiles } from './memory-files'
import { formatById, writtenFormats } from '../../core/open/registry'
import { withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { OPAQUE } from '../../core/frame/frame'
import { withTransfer } from '../../core/frame/transfer'
import { nearestRate } from '../../core/base/rate'
import { runsOn } from '../../core/open/registry'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { bytesFile, deliverable, noise, testHost, widthFor, writeFilm } from './support'

const host = await testHost()
const { kernels } = host
/** Formats whose files have no place for the shape of a pixel: the ledger says that it is lost. */
const SILENT = ['webp-sequence', 'webp-animated', 'gif', 'avif-sequence', 'jpeg-sequence', 'jxl-sequence']
const written = writtenFormats.filter(format => runsOn(format, host))

async function shapeThrough(id: string, pixelAspect: [number, number]): Promise<number> {
  const format = formatById(id)
  const { depth } = format.depths.at(-1)!
  const coded = withDepth(noise({ width: widthFor(format, 16), height: 12, depth: 8, seed: 5 }), depth, kernels)
  const mode = (['straight', 'premultiplied'] as const).find(each => format.alpha[each].can)
  const moded =
    mode === 'premultiplied'
      ? withAlphaMode(coded, { mode, matte: '#000000' }, kernels)
      : mode
        ? coded
        : { ...coded, alpha: OPAQUE }
  const frame = withTransfer(moded, format.transfer ?? 'srgb', kernels)
  const options = optionValues(format.options, {})
  const shape = deliverable(frame, 1, { pixelAspect, ...(format.delivers === 'folder' ? { options } : {}) })
  const files = async (): Promise<readonly FileRef[]> => {
    const name = `a.${format.extension}`
    if (format.delivers === 'film') return [bytesFile(name, await writeFilm(id, [frame], { pixelAspect }))]
    const encoded = await format.encode(host, frame, shape, null)
    if (format.delivers === 'pictures') return [bytesFile(name, encoded)]
    const held = memoryFiles(format, name)
    const made = await format.assemble(held.target, shape, host)
    await made.add(0, encoded)
    await made.finish()
    return held.files()
  }
  const source = await openSource(specAsFound(id, id, id, await files()), host)
  await source.close()
  const [w, h] = source.facts.pixelAspect
  return w / h
}

test.each(written.filter(({ id }) => !SILENT.includes(id)).map(({ id }) => id))(
  '%s carries the shape of its pixels, wide, narrow and square',
  async id => {
    for (const shape of [
      [64, 45],
      [10, 11],
      [2, 1],
      [1, 1]
    ] as [number, number][])
      expect(await shapeThrough(id, shape)).toBeCloseTo(shape[0] / shape[1], 5)
  }
)

test.each(written.filter(({ id }) => SILENT.includes(id)).map(({ id }) => id))(
  '%s has no place for it, and says that pixels are square',
  async id => expect(await shapeThrough(id, [64, 45])).toBe(1)
)

test('a PNG says it in pHYs, pixels to the unit, and a square one needs none', async () => {
  const frame = noise({ width: 4, height: 4, depth: 8 })
  const png = (pixelAspect: [number, number]): Promise<Uint8Array> =>
    formatById('png-sequence').encode(host, frame, deliverable(frame, 1, { pixelAspect }), null)
  const bytes = Buffer.from(await png([64, 45]))
  const at = bytes.indexOf('pHYs')
  expect(bytes.readUInt32BE(at - 4)).toBe(9)
  expect([bytes.readUInt32BE(at + 4), bytes.readUInt32BE(at + 8), bytes[at + 12]]).toEqual([45, 64, 0])
  expect(at).toBeLessThan(bytes.indexOf('IDAT'))
  expect(Buffer.from(await png([1, 1])).indexOf('pHYs')).toBe(-1)
})

test('a shape beyond all reason is taken as the nearest that can be written', () => {
  expect(nearestRate([1.4222222566604614, 1], 9999)).toEqual([64, 45])
})
