/** Texture films: blocks against their plain twin, packets by another writer, and packets that are damaged. */
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { TextureHow, TextureKind } from '../../core/frame/kernels/coded'
import type { FrameSize } from '../../core/frame/kernels/kernels'
import { textureBytes } from '../../core/frame/kernels/wasm-texture'
import type { Frame } from '../../core/frame/frame'
import { textureScaled } from '../../core/media/codecs/texture'
import { readTextures, writeTextures } from '../../core/media/codecs/texture/sections'
import { openSource } from '../../core/open/open'
import { formatById, recognise } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { textureDecode, textureEncode } from '../oracles/texture'
import { bytesFile, damage, random, survives, testHost, truth, vectorFile, vectors, writeFilm } from './support'

const host = await testHost()
const KINDS: readonly TextureKind[] = ['colour', 'colour-alpha', 'alpha', 'scaled', 'grey']
const WRITTEN: readonly TextureHow['kind'][] = ['colour', 'colour-alpha', 'alpha', 'scaled']

/** A strap of two colours with a soft slanted end and a soft shadow, its clear pixels black. */
function strap({ width, height }: FrameSize): Uint8Array {
  const pixels = new Uint8Array(4 * width * height)
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 4) {
      const bar = Math.min(1, Math.max(0, (0.7 * width - x - 0.4 * y) / 3))
      const shade = 0.5 * Math.min(1, Math.max(0, (0.8 * width - x - 0.4 * y) / 12))
      const alpha = bar + shade * (1 - bar)
      if (alpha < 1 / 510) continue
      const top = y < height / 2 ? [226, 178, 66] : [23, 92, 78 + (60 * x) / width]
      for (let c = 0; c < 3; c++) pixels[i + c] = Math.round((top[c]! * bar) / alpha)
      pixels[i + 3] = Math.round(255 * alpha)
    }
  return pixels
}

/** Squares of what is seen to be missed over black and over white, a pixel and channel in the mean. */
function missed(found: Uint8Array, due: Uint8Array): number {
  let sum = 0
  for (let i = 0; i < due.length; i += 4)
    for (const back of [0, 255])
      for (let c = 0; c < 3; c++) {
        const over = (rgba: Uint8Array): number => (rgba[i + c]! * rgba[i + 3]! + back * (255 - rgba[i + 3]!)) / 255
        sum += (over(found) - over(due)) ** 2
      }
  return sum / (due.length / 4) / 6
}

const shownOf = (blocks: Uint8Array, size: FrameSize, kind: TextureKind, pixels: Uint8Array): Uint8Array =>
  host.kernels.textureDecode(blocks, size, kind, kind === 'alpha' ? pixels : undefined)

