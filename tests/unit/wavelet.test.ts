/** Wavelet films: bands and codes against their plain twin, frames by another writer, and frames that are damaged. */
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { OPAQUE, STRAIGHT, type Frame } from '../../core/frame/frame'
import type { WaveletCoded } from '../../core/frame/kernels/coded'
import { BAND_END, companded, LEVEL_CODES, ZERO_RUNS } from '../../core/frame/kernels/wavelet-codes'
import { readSample } from '../../core/media/codecs/wavelet/sample'
import { writeSample } from '../../core/media/codecs/wavelet/write'
import { openSource } from '../../core/open/open'
import { formatById, recognise } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { plainKernels } from '../oracles/kernels'
import { joined, parted } from '../oracles/wavelet'
import { bytesFile, damage, random, survives, testHost, truth, vectorFile, vectors, writeFilm } from './support'

const { kernels } = await testHost()
const host = await testHost()
const WHERE = { file: 'strap.mov', place: 'frame 1' }
const FINE = [16, 16, 8, 16, 16, 8, 24, 24, 36]

/** A strap with a translucent bar, a soft slanted end and grain, in codes of 16 bits. */
function strap(width: number, height: number, seed = 3): Uint16Array {
  const next = random(seed)
  const samples = new Uint16Array(4 * width * height)
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 4) {
      const bar = Math.min(1, Math.max(0, (0.8 * width - x - 0.4 * y) / 5))
      const alpha = y < height / 2 ? bar : 0.6 * bar
      samples.set(
        [226, 178 - x / 4, 66 + y].map(code => 257 * Math.max(0, code + 6 * next() - 3)),
        i
      )
      samples[i + 3] = Math.round(65535 * alpha)
    }
  return samples
}

const sampleOf = (coded: readonly WaveletCoded[], width: number, height: number): Uint8Array =>
  writeSample(coded, { width, height })

const straps = (width: number, height: number, count = 1): Frame[] =>
  Array.from({ length: count }, (_, n) => ({
    width,
    height,
    depth: 16,
    samples: strap(width, height, n + 1),
    alpha: STRAIGHT,
    transfer: 'srgb'
  }))

describe('codes', () => {
  test('they fill the whole tree, so that no bits stand for nothing', () => {
    const codes = [...LEVEL_CODES.flatMap(code => [code, code]).map(({ bits }) => bits + 1), BAND_END.bits]
    const kraft = [...codes, ...ZERO_RUNS.map(({ bits }) => bits)].reduce((sum, bits) => sum + 2 ** -bits, 0)
    expect(kraft).toBe(1)
    expect(LEVEL_CODES.length).toBe(255)
  })

  test('large sizes lie further apart where they are companded', () => {
    expect([1, 27, 28, 100, 255].map(companded)).toEqual([1, 27, 29, 145, 1014])
  })
})

