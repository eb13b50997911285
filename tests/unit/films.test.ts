/**
 * Films of every container and codec against files that other writers made: code for code where the coding is lossless.
 */
import { describe, expect, test } from 'vitest'
import { writtenSet } from '../../core/media/codecs/ffv1/config'
import { bitmap } from '../../core/media/codecs/uncompressed'
import { avi } from '../../core/media/containers/avi'
import { assembleAvi } from '../../core/media/containers/avi/write'
import type { MuxPlan } from '../../core/media/containers/container'
import { PourError } from '../../core/base/errors'
import { memoryReader } from '../../core/base/files/file'
import { memorySink } from '../../core/base/files/sinks'
import { recognise, writtenFormats } from '../../core/open/registry'
import { OPAQUE, STRAIGHT, type Frame } from '../../core/frame/frame'
import { plainKernels } from '../oracles/kernels'
import { DEFAULT_TRANSITIONS } from '../../core/frame/kernels/range-coder'
import { decodePngFile } from '../../core/media/pictures/png/file'
import type { Rate } from '../../core/base/rate'
import { openForProof, specAsFound } from '../../core/open/stored'
import { openSource } from '../../core/open/open'
import { bytesFile, deliverable, noise, random, testHost, vectorFile, writeFilm } from './support'

const host = await testHost()

/** The true frame `n`, from 1, as PNG has it. */
async function truth(name: string, n: number): Promise<Frame> {
  const file = await vectorFile(`truth/${name}.000${n}.png`)
  return decodePngFile(host, await host.openFile(file))
}

const LOSSLESS = [
  ['raw-bgra.avi', 'avi-raw', 'straight8'],
  ['raw-bgra-sound.avi', 'avi-raw', 'straight8'],
  ['png8.avi', 'avi-png', 'straight8'],
  ['ffv1-bgra.avi', 'avi-ffv1', 'straight8'],
  ['ffv1-bgra.mkv', 'matroska-ffv1', 'straight8'],
  ['ffv1-v3-range.mkv', 'matroska-ffv1', 'straight8'],
  ['ffv1-gbrap16.mkv', 'matroska-ffv1', 'straight16']
] as const

describe('films of other writers', () => {
  test.each(LOSSLESS)('%s is told from its bytes and read code for code', async (name, id, due) => {
    const file = await vectorFile(name)
    const reader = await host.openFile(file)
    const found = await recognise(reader)
    await reader.close()
    expect(found).toMatchObject({ kind: 'film', format: { id } })
    const source = await openSource(specAsFound(name, name, id, [file]), host)
    expect(source.facts).toMatchObject({ width: 96, height: 64, frames: 6, rate: [12, 1] })
    for (let n = 1; n <= 6; n++) {
      const expected = await truth(due, n)
      const frame = await source.frame(n - 1)
      expect([n, frame.depth]).toEqual([n, expected.depth])
      expect(
        Buffer.compare(Buffer.from(frame.samples.buffer), Buffer.from(expected.samples.buffer)),
        `frame ${n}`
      ).toBe(0)
    }
    await source.close()
  })
})

describe('codecs whose makers rounded alpha on the way', () => {
  // both files decode to the very same pixels, by two codecs that share no table: colour is the truth's, alpha within
  // one code of it
  test('the two lossless codecs that are only read agree with each other, and with the truth to a code of alpha', async () => {
    const read = async (name: string, id: string): Promise<Uint8Array[]> => {
      const file = await vectorFile(name)
      const source = await openSource(specAsFound(name, name, id, [file]), host)
      const frames: Uint8Array[] = []
      for (let n = 0; n < 6; n++) frames.push((await source.frame(n)).samples as Uint8Array)
      await source.close()
      return frames
    }
    const one = await read('utvideo-rgba.avi', 'avi-utvideo')
    const other = await read('magicyuv-rgba.avi', 'avi-magicyuv')
    for (const [n, samples] of one.entries()) {
      expect(Buffer.compare(samples, other[n]!)).toBe(0)
      const due = (await truth('straight8', n + 1)).samples
      let apart = 0
      for (let i = 0; i < due.length; i++) {
        const off = Math.abs(samples[i]! - due[i]!)
        if (off > (i % 4 === 3 ? 1 : 0)) apart++
      }
      expect(apart).toBe(0)
    }
  })
})

