import { BufferSource, EncodedPacketSink, Input, WEBM } from 'mediabunny'
import { describe, expect, test } from 'vitest'
import type { MuxPlan } from '../../core/media/containers/container'
import { webm } from '../../core/media/containers/matroska/webm'
import { memoryReader } from '../../core/base/files/file'
import { memorySink, type ByteSink } from '../../core/base/files/sinks'
import { fromPlanes, i420Size, matrixFor, planesSize, toPlanes } from '../../core/media/codecs/vpx/planes'
import { formatById, recognise } from '../../core/open/registry'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { openForProof, specAsFound } from '../../core/open/stored'
import { bytesFile, deliverable, noise, testHost, truth, vectorFile, writeFilm } from './support'

const host = await testHost()

test('flat colours come back within two codes, alpha exactly, at odd sizes too', () => {
  for (const [height, name] of [
    [25, 'smpte170m'],
    [720, 'bt709']
  ] as const) {
    const matrix = matrixFor(height)
    expect(matrix.name).toBe(name)
    for (const colour of [
      [180, 60, 40],
      [30, 92, 140],
      [255, 255, 255],
      [0, 0, 0],
      [255, 0, 0],
      [12, 200, 90],
      [128, 128, 128]
    ]) {
      const [width, rows] = [33, 25]
      const rgba = new Uint8Array(width * rows * 4)
      for (let i = 0; i < rgba.length; i += 4) rgba.set([...colour, (i * 7) & 255 || 1], i)
      const planes = toPlanes(rgba, width, rows, matrix)
      const size = i420Size({ width, height: rows })
      expect(planes.length).toBe(size + width * rows)
      const back = fromPlanes(
        planes.subarray(0, size),
        planes.subarray(size),
        { width, height: rows },
        matrix,
        host.kernels
      )
      for (let i = 0; i < rgba.length; i++) {
        if (i % 4 === 3) expect(back[i]).toBe(rgba[i])
        else expect(Math.abs(back[i]! - rgba[i]!)).toBeLessThanOrEqual(2)
      }
    }
  }
})

test('with chroma of full size, every pixel keeps its own colour within two codes', () => {
  const [width, height] = [33, 25]
  const frame = noise({ width, height, depth: 8, seed: 3, runs: 0 })
  const rgba = (frame.samples as Uint8Array).map((code, i) => (i % 4 === 3 ? 255 : code))
  const matrix = matrixFor(height)
  const planes = toPlanes(rgba, width, height, matrix, '4:4:4')
  const size = planesSize({ width, height }, '4:4:4')
  expect(planes.length).toBe(size + width * height)
  const back = fromPlanes(planes.subarray(0, size), planes.subarray(size), { width, height }, matrix, host.kernels)
  for (let i = 0; i < rgba.length; i++) expect(Math.abs(back[i]! - rgba[i]!)).toBeLessThanOrEqual(2)
})

test('clear pixels beside others take their colour, so that no dark rim is coded', () => {
  const rgba = new Uint8Array(32 * 32 * 4)
  for (let y = 0; y < 32; y++) for (let x = 0; x < 10; x++) rgba.set([200, 100, 50, 255], 4 * (y * 32 + x))
  const planes = toPlanes(rgba, 32, 32)
  // the block that holds the edge is of one luma throughout, the block beyond it is black
  expect(planes[12]).toBe(planes[2])
  expect(planes[20]).toBe(16)
})

test('a named matrix is followed, whatever the size', () => {
  expect(matrixFor(100, 'bt709').name).toBe('bt709')
  expect(matrixFor(2000, 'bt470bg').name).toBe('smpte170m')
  expect(matrixFor(2000, null).name).toBe('bt709')
})

test('without a coder its films are not there, and that is said', async () => {
  const { video: _, ...bare } = host
  const frame = noise({ width: 16, height: 16, depth: 8 })
  await expect(formatById('webm-vp9').open('film', [await vectorFile('vp9-alpha.webm')], bare)).rejects.toMatchObject({
    kind: 'impossible'
  })
  await expect(
    formatById('webm-vp8').assemble({ kind: 'film', sink: {} as never }, deliverable(frame, 1, { rate: [25, 1] }), bare)
  ).rejects.toMatchObject({ kind: 'impossible' })
})