describe('bands', () => {
  test('the transform gives back every value', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -8190, max: 16380 }), { minLength: 6, maxLength: 60 }), given => {
        const values = given.slice(0, 2 * Math.floor(given.length / 2))
        const { low, high } = parted(values)
        expect(joined(low, high)).toEqual(values)
      })
    )
  })

  test('the kernels read and write what their twin does, at any size and quantiser', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 12 }),
        fc.integer({ min: 1, max: 50 }),
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 9, maxLength: 9 }),
        fc.boolean(),
        fc.nat(),
        (eighth, height, quantisers, alpha, seed) => {
          const size = { width: 8 * eighth, height }
          const next = random(seed)
          const noisy = seed % 3 === 0
          const samples = noisy
            ? Uint16Array.from({ length: 4 * size.width * height }, () => 65536 * next())
            : strap(size.width, height, seed)
          const how = { colour: quantisers, alpha: alpha ? [...quantisers].reverse() : null, fill: false }
          const [ours, twins] = [
            kernels.waveletEncode(samples, size, how),
            plainKernels.waveletEncode(samples, size, how)
          ]
          const [a, b] = [ours, twins].map(coded => sampleOf(coded, size.width, height)) as [Uint8Array, Uint8Array]
          // what the codes are made of may differ in how runs of zeros are told, and in nothing else
          expect(a.length).toBeLessThanOrEqual(b.length)
          const [mine, its] = [readSample(a, WHERE), readSample(b, WHERE)]
          const due = plainKernels.waveletPlanes(b, its.planes, 12)
          expect(kernels.waveletPlanes(a, mine.planes, 12)).toEqual(due)
          expect(kernels.waveletPlanes(b, its.planes, 12)).toEqual(due)
          expect(kernels.waveletRgba(a, mine.planes, size)).toEqual(plainKernels.waveletRgba(b, its.planes, size))
        }
      ),
      { numRuns: 25 }
    )
  })

  test('what is coded finest differs by a few codes of twelve bits, flat alpha by none that eight bits have', () => {
    const size = { width: 96, height: 56 }
    const samples = strap(size.width, size.height)
    const coded = kernels.waveletEncode(samples, size, {
      colour: FINE.map(() => 2),
      alpha: FINE.map(() => 2),
      fill: false
    })
    const packet = sampleOf(coded, size.width, size.height)
    const found = kernels.waveletRgba(packet, readSample(packet, WHERE).planes, size) as Uint16Array
    let most = 0
    for (let i = 0; i < found.length; i++) most = Math.max(most, Math.abs(found[i]! - samples[i]!))
    expect(most / 16).toBeLessThan(12)
    for (const level of [0, 1, 128, 254, 255]) {
      const flat = samples.map((code, i) => (i % 4 === 3 ? 257 * level : code))
      const one = sampleOf(kernels.waveletEncode(flat, size, { colour: FINE, alpha: FINE, fill: false }), 96, 56)
      const back = kernels.waveletRgba(one, readSample(one, WHERE).planes, size) as Uint16Array
      for (let i = 3; i < back.length; i += 4) expect(Math.round(back[i]! / 257)).toBe(level)
    }
  })

  test('bands of large sizes take a larger quantiser, so that none is cut off', () => {
    const size = { width: 32, height: 32 }
    const board = Uint16Array.from({ length: 4 * 1024 }, (_, i) => (((i >> 2) + (i >> 7)) % 2 ? 65535 : 0))
    const coded = kernels.waveletEncode(board, size, { colour: FINE.map(() => 1), alpha: null, fill: false })
    expect(coded[0]!.bands.some(({ quantiser }) => quantiser > 1)).toBe(true)
    const packet = sampleOf(coded, 32, 32)
    const found = kernels.waveletRgba(packet, readSample(packet, WHERE).planes, size) as Uint16Array
    for (let i = 0; i < found.length; i++) if (i % 4 < 3) expect(Math.abs(found[i]! - board[i]!) / 16).toBeLessThan(24)
  })

  test('lines that are differences are summed, by the kernel as by its twin', () => {
    const size = { width: 64, height: 24 }
    const packet = sampleOf(
      kernels.waveletEncode(strap(64, 24), size, { colour: FINE, alpha: FINE, fill: false }),
      64,
      24
    )
    const { planes } = readSample(packet, WHERE)
    const summed = planes.map(plane => ({
      ...plane,
      bands: plane.bands.map((band, i) => ({ ...band, summed: i % 2 === 0, companded: i % 3 > 0 }))
    }))
    expect(kernels.waveletPlanes(packet, summed, 12)).toEqual(plainKernels.waveletPlanes(packet, summed, 12))
  })
})

