/** VC-3: lines of macroblocks against their plain twin, headers, and frames that are damaged. */
import { describe, expect, test } from 'vitest'
import { readAll } from '../../core/base/files/file'
import { BOOKS } from '../../core/media/codecs/vc3/books'
import { codesFor, tablesFor } from '../../core/media/codecs/vc3/codes'
import { readHeader } from '../../core/media/codecs/vc3/header'
import { KINDS } from '../../core/media/codecs/vc3/kinds'
import { vc3 } from '../../core/media/codecs/vc3'
import { writtenOf } from '../../core/media/codecs/vc3/written'
import { OPAQUE } from '../../core/frame/frame'
import type { Vc3Coded, Vc3How } from '../../core/frame/kernels/coded'
import { openSource } from '../../core/open/open'
import { recognise } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import type { Kernels } from '../../core/frame/kernels/kernels'
import { plainKernels } from '../oracles/kernels'
import { inverse } from '../oracles/vc3'
import { bytesFile, damage, deliverable, noise, survives, testHost, vectorFile, writeFilm } from './support'

const host = await testHost()
const FILMS = ['vc3-hq.mov', 'vc3-444.mov'] as const
/** Luma's weights of BT.709. */
const BT = { kr: 0.2126, kb: 0.0722 }
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
    const { kind, lines, bits, whole, rgb, width } = readHeader(packet, WHERE)
    const luma = rgb ? null : BT
    const picture = {
      luma,
      across: Math.ceil(width / 16),
      lines,
      bits,
      whole,
      more: bits === 8 ? 4 : 6,
      ...tablesFor(kind)
    }
    const apart = (read: (kernels: Kernels) => object): number => {
      const [found, due] = [host.kernels, plainKernels].map(kernels => read(kernels) as Uint16Array)
      expect(found!.length).toBe(due!.length)
      return due!.reduce((most, code, at) => Math.max(most, Math.abs(code - found![at]!)), 0)
    }
    // real numbers of 32 bits and of 64 may fall to either side of a half: a code of each component
    const most = luma ? 1140 : 65
    expect(apart(kernels => kernels.vc3Rgba(packet, picture, { width: 250, height: 90 }))).toBeLessThan(most)
  })

  test.each(FILMS)('%s is recognised, and its facts are told', async name => {
    const file = await vectorFile(name)
    const reader = await host.openFile(file)
    const { format } = (await recognise(reader))!
    await reader.close()
    expect(format.id).toBe('quicktime-vc3')
    expect(format.alpha.straight).toMatchObject({ can: false, because: expect.stringContaining('has no alpha') })
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

describe('coding', () => {
  const howOf = (id: number, budget: number): Vc3How => {
    const kind = KINDS.get(id)!
    const whole = id === 1270
    const { weights } = tablesFor(kind)
    const more = kind.bits === 8 ? 4 : 6
    return { bits: kind.bits, whole, more, weights, codes: codesFor(kind), luma: whole ? null : BT, budget }
  }
  const readBack = ({ data, lines }: Vc3Coded, id: number, size: { width: number; height: number }): Uint16Array =>
    host.kernels.vc3Rgba(
      data,
      {
        ...howOf(id, 0),
        ...tablesFor(KINDS.get(id)!),
        across: Math.ceil(size.width / 16),
        lines: lines.map((at, i) => ({ at, bytes: (lines[i + 1] ?? data.length) - at }))
      },
      size
    ) as Uint16Array

  test.each([...KINDS.keys()].flatMap(id => [1500, 9000].map(budget => [id, budget] as const)))(
    'kind %i within %i bytes: the kernel keeps to its budget as its twin does',
    (id, budget) => {
      const [width, height] = [37, 21]
      const frame = noise({ width, height, depth: 16, seed: id, runs: 0.7 })
      const samples = frame.samples as Uint16Array
      const [ours, twin] = [host.kernels, plainKernels].map(kernels =>
        kernels.vc3Encode(samples, { width, height }, howOf(id, budget))
      )
      expect(ours!.data.length).toBeLessThanOrEqual(budget)
      // real numbers of 32 bits and of 64 may fall to either side of a half
      expect(Math.abs(ours!.quantiser - twin!.quantiser)).toBeLessThanOrEqual(1)
      expect(ours!.lines.length).toBe(2)
      const [a, b] = [readBack(ours!, id, { width, height }), readBack(twin!, id, { width, height })]
      // at one quantiser they differ by what is rounded the other way; at the next, by what noise is coarser by
      const apart = a.reduce((sum, code, i) => sum + Math.abs(code - b[i]!), 0) / a.length
      expect(apart).toBeLessThan(ours!.quantiser === twin!.quantiser ? 100 : 655)
    }
  )

  test('a flat picture comes back to the nearest code, and what does not fit is no picture', async () => {
    const flat = noise({ width: 64, height: 48, depth: 16, seed: 3 })
    for (let i = 0; i < flat.samples.length; i += 4) flat.samples.set([16384, 32768, 49152, 65535], i)
    const film = await writeFilm('quicktime-vc3', [{ ...flat, alpha: OPAQUE }], { options: { coding: 'rgb' } })
    const source = await openSource(specAsFound('flat', 'flat', 'quicktime-vc3', [bytesFile('flat.mov', film)]), host)
    const { samples } = await source.frame(0)
    await source.close()
    // half a step of ten bits
    expect(samples.every((code, i) => Math.abs(code - flat.samples[i]!) <= 32)).toBe(true)
    expect(host.kernels.vc3Encode(flat.samples as Uint16Array, flat, howOf(1270, 40))).toBe(null)
  })

  test('sizes beyond what codes hold are coded more coarsely, and lines below keep all of theirs', () => {
    const size = { width: 48, height: 64 }
    const { samples } = noise({ ...size, depth: 16, seed: 8 })
    const how = howOf(1270, 30000)
    // steps so fine that contrast goes beyond what a code can say
    const fine = { ...how, weights: how.weights.map(weight => weight / 16) }
    const [ours, twin] = [host.kernels, plainKernels].map(each => each.vc3Encode(samples as Uint16Array, size, fine))
    expect(twin!.quantiser).toBeGreaterThan(1)
    expect([ours!.quantiser, ours!.lines]).toEqual([twin!.quantiser, twin!.lines])
    expect(ours!.data.length).toBe(twin!.data.length)
  })

  test('frames are whole ones: a film of fields says so no more, and the rest of it is as it was', async () => {
    const frame = { ...noise({ width: 64, height: 48, depth: 16, seed: 4 }), alpha: OPAQUE }
    for (const id of ['quicktime-vc3', 'mxf-vc3']) {
      const film = await writeFilm(id, [frame], { fields: 'top-first', rate: [25, 1] })
      const source = await openSource(specAsFound(`fields ${id}`, 'f', id, [bytesFile('f', film)]), host)
      expect([source.facts.fields, source.facts.frames]).toEqual(['progressive', 1])
      await source.close()
    }
  })

  test.each([
    [1920, 1080, 'high-10', 1235, 917504],
    [1920, 1080, 'high', 1238, 917504],
    [1920, 1080, 'standard', 1237, 606208],
    [1920, 1080, 'light', 1253, 188416],
    [1920, 1080, 'rgb', 1270, 1835008],
    [1280, 720, 'high-10', 1250, 458752],
    [1280, 720, 'light', 1274, 86016],
    [1998, 1080, 'high-10', 1271, 958464],
    [4096, 2160, 'light', 1274, 798720],
    [1, 1, 'high', 1272, 8192]
  ])('%i x %i, %s: kind %i, frames of %i bytes', (width, height, coding, id, bytes) => {
    const { kind, frameBytes } = writtenOf({ width, height }, { coding })
    expect([kind.id, frameBytes]).toEqual([id, bytes])
  })

  test('HD is coded by the kinds of any size where that is asked', () => {
    const { kind, anySize } = writtenOf({ width: 1920, height: 1080 }, { coding: 'high-10', hd: false })
    expect([kind.id, anySize]).toEqual([1271, true])
  })

  test('frames of every size are as long as their kind has them, and say what they are', async () => {
    for (const [width, height] of [
      [1, 1],
      [17, 2],
      [250, 1100]
    ] as const) {
      const frame = { ...noise({ width, height, depth: 16, seed: 9, runs: 0.9 }), alpha: OPAQUE }
      const shape = deliverable(frame, 1, { options: { coding: 'high' } })
      const packet = await vc3.coder!.encode(host, frame, shape, { before: null, container: 'quicktime' })
      expect(packet.length).toBe(writtenOf(frame, shape.options).frameBytes)
      const header = readHeader(packet, WHERE)
      expect(header).toMatchObject({ width, height, bits: 8, whole: false, kind: { id: 1272 } })
      expect(new DataView(packet.buffer).getUint32(packet.length - 4)).toBe(0x600dc0de)
    }
  })
})
