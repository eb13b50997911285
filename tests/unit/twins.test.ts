/**
 * What Pour writes in AVI and MXF, read by other readers than its own: see `twins.ts`. No library on npm reads either.
 */
import { describe, expect, test } from 'vitest'
import { Decoder, Frame as TurboFrame } from 'turbores'
import { bitmap } from '../../core/media/codecs/uncompressed'
import { assembleAvi } from '../../core/media/containers/avi/write'
import { memorySink } from '../../core/base/files/sinks'
import { STRAIGHT } from '../../core/frame/frame'
import { decodeIndependently } from '../../core/media/pictures/png/independent'
import { samplesBefore, type SoundFeed, type SoundForm } from '../../core/source/sound'
import type { Rate } from '../../core/base/rate'
import { formatById } from '../../core/open/registry'
import { deliverable, noise, testHost, writeFilm } from './support'
import { twinAvi, twinMxf } from './twins'

const host = await testHost()
const COUNT = 31
const frames = Array.from({ length: COUNT }, (_, i) =>
  noise({ width: 48, height: 32, depth: 8, seed: i + 1, runs: 0.7 })
)

/** A sound whose every sample tells its own place. */
function counting(form: SoundForm): SoundFeed {
  let given = 0
  return {
    upTo(until) {
      const samples = Math.max(0, Math.min(until, form.samples) - given)
      if (samples === 0) return Promise.resolve([])
      const bytes = Buffer.alloc(4 * samples)
      for (let i = 0; i < samples; i++) bytes.writeUInt32LE((given + i) >>> 0, 4 * i)
      given += samples
      return Promise.resolve([{ bytes, samples }])
    },
    close: () => Promise.resolve()
  }
}

const soundOf = (rate: Rate): SoundForm => ({
  coding: 'pcm',
  from: 0,
  rate: 48000,
  channels: 2,
  bits: 16,
  samples: samplesBefore(COUNT, rate, 48000),
  lead: 0,
  stored: 0,
  config: new Uint8Array(0)
})

async function written(id: string, rate: Rate, withSound: boolean): Promise<Buffer> {
  const sink = memorySink()
  const format = formatById(id)
  const sound = withSound ? soundOf(rate) : null
  const shape = deliverable(frames[0]!, COUNT, { rate, sound, options: { timecode: '' } })
  const assembler = await format.assemble({ kind: 'film', sink }, shape, host, sound ? [counting(sound)] : [])
  for (const [i, frame] of frames.entries()) await assembler.add(i, await format.encode(host, frame, shape, null))
  await assembler.finish()
  const bytes = Buffer.from(sink.bytes())
  return bytes
}

const RATES: Rate[] = [
  [30000, 1001],
  [25, 1]
]

describe.each(RATES)('%i/%i', (...rate) => {
  test('AVI: pictures by its index, sound in one piece', async () => {
    const read = twinAvi(await written('avi-png', rate, true))
    expect(read).toMatchObject({ rate, width: 48, height: 32, code: 'MPNG' })
    expect(read.frames).toHaveLength(COUNT)
    for (const [i, frame] of frames.entries()) {
      const found = await decodeIndependently(host, read.frames[i]!, `frame ${i}`)
      expect(Buffer.compare(found.samples as Uint8Array, frame.samples as Uint8Array)).toBe(0)
    }
    const heard = read.sound!
    expect(heard.length).toBe(4 * samplesBefore(COUNT, rate, 48000))
    for (let i = 0; i < heard.length; i += 4) expect(heard.readUInt32LE(i)).toBe(i / 4)
  })

  test('MXF: each frame has its picture and the sound it is heard with', async () => {
    const read = twinMxf(await written('mxf-prores-4444', rate, true))
    expect(read).toMatchObject({ rate, duration: COUNT, coding: '060e2b340401010d0401020203060500' })
    expect(read.frames).toHaveLength(COUNT)
    read.sound.forEach((part, i) => {
      const [from, to] = [samplesBefore(i, rate, 48000), samplesBefore(i + 1, rate, 48000)]
      expect(part.length).toBe(4 * (to - from))
      expect(part.readUInt32LE(0)).toBe(from)
      expect(part.readUInt32LE(part.length - 4)).toBe(to - 1)
    })
    const decoder = await Decoder.create({ proresFourCc: 'ap4h', useSharedMemory: false, concurrency: 0 })
    if (decoder instanceof Error) throw decoder
    const target = new TurboFrame()
    for (const packet of read.frames) expect(await decoder.decode(packet, target)).not.toBeInstanceOf(Error)
    await decoder.close()
  })
})

test('MXF without sound, with a time code that drops frames', async () => {
  const bytes = await writeFilm('mxf-prores-4444-xq', frames.slice(0, 5), {
    rate: [30000, 1001],
    options: { timecode: '00:10:00;00' }
  })
  const read = twinMxf(Buffer.from(bytes))
  expect(read).toMatchObject({ duration: 5, coding: '060e2b340401010d0401020203060600', sound: [] })
  expect(read.timecode).toEqual({ start: 17982, base: 30 })
})

test('MXF of more frames than one index segment holds', async () => {
  const small = noise({ width: 16, height: 16, depth: 16, runs: 1 })
  const format = formatById('mxf-prores-4444')
  const count = 9001
  const shape = deliverable(small, count, { rate: [25, 1] })
  const sink = memorySink()
  const assembler = await format.assemble({ kind: 'film', sink }, shape, host)
  const packet = await format.encode(host, small, shape, null)
  for (let i = 0; i < count; i++) await assembler.add(i, packet)
  await assembler.finish()
  const read = twinMxf(Buffer.from(sink.bytes()))
  expect(read.duration).toBe(count)
  expect(read.frames.every(frame => frame.equals(packet))).toBe(true)
})

test('AVI in many RIFFs with sound: both indexes agree, nothing is missing', async () => {
  const sink = memorySink()
  const shape = deliverable(frames[0]!, COUNT)
  const sound = soundOf([25, 1])
  const muxer = await assembleAvi(
    sink,
    {
      entry: bitmap.coder!.entry(shape, 'avi'),
      width: 48,
      height: 32,
      frames: COUNT,
      rate: [25, 1],
      alpha: STRAIGHT,
      pixelAspect: [1, 1],
      fields: 'progressive',
      options: {},
      sounds: [sound],
      isKey: () => true
    },
    [counting(sound)],
    { first: 40_000, later: 25_000 }
  )
  for (const frame of frames)
    await muxer.add(await bitmap.coder!.encode(host, frame, shape, { before: null, container: 'avi' }))
  await muxer.finish()
  const read = twinAvi(Buffer.from(sink.bytes()))
  expect(read.frames).toHaveLength(COUNT)
  const heard = read.sound!
  expect(heard.length).toBe(4 * samplesBefore(COUNT, [25, 1], 48000))
  for (let i = 0; i < heard.length; i += 4) expect(heard.readUInt32LE(i)).toBe(i / 4)
})