describe('films', () => {
  test('cfhd.avi, by another writer, is read with its alpha', async () => {
    const file = await vectorFile('cfhd.avi')
    const reader = await host.openFile(file)
    const { format } = (await recognise(reader))!
    await reader.close()
    expect(format.id).toBe('avi-wavelet')
    const source = await openSource(specAsFound('cfhd', 'cfhd', format.id, [file]), host)
    expect([source.facts.frames, source.facts.bitDepth, source.facts.kind]).toEqual([
      6,
      16,
      expect.stringMatching(/wavelet film, RGB and alpha, 12 bits/)
    ])
    for (let n = 0; n < 6; n++) {
      const [found, due] = [(await source.frame(n)).samples, await truth('straight16', n + 1)]
      let [alpha, seen] = [0, 0]
      for (let i = 0; i < found.length; i += 4) {
        alpha += Math.abs(found[i + 3]! - due.samples[i + 3]!)
        for (let c = 0; c < 3; c++)
          seen += Math.abs(found[i + c]! * found[i + 3]! - due.samples[i + c]! * due.samples[i + 3]!) / 65535
      }
      // of 65535
      expect(alpha / (found.length / 4), `frame ${n + 1}`).toBeLessThan(60)
      expect(seen / (found.length / 4) / 3, `frame ${n + 1}`).toBeLessThan(200)
    }
    await source.close()
  })

  test('frames of another writer, without a container, say the same to kernel and twin', async () => {
    for (const n of [1, 6]) {
      const packet = new Uint8Array(await readFile(path.join(vectors, `cineform/pod.000${n}.cfhd`)))
      const { planes, colours, bits, width, shownHeight } = readSample(packet, WHERE)
      expect([colours, bits, width, shownHeight]).toEqual(['rgba', 12, 96, 64])
      const size = { width: 96, height: 64 }
      expect(kernels.waveletRgba(packet, planes, size)).toEqual(plainKernels.waveletRgba(packet, planes, size))
    }
  })

  test.each(['quicktime-wavelet', 'avi-wavelet', 'matroska-wavelet'])('%s keeps alpha or has none', async id => {
    for (const alpha of [STRAIGHT, OPAQUE]) {
      const frames = straps(104, 37, 3).map(frame => ({ ...frame, alpha }))
      const bytes = await writeFilm(id, frames)
      const source = await openSource(specAsFound(`${id} ${alpha.mode}`, id, id, [bytesFile('s', bytes)]), host)
      expect([source.facts.width, source.facts.height, source.facts.frames]).toEqual([104, 37, 3])
      expect(source.facts.claim.mode === 'none').toBe(alpha === OPAQUE)
      for (let n = 0; n < 3; n++) expect((await source.frame(n)).alpha.mode).toBe(alpha.mode)
      await source.close()
    }
  })

  test('clear pixels beside others take their colour first, where that is asked', async () => {
    const frames = straps(96, 48).map(frame => ({
      ...frame,
      samples: frame.samples.map((code, i) => (frame.samples[i | 3] ? code : 0)) as Uint16Array
    }))
    const rims: number[] = []
    for (const fill of [false, true]) {
      const bytes = await writeFilm('quicktime-wavelet', frames, { options: { step: 'light', fill } })
      const source = await openSource(
        specAsFound(`fill ${fill}`, 'f', 'quicktime-wavelet', [bytesFile('f.mov', bytes)]),
        host
      )
      const { samples } = await source.frame(0)
      let off = 0
      for (let i = 0; i < samples.length; i += 4) {
        const alpha = frames[0]!.samples[i + 3]!
        if (alpha > 0 && alpha < 30000) off += Math.abs(samples[i]! - frames[0]!.samples[i]!)
      }
      rims.push(off)
      await source.close()
    }
    expect(rims[1]).toBeLessThan(0.8 * rims[0]!)
  })

  test('widths that cannot be halved three times are refused in words, before anything is poured', () => {
    const { refusesClip } = formatById('quicktime-wavelet')
    const clip = (width: number) => refusesClip!({ width, height: 40, frames: 1, depth: 16, options: {} })
    expect([1920, 1080, 24].map(clip)).toEqual([null, null, null])
    expect(clip(1998)).toBe(
      'The width of a wavelet picture is a multiple of 8; 1998 is not. Make it 1992 or 2000 first.'
    )
    expect(clip(16)).toMatch(/at least 24 pixels wide/)
  })
})