test('twelve bits are read exactly at twelve', async () => {
  const source = await openSource(
    specAsFound('twelve', 'twelve', 'matroska-ffv1', [await vectorFile('ffv1-gbrap12.mkv')]),
    host
  )
  const due = await truth('straight16', 1)
  const found = await source.frame(0)
  let most = 0
  for (let i = 0; i < due.samples.length; i++) most = Math.max(most, Math.abs(due.samples[i]! - found.samples[i]!))
  // half a code of twelve bits, in codes of sixteen
  expect(most).toBeLessThanOrEqual(16)
  await source.close()
})

/** Films that hold every code of what is poured into them. */
const EXACT = writtenFormats.filter(format => format.container && format.lossless)
const RATES: Rate[] = [
  [24000, 1001],
  [30000, 1001],
  [12, 1],
  [1000, 1001],
  [120, 1]
]

describe.each(EXACT.map(format => ({ id: format.id, format })))('$id', ({ id, format }) => {
  const cases = format.depths.flatMap(({ depth }) =>
    [STRAIGHT, OPAQUE].flatMap(alpha =>
      [
        [1, 1],
        [17, 33],
        [640, 3]
      ].map(([width, height]) => ({ depth, alpha, width: width!, height: height! }))
    )
  )
  test.each(cases)('$width x $height, $depth bits, $alpha.mode: every code comes back', async shape => {
    const frames = [1, 2, 3].map(seed => {
      const frame = noise({ ...shape, seed, runs: 0.5 })
      if (shape.alpha.mode === 'none')
        for (let i = 3; i < frame.samples.length; i += 4) frame.samples[i] = shape.depth === 8 ? 255 : 65535
      return frame
    })
    for (const rate of RATES.slice(0, shape.width === 17 ? RATES.length : 1)) {
      const bytes = await writeFilm(id, frames, { rate })
      const reader = memoryReader('film', bytes)
      expect((await recognise(reader))?.format.id).toBe(id)
      expect(await format.measure(reader)).toEqual({ width: shape.width, height: shape.height })
      const source = await openForProof(specAsFound('f', 'f', id, [bytesFile('film', bytes)]), host)
      expect(source.facts).toMatchObject({ width: shape.width, height: shape.height, frames: 3, rate })
      for (const [n, frame] of frames.entries()) {
        const found = await source.frame(n)
        expect(found.depth).toBe(frame.depth)
        expect(Buffer.compare(Buffer.from(found.samples.buffer), Buffer.from(frame.samples.buffer))).toBe(0)
      }
      await source.close()
    }
  })

  test('pixel shape and fields come back as they were', async () => {
    const frames = [noise({ width: 30, height: 20, depth: 8 })]
    for (const fields of ['progressive', 'top-first', 'bottom-first'] as const) {
      const bytes = await writeFilm(id, frames, { pixelAspect: [16, 11], fields })
      const source = await openForProof(specAsFound('f', 'f', id, [bytesFile('film', bytes)]), host)
      expect(source.facts.fields).toBe(fields)
      expect(source.facts.pixelAspect[0] / source.facts.pixelAspect[1]).toBeCloseTo(16 / 11, 6)
      await source.close()
    }
  })

  test('damage ends in one clear error, or in a picture', async () => {
    const whole = await writeFilm(
      id,
      [1, 2].map(seed => noise({ width: 23, height: 11, depth: 8, seed, runs: 0.7 }))
    )
    const next = random(7)
    for (let n = 0; n < 300; n++) {
      const bytes = n % 3 === 0 ? whole.slice(0, Math.floor(next() * whole.length)) : whole.slice()
      if (n % 3 !== 0)
        for (let k = 0; k <= n % 4; k++) bytes[Math.floor(next() * bytes.length)] = Math.floor(next() * 256)
      try {
        const source = await openSource(specAsFound(`d${n}`, 'd', id, [bytesFile('film', bytes)]), host)
        try {
          for (let i = 0; i < source.facts.frames && i < 4; i++) await source.frame(i)
        } finally {
          await source.close()
        }
      } catch (error) {
        expect(error).toBeInstanceOf(PourError)
        expect((error as PourError).message).toMatch(/^[^\n]{8,}$/)
      }
    }
  })
})

