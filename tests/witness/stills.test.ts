/** Still pictures of the stranger, and of the picture library, as Pour reads them. */
import sharp from 'sharp'
import { describe, expect, test } from 'vitest'
import { readJ2kInfo } from '../../core/media/pictures/jpeg2000/header'
import { recognise } from '../../core/open/registry'
import type { Frame } from '../../core/frame/frame'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { bytesFile, damage, survives, testHost } from '../unit/support'
import { pictureTrack, see, write } from './library'
import { clip } from './material'
import { rgbaOf } from './pixels'
import { planesFor } from './planes'

const host = await testHost()
let opened = 0

/** The picture of a file, of the format that its bytes show unless one is said. */
async function readByPour(name: string, bytes: Uint8Array, format?: string): Promise<Frame> {
  const file = bytesFile(name, bytes)
  const reader = await host.openFile(file)
  const id = format ?? (await recognise(reader))!.format.id
  await reader.close()
  const source = await openSource(specAsFound(`still ${opened++}`, name, id, [file]), host)
  const frame = await source.frame(0)
  await source.close()
  return frame
}

function worstOf(frame: Frame, due: ArrayLike<number>, scale: number): number {
  const most = frame.depth === 8 ? 255 : frame.depth === 16 ? 65535 : 1
  let worst = 0
  for (let i = 0; i < due.length; i++)
    worst = Math.max(worst, Math.abs(Math.min(1, Math.max(0, due[i]! / scale)) * most - frame.samples[i]!))
  return worst
}

/** A still picture of the stranger's: what it holds, and what its own decoder shows. */
function still(codec: string, layout: string, ending: string, options: Record<string, string | number> = {}) {
  const [width, height] = [61, 43]
  const name = `picture.${ending}`
  const bytes = write({
    container: 'image2',
    name,
    codec,
    layout,
    width,
    height,
    rate: [25, 1],
    pictures: [planesFor(clip(width, height)[0]!, layout)],
    codecOptions: options,
    containerOptions: { update: 1 }
  })
  const [seen] = pictureTrack(see(bytes, name, { strict: ending !== 'tif' })).pictures
  return { bytes, name, due: rgbaOf(seen!.planes, seen!, seen!.lies, { matrix: 'bt601' }) }
}

describe('pictures of the media library, code for code', () => {
  test.each([
    ['png', 'rgba', 'png'],
    ['png', 'rgba64be', 'png'],
    ['png', 'rgb48be', 'png'],
    ['png', 'ya8', 'png'],
    ['png', 'gray16be', 'png'],
    ['tiff', 'rgba', 'tif'],
    ['tiff', 'rgb24', 'tif'],
    ['tiff', 'rgba64le', 'tif'],
    ['tiff', 'gray8', 'tif'],
    ['tiff', 'gray16le', 'tif'],
    ['targa', 'bgra', 'tga'],
    ['targa', 'bgr24', 'tga'],
    ['targa', 'gray8', 'tga'],
    ['dpx', 'rgb24', 'dpx'],
    ['dpx', 'rgba', 'dpx'],
    ['dpx', 'abgr', 'dpx'],
    ['dpx', 'rgb48be', 'dpx'],
    ['dpx', 'rgb48le', 'dpx'],
    ['dpx', 'rgba64be', 'dpx'],
    ['dpx', 'gbrp10be', 'dpx'],
    ['dpx', 'gbrp12be', 'dpx'],
    ['dpx', 'gray8', 'dpx'],
    ['dpx', 'gray16be', 'dpx'],
    ['dpx', 'gray16le', 'dpx'],
    ['bmp', 'bgra', 'bmp'],
    ['bmp', 'bgr24', 'bmp'],
    ['qoi', 'rgba', 'qoi'],
    ['qoi', 'rgb24', 'qoi']
  ])('%s, %s', async (codec, layout, ending) => {
    const { bytes, name, due } = still(codec, layout, ending)
    expect(worstOf(await readByPour(name, bytes), due, 1)).toBeLessThanOrEqual(0.5001)
  })

  test.each(['raw', 'packbits', 'lzw', 'deflate'])('TIFF packed by %s', async compression_algo => {
    for (const layout of ['rgba', 'rgba64le', 'rgb24']) {
      const { bytes, name, due } = still('tiff', layout, 'tif', { compression_algo })
      expect(worstOf(await readByPour(name, bytes), due, 1)).toBe(0)
    }
  })
})