describe('damage', () => {
  /** The pair of a tag in a packet with another value. */
  function saying(packet: Uint8Array, tag: number, value: number): Uint8Array {
    const told = packet.slice()
    const view = new DataView(told.buffer)
    for (let at = 0; at < 200; at += 4)
      if (Math.abs(view.getInt16(at)) === tag) {
        view.setUint16(at + 2, value)
        return told
      }
    // what is not said yet takes the place of the size that is told first
    view.setInt16(8, tag)
    view.setUint16(10, value)
    return told
  }

  const packet = sampleOf(
    kernels.waveletEncode(strap(64, 40), { width: 64, height: 40 }, { colour: FINE, alpha: FINE, fill: true }),
    64,
    40
  )

  test.each([
    [10, 2, /two frames are coded together/],
    [11, 2, /two frames are coded together/],
    [68, 0, /fields are coded apart/],
    [70, 8, /codes have 8 bits/],
    [84, 2, /colours are of kind 2/],
    [84, 3, /it has 4 of 3 channels/],
    [20, 4096, /do not fit a picture of 4096x40/],
    [21, 65535, /do not fit a picture of 64x65535/],
    [27, 65535, /ends within a low band/],
    [35, 8, /low band is of 8 bits/]
  ])('what pair %i says as %i is told of', (tag, value, told) => {
    expect(() => readSample(saying(packet, tag, value), WHERE)).toThrow(told)
    expect(() => readSample(saying(packet, tag, value), WHERE)).toThrow(/strap\.mov, frame 1/)
  })

  test('ways of coding that are not read are named', () => {
    const told = (tag: number, value: number): Uint8Array => {
      const other = packet.slice()
      const view = new DataView(other.buffer)
      for (let at = 0; at + 4 <= other.length; at += 4) if (view.getInt16(at) === tag) view.setUint16(at + 2, value)
      return other
    }
    expect(() => readSample(told(72, 0), WHERE)).toThrow(/by an older table/)
    expect(() => readSample(told(52, 1), WHERE)).toThrow(/coded in way 1/)
  })

  test('codes that break off, or say more than a band holds, are told with band and channel', async () => {
    const { planes } = readSample(packet, WHERE)
    const [plane] = planes
    const short = [{ ...plane!, bands: plane!.bands.map((band, i) => (i === 4 ? { ...band, bytes: 4 } : band)) }]
    expect(kernels.waveletPlanes(packet, short, 12)).toEqual({ channel: 0, band: 4 })
    expect(plainKernels.waveletPlanes(packet, short, 12)).toEqual({ channel: 0, band: 4 })
    const much = packet.slice()
    // a run of 320 zeros, again and again
    const { at, bytes } = planes[1]!.bands[0]!
    for (let bit = 0; bit < 8 * bytes; bit++) {
      const one = '1101110100101'[bit % 13] === '1'
      much[at + (bit >> 3)] = (much[at + (bit >> 3)]! & ~(128 >> (bit & 7))) | (one ? 128 >> (bit & 7) : 0)
    }
    expect(kernels.waveletPlanes(much, planes, 12)).toEqual({ channel: 1, band: 0 })
    expect(plainKernels.waveletPlanes(much, planes, 12)).toEqual({ channel: 1, band: 0 })
  })

  test('any damage ends in a picture or in one clear error', async () => {
    const bytes = await writeFilm('quicktime-wavelet', straps(64, 40, 3))
    let refused = 0
    for (let seed = 1; seed <= 150; seed++) {
      const file = bytesFile('w.mov', damage(bytes, seed))
      const ended = await survives(async () => {
        const source = await openSource(specAsFound(`damaged ${seed}`, 'w', 'quicktime-wavelet', [file]), host)
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
})