describe('FFV1 kernels', () => {
  test('both builds write the same bytes and read them back', async () => {
    for (const bits of [8, 16] as const)
      for (const planes of [3, 4] as const)
        for (let seed = 1; seed < 8; seed++) {
          const [width, height] = [1 + ((seed * 37) % 50), 1 + ((seed * 23) % 20)]
          const frame = noise({ width, height, depth: bits, seed, runs: seed / 8 })
          const samples = frame.samples as Uint8Array | Uint16Array
          if (planes === 3) for (let i = 3; i < samples.length; i += 4) samples[i] = 2 ** bits - 1
          const set = writtenSet()
          const tables = new Int16Array(3 * 1280)
          for (let s = 0; s < 3; s++) tables.set(set.tables, 1280 * s)
          const contexts = [set.contexts, set.contexts, set.contexts] as const
          const plan = { width, height, bits, planes, tables, contexts, transitions: DEFAULT_TRANSITIONS }
          const begun = () => ({ held: -1, run: 0, low: 0, range: 0xff00, out: [] })
          const fast = host.kernels.ffv1Encode(samples, width, begun(), plan)
          const plain = plainKernels.ffv1Encode(samples, width, begun(), plan)
          expect(Buffer.compare(fast, plain)).toBe(0)
          const start = { at: 2, low: (fast[0]! << 8) | fast[1]!, range: 0xff00 }
          const states = () => new Uint8Array(3 * set.contexts * 32).fill(128)
          // as the whole of a picture, and as a part of a wider one
          for (const kernels of [host.kernels, plainKernels])
            for (const [first, stride] of [
              [0, width],
              [3, width + 5]
            ] as const) {
              const room = new (bits === 8 ? Uint8Array : Uint16Array)(4 * (first + height * stride))
              const coded = { data: fast, start, states: states() }
              expect(kernels.ffv1Decode(coded, plan, { samples: room, first, stride })).toBe(true)
              const whole = room.slice()
              for (let y = 0; y < height; y++) {
                const row = samples.subarray(4 * y * width, 4 * (y + 1) * width)
                const at = 4 * (first + y * stride)
                expect(
                  Buffer.compare(Buffer.from(room.slice(at, at + 4 * width).buffer), Buffer.from(row.slice().buffer))
                ).toBe(0)
                whole.fill(0, at, at + 4 * width)
              }
              expect(whole.every(code => code === 0)).toBe(true)
            }
        }
  })

  test('a film of one slice a quarter megapixel has as many slices as it needs, and all come back', async () => {
    const frame = noise({ width: 1921, height: 300, depth: 8, runs: 0.9 })
    const bytes = await writeFilm('matroska-ffv1', [frame])
    const source = await openSource(specAsFound('big', 'big', 'matroska-ffv1', [bytesFile('big', bytes)]), host)
    expect(Buffer.compare((await source.frame(0)).samples as Uint8Array, frame.samples as Uint8Array)).toBe(0)
    await source.close()
  })
})

test('an AVI beyond its first RIFF goes on in others, and its indexes name every frame', async () => {
  const frames = Array.from({ length: 40 }, (_, i) => noise({ width: 32, height: 16, depth: 8, seed: i + 1 }))
  const sink = memorySink()
  const entry = bitmap.coder!.entry(deliverable(frames[0]!, 40), 'avi')
  const plan: MuxPlan = {
    entry,
    width: 32,
    height: 16,
    frames: 40,
    rate: [25, 1],
    alpha: STRAIGHT,
    pixelAspect: [1, 1],
    fields: 'progressive',
    options: {},
    sounds: [],
    isKey: () => true
  }
  const muxer = await assembleAvi(sink, plan, [], { first: 20_000, later: 9000 })
  for (const frame of frames)
    await muxer.add(await bitmap.coder!.encode(host, frame, deliverable(frame, 40), { before: null, container: 'avi' }))
  await muxer.finish()
  const bytes = sink.bytes()
  expect(Buffer.from(bytes).toString('latin1').split('AVIX').length).toBeGreaterThan(5)
  const source = await openSource(specAsFound('long', 'long', 'avi-raw', [bytesFile('long.avi', bytes)]), host)
  expect(source.facts.frames).toBe(40)
  for (const [n, frame] of frames.entries())
    expect(Buffer.compare((await source.frame(n)).samples as Uint8Array, frame.samples as Uint8Array)).toBe(0)
  await source.close()
})