test.each([
  ['rgb24', 'jp2'],
  ['rgb48le', 'jp2'],
  ['gray8', 'jp2'],
  ['gray16le', 'jp2'],
  ['rgb24', 'j2k'],
  ['rgb48le', 'j2k']
])('JPEG 2000 without loss, %s in %s, at its depth', async (layout, ending) => {
  const { bytes, name, due } = still('jpeg2000', layout, ending, { pred: 'dwt53', format: ending })
  const frame = await readByPour(name, bytes)
  expect(frame.depth).toBe(/48|16/.test(layout) ? 16 : 8)
  expect(worstOf(frame, due, 1)).toBeLessThanOrEqual(0.5001)
})

test('a JPEG 2000 file says what it is by its first bytes', () => {
  const { bytes, name } = still('jpeg2000', 'rgb48le', 'jp2', { pred: 'dwt53', format: 'jp2' })
  expect(readJ2kInfo(bytes.subarray(0, 220), name, bytes.length)).toEqual(readJ2kInfo(bytes, name))
})

test.each(['rgba', 'ya8', 'rgba64le'])('JPEG 2000 with alpha, %s, is refused in words', async layout => {
  const { bytes, name } = still('jpeg2000', layout, 'jp2', { pred: 'dwt53', format: 'jp2' })
  await expect(readByPour(name, bytes)).rejects.toThrow(/the decoder at hand takes one or three/)
})

test('JPEG 2000 that is damaged ends in one clear error, and the next picture is read', async () => {
  const { bytes } = still('jpeg2000', 'rgb48le', 'jp2', { pred: 'dwt53', format: 'jp2' })
  let refused = 0
  for (let seed = 1; seed <= 60; seed++)
    if ((await survives(() => readByPour('damaged.jp2', damage(bytes, seed), 'jpeg2000-sequence'))) === 'refused')
      refused++
  expect(refused).toBeGreaterThan(15)
  await readByPour('whole.jp2', bytes)
})

test.each(['rgb24', 'rgba', 'rgb48le', 'rgba64le', 'gray16le'])(
  'JPEG XL without loss, %s, at its depth',
  async layout => {
    const { bytes, name, due } = still('libjxl', layout, 'jxl', { distance: 0 })
    const frame = await readByPour(name, bytes)
    expect(frame.depth).toBe(/48|64|16/.test(layout) ? 16 : 8)
    // colour under clear pixels is the coder's to drop
    for (let i = 0; i < due.length; i += 4)
      if (due[i + 3] === 0)
        for (let c = 0; c < 3; c++) due[i + c] = frame.samples[i + c]! / (frame.depth === 8 ? 255 : 65535)
    expect(worstOf(frame, due, 1)).toBeLessThanOrEqual(0.5001)
  }
)

describe('TIFF coded by JPEG', () => {
  const [width, height] = [150, 90]
  const picture = clip(width, height)[0]!
  const samples = (channels: number): Buffer =>
    Buffer.from(
      Array.from({ length: width * height * channels }, (_, i) =>
        Math.round(picture.samples[4 * Math.floor(i / channels) + (i % channels)]! / 257)
      )
    )
  test.each([
    [3, false],
    [3, true],
    [1, false],
    [1, true]
  ] as const)('%i channels, tiled %s', async (channels, tile) => {
    const bytes = await sharp(samples(channels), { raw: { width, height, channels } })
      .tiff({ compression: 'jpeg', quality: 90, tile, tileWidth: 64, tileHeight: 64 })
      .toBuffer()
    const due = await sharp(bytes).toColourspace('srgb').ensureAlpha().raw().toBuffer()
    // chroma may be brought to its full size by another filter
    const frame = await readByPour('scan.tif', bytes)
    let sum = 0
    for (let i = 0; i < due.length; i++) sum += Math.abs(due[i]! - frame.samples[i]!)
    expect(sum / due.length).toBeLessThan(0.5)
    expect([frame.width, frame.height, frame.samples[3]]).toEqual([width, height, 255])
  })
})
