/** JPEG XL as it is written by one library and read by another. */
import { describe, expect, test } from 'vitest'
import { OPAQUE, STRAIGHT, type Frame } from '../../core/frame/frame'
import { openSource } from '../../core/open/open'
import { formatById } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { bytesFile, deliverable, firstDifference, noise, testHost } from './support'

const host = await testHost()
const format = formatById('jxl-sequence')

async function written(frame: Frame, options: Record<string, string | number>) {
  const bytes = await format.encode(host, frame, deliverable(frame, 1, { options }), null)
  const spec = specAsFound(`jxl ${Math.random()}`, 'wing', format.id, [bytesFile('wing.jxl', bytes)])
  const source = await openSource(spec, host)
  const found = await source.frame(0)
  await source.close()
  return { found, facts: source.facts, bytes }
}

describe.each([
  [61, 43],
  [1, 1],
  [8, 3]
])('%i x %i', (width, height) => {
  const frame = noise({ width, height, depth: 8, seed: 11 })

  test('lossless keeps every code, of colour under clear pixels too, and says that its alpha is straight', async () => {
    const { found, facts } = await written(frame, { coding: 'lossless' })
    expect([facts.claim.mode, found.depth]).toEqual(['straight', 8])
    expect(firstDifference(found.samples, frame.samples)).toBeNull()
  })

  test('a picture without alpha comes back solid', async () => {
    const solid = { ...frame, alpha: OPAQUE, samples: frame.samples.map((code, i) => (i % 4 === 3 ? 255 : code)) }
    const { found } = await written(solid, { coding: 'lossless' })
    expect(firstDifference(found.samples, solid.samples)).toBeNull()
  })
})

test('lossy is smaller where its quality is low, and alpha stays near', async () => {
  const [width, height] = [96, 54]
  const samples = Uint8Array.from({ length: 4 * width * height }, (_, i) => {
    const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)]
    return [2 * x, 92, 78 + ((x * y) % 23), Math.min(255, Math.max(0, 8 * (70 - x - 0.4 * y)))][i % 4]!
  })
  const frame: Frame = { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
  const sizes: number[] = []
  for (const quality of [30, 95]) {
    const { found, bytes } = await written(frame, { coding: 'lossy', quality })
    sizes.push(bytes.length)
    for (let i = 3; i < samples.length; i += 4) expect(Math.abs(found.samples[i]! - samples[i]!)).toBeLessThan(24)
  }
  expect(sizes[0]).toBeLessThan(sizes[1]!)
})
