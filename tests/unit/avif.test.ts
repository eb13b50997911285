/** AVIF stills as they are written, read back by a picture library that shares no code with Pour or its encoder. */
import sharp from 'sharp'
import { describe, expect, test } from 'vitest'
import { OPAQUE, STRAIGHT, type Frame } from '../../core/frame/frame'
import { openSource } from '../../core/open/open'
import { formatById } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { bytesFile, deliverable, testHost } from './support'

const host = await testHost()
const format = formatById('avif-sequence')

/** A strap with a slanted soft end over a clear ground, its colour a ramp with grain. */
function strap(width: number, height: number): Frame {
  const samples = new Uint8Array(4 * width * height)
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 4) {
      const alpha = Math.max(0, Math.min(1, (0.7 * width - x - 0.4 * y) / 9))
      if (alpha > 0) samples.set([(200 * x) / width, 92, 78 + ((x * y) % 23), 255 * alpha], i)
    }
  return { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

async function byLibrary(bytes: Uint8Array): Promise<Uint8Array> {
  return new Uint8Array(await sharp(bytes).ensureAlpha().raw().toBuffer())
}

describe.each([
  [64, 40],
  [37, 23],
  [2, 1]
])('%i x %i', (width, height) => {
  const frame = strap(width, height)
  const encode = (options: Record<string, string | number>, given = frame): Promise<Uint8Array> =>
    format.encode(host, given, deliverable(given, 1, { options }), null)

  test('lossless keeps every code of colour and alpha', async () => {
    expect(await byLibrary(await encode({ coding: 'lossless' }))).toEqual(frame.samples)
  })

  test.each([30, 70, 95])('quality %i keeps every code of alpha, and less of colour the lower it is', async quality => {
    const found = await byLibrary(await encode({ coding: 'lossy', quality }))
    let sum = 0
    for (let i = 0; i < found.length; i += 4) {
      expect(found[i + 3]).toBe(frame.samples[i + 3])
      if (found[i + 3]! > 128) for (let c = 0; c < 3; c++) sum += Math.abs(found[i + c]! - frame.samples[i + c]!)
    }
    expect(sum / found.length).toBeLessThan(quality < 50 ? 20 : 8)
  })

  test('what it says of itself is what was written', async () => {
    const solid = { ...frame, samples: frame.samples.map((code, i) => (i % 4 === 3 ? 255 : code)) }
    for (const given of [frame, { ...solid, alpha: OPAQUE }]) {
      const bytes = await encode({}, given)
      const spec = specAsFound(`avif ${width} ${given.alpha.mode}`, 'strap', 'avif-sequence', [
        bytesFile('a.avif', bytes)
      ])
      const source = await openSource(spec, host)
      expect([source.facts.width, source.facts.height, source.facts.claim.mode]).toEqual([
        width,
        height,
        given.alpha.mode
      ])
      await source.close()
    }
  })
})