describe('blocks', () => {
  test.each(KINDS)('%s: any bytes stand for what their twin says, in pictures of any size', kind => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 23 }),
        fc.integer({ min: 1, max: 19 }),
        fc.integer(),
        (width, height, seed) => {
          const next = random(seed)
          const bytes = (count: number): Uint8Array => Uint8Array.from({ length: count }, () => 256 * next())
          const size = { width, height }
          const blocks = bytes(textureBytes(size, kind))
          const onto = kind === 'alpha' ? bytes(4 * width * height) : undefined
          const [found, due] = [
            host.kernels.textureDecode(blocks, size, kind, onto),
            textureDecode(blocks, size, kind, onto)
          ]
          // thirds and sevenths that lie in the middle between two codes may fall to either
          expect(Math.max(...found.map((value, i) => Math.abs(value - due[i]!)))).toBeLessThanOrEqual(1)
          if (kind === 'colour-alpha' || kind === 'alpha')
            for (let i = 3; i < due.length; i += 4) expect(Math.abs(found[i]! - due[i]!)).toBeLessThanOrEqual(1)
        }
      ),
      { numRuns: 60 }
    )
  })

  test('one colour and one alpha, and clear beside solid, come back as near as their bits allow', () => {
    fc.assert(
      fc.property(fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255), fc.nat(255)), fc.nat(2), (colour, effort) => {
        const size = { width: 9, height: 5 }
        const pixels = Uint8Array.from({ length: 4 * 45 }, (_, i) => colour[i % 4]!)
        const how = { effort: effort as 0 | 1 | 2, byAlpha: false }
        const blocks = host.kernels.textureEncode(pixels, size, { ...how, kind: 'colour-alpha' })
        const found = host.kernels.textureDecode(blocks, size, 'colour-alpha')
        for (let i = 0; i < found.length; i += 4) {
          expect(found[i + 3]).toBe(colour[3])
          for (let c = 0; c < 3; c++) expect(Math.abs(found[i + c]! - colour[c]!)).toBeLessThanOrEqual(c === 1 ? 2 : 4)
        }
      })
    )
    const half = Uint8Array.from({ length: 64 }, (_, i) => (i % 4 === 3 ? (i < 32 ? 0 : 255) : 90))
    const blocks = host.kernels.textureEncode(
      half,
      { width: 4, height: 4 },
      { kind: 'alpha', effort: 0, byAlpha: true }
    )
    const found = host.kernels.textureDecode(blocks, { width: 4, height: 4 }, 'alpha', half)
    expect(found).toEqual(half)
  })

  test.each(WRITTEN)('%s: more effort misses no more, and the finest about as little as trying every pair', kind => {
    const size = { width: 122, height: 54 }
    const pixels = strap(size)
    const due = kind === 'colour-alpha' || kind === 'alpha' ? pixels : pixels.map((v, i) => (i % 4 === 3 ? 255 : v))
    const how = { kind, byAlpha: kind === 'colour-alpha' || kind === 'alpha' }
    const byEffort = ([0, 1, 2] as const).map(effort =>
      missed(shownOf(host.kernels.textureEncode(due, size, { ...how, effort }), size, kind, due), due)
    )
    const tried = missed(shownOf(textureEncode(due, size, { ...how, effort: 2 }), size, kind, due), due)
    const [fast, fair, fine] = byEffort as [number, number, number]
    const told = `${kind}: fast ${fast}, fair ${fair}, fine ${fine}, tried ${tried}`
    expect(fair, told).toBeLessThanOrEqual(fast + 0.05)
    expect(fine, told).toBeLessThanOrEqual(fair + 1e-9)
    expect(fine, told).toBeLessThanOrEqual(1.05 * tried + 0.05)
    expect(fast, told).toBeLessThan(kind === 'scaled' ? 12 : 30)
  })
})