describe('as a container', () => {
  const FRAMES = 200
  const packet = (i: number): Uint8Array => Uint8Array.from({ length: 20_000 }, (_, n) => (n * 7 + i) & 255)
  const plan = (alpha: 'straight' | 'none' = 'straight'): MuxPlan => ({
    entry: { code: 'V_VP9', name: 'VP9', depth: 32, colour: [1, 1, 6] },
    width: 96,
    height: 64,
    frames: FRAMES,
    rate: [30000, 1001],
    alpha: { mode: alpha },
    pixelAspect: [64, 45],
    fields: 'progressive',
    options: {},
    sounds: [],
    isKey: () => false
  })
  async function write(sink: ByteSink, alpha: 'straight' | 'none' = 'straight'): Promise<void> {
    const muxer = await webm.mux(sink, plan(alpha), [])
    for (let i = 0; i < FRAMES; i++)
      await muxer.add(packet(i), {
        side: alpha === 'none' ? null : new Uint8Array(500).fill(i),
        key: i % 25 === 0
      })
    await muxer.finish()
  }

  test.each(['straight', 'none'] as const)(
    'a reader that is not ours finds packets, keys, times and what lies beside (%s)',
    async alpha => {
      const sink = memorySink()
      await write(sink, alpha)
      const input = new Input({ source: new BufferSource(sink.bytes()), formats: [WEBM] })
      const track = (await input.getPrimaryVideoTrack())!
      expect(await track.getCodec()).toBe('vp9')
      expect([await track.getCodedWidth(), await track.getCodedHeight()]).toEqual([96, 64])
      expect(await track.getColorSpace()).toMatchObject({ matrix: 'smpte170m', fullRange: false, primaries: 'bt709' })
      const packets = new EncodedPacketSink(track)
      let n = 0
      for await (const found of packets.packets()) {
        expect(found.type).toBe(n % 25 === 0 ? 'key' : 'delta')
        expect(Math.abs(found.timestamp - (n * 1001) / 30000)).toBeLessThan(0.00051)
        expect(Buffer.from(found.data).equals(packet(n))).toBe(true)
        expect(found.sideData.alpha ? [...found.sideData.alpha] : null).toEqual(
          alpha === 'none' ? null : Array<number>(500).fill(n)
        )
        n++
      }
      expect(n).toBe(FRAMES)
      // the index leads to frames that can be begun at
      const sought = await packets.getKeyPacket(3)
      expect(sought!.timestamp).toBeCloseTo((75 * 1001) / 30000, 2)
      input.dispose()
    }
  )

  test('our own reader finds the same, and the shape of its pixels', async () => {
    const sink = memorySink()
    await write(sink)
    const reader = memoryReader('a.webm', sink.bytes())
    const { picture } = await webm.demux(reader)
    expect(picture).toMatchObject({ kind: 'WebM', rate: [30000, 1001], pixelAspect: [64, 45], colour: [1, 1, 6] })
    expect(picture.claim(true).mode).toBe('straight')
    for (const [i, { offset, size, key, side }] of picture.packets.entries()) {
      expect(key).toBe(i % 25 === 0)
      expect(Buffer.from(await reader.read(offset, size)).equals(packet(i))).toBe(true)
      expect(new Set(await reader.read(side!.offset, side!.size))).toEqual(new Set([i]))
    }
  })

  test('it streams: no cluster waits for the end of the film', async () => {
    const sink = memorySink()
    const sizes: number[] = []
    await write({
      ...sink,
      append: bytes => {
        sizes.push(bytes.length)
        return sink.append(bytes)
      }
    })
    expect(sizes.length).toBeGreaterThan(FRAMES)
    expect(Math.max(...sizes)).toBeLessThan(30_000)
  })

  test('a sink that takes no more ends the film with its own error', async () => {
    const full = { ...memorySink(), append: () => Promise.reject(new Error('the disk is full')) }
    await expect(write(full)).rejects.toThrow('the disk is full')
  })
})

describe('on Node', () => {
  const clip = Array.from({ length: 5 }, (_, n) => {
    const [width, height] = [64, 48]
    const samples = new Uint8Array(4 * width * height)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const far = Math.hypot(x - 20 - 4 * n, y - 24)
        samples.set([200, 90, 40, Math.max(0, Math.min(255, Math.round((255 * (16 - far)) / 6)))], 4 * (y * width + x))
      }
    return { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' } satisfies Frame
  })

  test.each([
    ['webm-vp9', { chroma: '4:4:4', quality: 100, 'key-interval': 2 }, 0, 3],
    ['webm-vp9', { chroma: '4:2:0', quality: 100, 'key-interval': 60 }, 0, 20],
    ['webm-vp9', { chroma: '4:4:4', quality: 80, size: 20, 'key-interval': 60 }, 0, 60],
    ['webm-vp8', { quality: 90, 'key-interval': 60 }, 12, 40]
  ] as const)('%s %o is written and read back, frame by frame', async (id, options, alphaOff, colourOff) => {
    const bytes = await writeFilm(id, clip, { options, rate: [24000, 1001] })
    const source = await openForProof(specAsFound('w', 'w', id, [bytesFile('w.webm', bytes)]), host)
    expect(source.facts).toMatchObject({ frames: 5, rate: [24000, 1001], claim: { mode: 'straight' } })
    const shown: Buffer[] = []
    for (const [n, frame] of clip.entries()) {
      const found = await source.frame(n)
      shown.push(Buffer.from(found.samples as Uint8Array))
      let [alpha, colour] = [0, 0]
      for (let i = 0; i < frame.samples.length; i += 4) {
        alpha = Math.max(alpha, Math.abs(found.samples[i + 3]! - frame.samples[i + 3]!))
        if (frame.samples[i + 3]! > 200)
          for (let c = 0; c < 3; c++) colour = Math.max(colour, Math.abs(found.samples[i + c]! - frame.samples[i + c]!))
      }
      expect(alpha).toBeLessThanOrEqual(alphaOff)
      expect(colour).toBeLessThanOrEqual(colourOff)
    }
    // backwards and across key frames they are what they were in order
    for (const n of [3, 1, 4, 0]) expect(shown[n]!.equals((await source.frame(n)).samples as Uint8Array)).toBe(true)
    await source.close()
  })

  test.each(['vp9-alpha.webm', 'vp8-alpha.webm'])('%s, by another writer, is read with its alpha', async name => {
    const file = await vectorFile(name)
    const reader = await host.openFile(file)
    const { format } = (await recognise(reader))!
    await reader.close()
    const source = await openForProof(specAsFound(name, name, format.id, [file]), host)
    const due = await truth('straight8', 1)
    const found = await source.frame(0)
    let off = 0
    for (let i = 3; i < due.samples.length; i += 4) off += Math.abs(found.samples[i]! - due.samples[i]!)
    expect(off / (due.samples.length / 4)).toBeLessThan(6)
    await source.close()
  })
})