describe('MXF', () => {
  test('ProRes of another writer is told from its label, and read as the same frames in QuickTime are', async () => {
    const file = await vectorFile('prores4444-a16.mxf')
    const reader = await host.openFile(file)
    expect((await recognise(reader))?.format.id).toBe('mxf-prores-4444')
    await reader.close()
    const source = await openSource(specAsFound('m', 'm', 'mxf-prores-4444', [file]), host)
    expect(source.facts).toMatchObject({
      width: 96,
      height: 64,
      frames: 6,
      rate: [25, 1],
      fields: 'progressive',
      sound: null
    })
    for (let n = 0; n < 6; n++) {
      const due = await truth('straight16', n + 1)
      const found = await source.frame(n)
      let most = 0
      for (let i = 3; i < due.samples.length; i += 4)
        most = Math.max(most, Math.abs(due.samples[i]! - found.samples[i]!))
      // its writer kept ten bits of alpha
      expect(most).toBeLessThanOrEqual(64)
    }
    await source.close()
  })

  test.each(RATES)('what Pour writes at %i/%i comes back with rate, time code and alpha', async (...rate) => {
    const frames = [1, 2, 3].map(seed => noise({ width: 48, height: 32, depth: 16, seed, runs: 0.9 }))
    const timecode = rate[0] / rate[1] > 100 ? '' : '00:00:10:00'
    const bytes = await writeFilm('mxf-prores-4444', frames, { rate, options: { timecode } })
    const again = await writeFilm('mxf-prores-4444', frames, { rate, options: { timecode } })
    expect(Buffer.compare(bytes, again)).toBe(0)
    const source = await openForProof(specAsFound('w', 'w', 'mxf-prores-4444', [bytesFile('w.mxf', bytes)]), host)
    expect(source.facts).toMatchObject({ frames: 3, rate, timecode: timecode || null })
    for (const [n, frame] of frames.entries()) {
      const found = await source.frame(n)
      for (let i = 3; i < frame.samples.length; i += 4) expect(found.samples[i]).toBe(frame.samples[i])
    }
    await source.close()
  })
})

test('an index that is named again and again takes no memory out of proportion to the file', async () => {
  const whole = Buffer.from(await writeFilm('avi-raw', [noise({ width: 8, height: 8, depth: 8 })]))
  // a super index of 400 names of one index of 4000 chunks, in a film of some 80 kB: 1.6 million chunks if it were
  // believed
  const index = Buffer.alloc(8 + 24 + 8 * 4000)
  index.write('ix00', 0, 'latin1')
  index.writeUInt32LE(index.length - 8, 4)
  index.writeUInt16LE(2, 8)
  index.writeUInt8(1, 11)
  index.writeUInt32LE(4000, 12)
  const names = Buffer.alloc(8 + 24 + 16 * 400)
  names.write('indx', 0, 'latin1')
  names.writeUInt32LE(names.length - 8, 4)
  names.writeUInt16LE(4, 8)
  names.writeUInt32LE(400, 12)
  const at = whole.indexOf('vprp')
  const bytes = Buffer.concat([whole.subarray(0, at), names, whole.subarray(at), index])
  for (const place of [4, 16, whole.lastIndexOf('strl', at) - 4])
    bytes.writeUInt32LE(bytes.readUInt32LE(place) + names.length, place)
  const place = bytes.length - index.length
  for (let i = 0; i < 400; i++) bytes.writeBigUInt64LE(BigInt(place), at + 32 + 16 * i)
  const reader = memoryReader('loop.avi', bytes)
  const film = await avi.demux(reader)
  expect(film.picture.packets.length).toBe(1)
})