describe('films', () => {
  test.each(['hap-alpha.mov', 'hap-alpha-chunks.mov'])('%s, by another writer, is read with its alpha', async name => {
    const file = await vectorFile(name)
    const reader = await host.openFile(file)
    const { format } = (await recognise(reader))!
    await reader.close()
    expect(format.id).toBe('quicktime-texture')
    const source = await openSource(specAsFound(name, name, format.id, [file]), host)
    expect([source.facts.frames, source.facts.bitDepth]).toEqual([6, 8])
    for (let n = 0; n < 6; n++) {
      const [found, due] = [(await source.frame(n)).samples as Uint8Array, await truth('straight8', n + 1)]
      expect(missed(found, due.samples as Uint8Array), `frame ${n + 1}`).toBeLessThan(20)
      let alpha = 0
      for (let i = 3; i < found.length; i += 4) alpha += Math.abs(found[i]! - due.samples[i]!)
      expect(alpha / (found.length / 4), `frame ${n + 1}`).toBeLessThan(1)
    }
    await source.close()
  })

  test('parts and effort change how it is packed, not what it shows', async () => {
    const size = { width: 61, height: 34 }
    const blocks = host.kernels.textureEncode(strap(size), size, { kind: 'colour-alpha', effort: 1, byAlpha: true })
    const where = { file: 'moth.mov', place: 'frame 1' }
    for (const parts of [1, 2, 5, 64]) {
      const packet = writeTextures([{ holds: 0xe, blocks }], parts, () => 16)
      expect(readTextures(packet, () => blocks.length, where)).toEqual([{ holds: 0xe, blocks }])
    }
    const both = writeTextures(
      [
        { holds: 0xf, blocks },
        { holds: 1, blocks: blocks.slice(8) }
      ],
      3,
      () => 8
    )
    const found = readTextures(both, holds => (holds === 1 ? blocks.length - 8 : blocks.length), where)
    expect(found.map(({ holds, blocks: { length } }) => [holds, length])).toEqual([
      [0xf, blocks.length],
      [1, blocks.length - 8]
    ])
  })

  test('what is damaged ends in one clear error', async () => {
    const bytes = new Uint8Array(await readFile(path.join(vectors, 'hap-alpha-chunks.mov')))
    let refused = 0
    for (let seed = 1; seed <= 120; seed++) {
      const file = bytesFile('hap.mov', damage(bytes, seed))
      const ended = await survives(async () => {
        const source = await openSource(specAsFound(`damaged ${seed}`, 'hap', 'quicktime-texture', [file]), host)
        try {
          for (let n = 0; n < source.facts.frames; n++) await source.frame(n)
        } finally {
          await source.close()
        }
      })
      if (ended === 'refused') refused++
    }
    expect(refused).toBeGreaterThan(30)
  })

  test('a few bytes that claim a great deal are refused before memory is taken', async () => {
    const where = { file: 'bomb.mov', place: 'frame 1' }
    const read = (...bytes: number[]) => readTextures(Uint8Array.from(bytes), () => 1024, where)
    // packed bytes that say they come to four gigabytes, and parts that do
    expect(() => read(6, 0, 0, 0xbe, 0xff, 0xff, 0xff, 0xff, 0x0f, 0)).toThrow(/bomb.mov, frame 1/)
    const told = [1, 0, 0, 2, 0x0b, 4, 0, 0, 3, 5, 0, 0, 0]
    const parts = [told.length, 0, 0, 1, ...told, 0xff, 0xff, 0xff, 0xff, 0x0f]
    expect(() => read(parts.length, 0, 0, 0xce, ...parts)).toThrow(/come to 4294967295 bytes instead of 1024/)
    expect(() => read(0, 0, 0, 0xae, 0xff, 0xff, 0xff, 0xff)).toThrow(/the film was cut short/)
    expect(() => read(4, 0, 0, 0xac, 1, 2, 3, 4)).toThrow(/bytes instead of 1024/)
  })

  test('textures that make no picture together are told of, and alpha alone is a grey picture', async () => {
    const size = { width: 8, height: 8 }
    const bytes = (kind: TextureHow['kind']): Uint8Array =>
      host.kernels.textureEncode(strap(size), size, { kind, effort: 0, byAlpha: true })
    const film = async (...textures: { holds: number; blocks: Uint8Array }[]): Promise<Frame> => {
      const packet = writeTextures(textures, 1, holds => (holds === 1 ? 8 : 16))
      const track = { width: 8, height: 8, packets: [{ offset: 0, size: packet.length, key: true }] }
      const packets = { file: 'odd.mov', track, data: () => Promise.resolve(packet), side: () => Promise.resolve(null) }
      return (await textureScaled.decoder(packets as never, host)).frame(0)
    }
    const [both, alpha] = [bytes('colour-alpha'), bytes('alpha')]
    await expect(film({ holds: 0xe, blocks: both }, { holds: 0xe, blocks: both })).rejects.toThrow(/make no picture/)
    await expect(film({ holds: 1, blocks: alpha }, { holds: 1, blocks: alpha })).rejects.toThrow(/make no picture/)
    const grey = await film({ holds: 1, blocks: alpha })
    const due = host.kernels.textureDecode(alpha, size, 'alpha', new Uint8Array(256))
    expect(grey.alpha.mode).toBe('none')
    for (let i = 0; i < due.length; i += 4) expect([grey.samples[i], grey.samples[i + 3]]).toEqual([due[i + 3], 255])
  })

  test('blocks of kinds that are not read are named', async () => {
    const film = await writeFilm('quicktime-texture', [
      {
        width: 8,
        height: 8,
        depth: 8,
        samples: strap({ width: 8, height: 8 }),
        alpha: { mode: 'straight' },
        transfer: 'srgb'
      }
    ])
    const { open } = formatById('quicktime-texture')
    const at = film.findIndex(
      (byte, i) => (byte & 15) === 0xe && [0xa, 0xb, 0xc].includes(byte >> 4) && film[i - 1] === 0
    )
    const other = film.slice()
    other[at] = (other[at]! & 0xf0) | 0xc
    await expect(open('x', [bytesFile('bc7.mov', other)], host)).rejects.toThrow(/BC7, which is not read/)
  })
})
