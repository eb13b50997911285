/** VC-3: lines of macroblocks against their plain twin, headers, and frames that are damaged. */
import { describe, expect, test } from 'vitest'
import { readAll } from '../../core/base/files/file'
import { BOOKS } from '../../core/media/codecs/vc3/books'
import { tablesFor } from '../../core/media/codecs/vc3/codes'
import { readHeader } from '../../core/media/codecs/vc3/header'
import { KINDS } from '../../core/media/codecs/vc3/kinds'
import { openSource } from '../../core/open/open'
import { recognise } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import type { Vc3Planes } from '../../core/frame/kernels/coded'
import { plainKernels } from '../oracles/kernels'
import { inverse } from '../oracles/vc3'
import { bytesFile, damage, survives, testHost, vectorFile } from './support'

const host = await testHost()
const FILMS = ['vc3-hq.mov', 'vc3-444.mov'] as const
const WHERE = { file: 'plate.mov', place: 'frame 1' }

/** The first packet of a film: its header begins it. */
async function packetOf(name: string): Promise<Uint8Array> {
  const bytes = await readAll(await host.openFile(await vectorFile(name)))
  const at = bytes.findIndex((_, i) => [0, 0, 2, 0x80, 3].every((byte, n) => bytes[i + n] === byte))
  const second = bytes.findIndex(
    (_, i) => i > at + 0x280 && [0, 0, 2, 0x80, 3].every((byte, n) => bytes[i + n] === byte)
  )
  return bytes.slice(at, second)
}

describe('codes', () => {
  test.each(Object.keys(BOOKS) as (keyof typeof BOOKS)[])('those of the book "%s" fill their trees', name => {
    const { first, end, sizes, runs } = BOOKS[name]
    const kraft = (words: readonly string[]): number =>
      words.reduce((sum, word) => sum + 2 ** -parseInt(word[0]!, 36), 0)
    expect([kraft(first), kraft(runs), kraft([end, ...sizes.flat()])]).toEqual([1, 1, 1])
    expect(sizes.map(list => list.length)).toEqual([64, 64, 64, 64])
    expect(runs.length).toBe(62)
  })

  test('every kind has 64 weights of each, and its bits are those of its book', () => {
    for (const { id, luma, chroma, bits, book } of KINDS.values()) {
      expect([id, luma.length, chroma.length]).toEqual([id, 64, 64])
      expect(bits === 10).toBe(book.startsWith('ten'))
    }
  })

  test('the inverse transform of a first coefficient alone is flat, an eighth of it', () => {
    expect(inverse([80, ...new Array<number>(63).fill(0)]).every(value => Math.abs(value - 10) < 1e-9)).toBe(true)
  })
})

describe('frames', () => {
  test.each(FILMS)('%s: the kernel reads what its twin reads', async name => {
    const packet = await packetOf(name)
    const { kind, lines, bits, whole, width } = readHeader(packet, WHERE)
    const picture = {
      across: Math.ceil(width / 16),
      lines,
      bits,
      whole,
      more: bits === 8 ? 4 : 6,
      ...tablesFor(kind)
    }
    const [found, due] = [host.kernels, plainKernels].map(kernels => kernels.vc3Planes(packet, picture) as Vc3Planes)
    for (const [i, plane] of due!.planes.entries()) {
      expect(found!.planes[i]!.length).toBe(plane.length)
      let most = 0
      plane.forEach((code, at) => (most = Math.max(most, Math.abs(code - found!.planes[i]![at]!))))
      // real numbers of 32 bits and of 64 may fall to either side of a half
      expect(most).toBeLessThanOrEqual(1)
    }
  })

  test.each(FILMS)('%s is recognised, and its facts are told', async name => {
    const file = await vectorFile(name)
    const reader = await host.openFile(file)
    const { format } = (await recognise(reader))!
    await reader.close()
    expect(format.id).toBe('quicktime-vc3')
    expect(format.readOnly).toContain('without alpha')
    const source = await openSource(specAsFound(name, name, format.id, [file]), host)
    expect(source.facts).toMatchObject({ frames: 2, width: 256, height: 128, claim: { mode: 'none' } })
    expect(source.facts.kind).toMatch(
      name.includes('444') ? /kind 1270, RGB, 10 bits/ : /kind 1272, Y'CbCr 4:2:2, 8 bits/
    )
    expect((await source.frame(1)).alpha.mode).toBe('none')
    await source.close()
  })
})

describe('damage', () => {
  const saying = (packet: Uint8Array, at: number, ...bytes: number[]): Uint8Array => {
    const told = packet.slice()
    told.set(bytes, at)
    return told
  }

  test.each([
    [0x28, [0, 0, 4, 0xe8], /kind 1256, which is not read/],
    [5, [3], /fields are coded apart/],
    [6, [0xa0], /frames and fields in turn/],
    [7, [0xa1], /a plane of alpha, which is not read/],
    [0x21, [0x98], /more than 10 bits/],
    [0x21, [0x58], /10 bits, where its kind has 8/],
    [0x18, [0, 0], /no picture/],
    [0x16c, [0, 200], /200 lines of macroblocks for 128 lines/],
    [0x174, [0, 255, 0, 0], /line 2 of its macroblocks lies beyond/],
    [0, [9, 9, 9, 9], /not a frame of VC-3/]
  ] as const)('what byte %i says otherwise is told of', async (at, bytes, told) => {
    const packet = await packetOf('vc3-hq.mov')
    expect(() => readHeader(saying(packet, at, ...bytes), WHERE)).toThrow(told)
    expect(() => readHeader(saying(packet, at, ...bytes), WHERE)).toThrow(/plate\.mov, frame 1/)
  })

  test.each(FILMS)('%s: any damage ends in a picture or in one clear error', async name => {
    const bytes = await readAll(await host.openFile(await vectorFile(name)))
    let refused = 0
    for (let seed = 1; seed <= 80; seed++) {
      const file = bytesFile('v.mov', damage(bytes, seed))
      const ended = await survives(async () => {
        const source = await openSource(specAsFound(`${name} ${seed}`, 'v', 'quicktime-vc3', [file]), host)
        try {
          for (let n = 0; n < source.facts.frames; n++) await source.frame(n)
        } finally {
          await source.close()
        }
      })
      if (ended === 'refused') refused++
    }
    expect(refused).toBeGreaterThan(10)
  })
})
