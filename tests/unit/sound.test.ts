/**
 * Sound beside pictures: read from every container, carried whole and trimmed, proven, and told where it is left out.
 */
import fc from 'fast-check'
import { ALL_FORMATS, BufferSource, EncodedPacketSink, Input } from 'mediabunny'
import { describe, expect, test } from 'vitest'
import { formatById, recognise, writtenFormats } from '../../core/open/registry'
import { memorySink } from '../../core/base/files/sinks'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { deliveredSpec } from '../../core/run/delivery/delivery'
import { pour } from '../../core/run/pour/pour'
import { newStep, preparedFacts } from '../../core/prepare/preparation'
import { stepKindById } from '../../core/prepare/kinds'
import { expectationOf } from '../../core/judge/proof/expectation'
import { prove } from '../../core/judge/proof/prove'
import type { ProofReport } from '../../core/judge/proof/report'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { soundTrackOf } from '../../core/open/sounding'
import type { SourceFacts, FilesSpec } from '../../core/source/source'
import { pcmOf } from '../../core/media/sound/feed'
import { carriedPcm } from '../../core/media/sound/pcm'
import { samplesBefore, soundForm } from '../../core/source/sound'
import { inlinePool } from '../../platform/node/pool'
import { bytesFile, testHost, vectorFile } from './support'

const host = await testHost()
const pool = inlinePool(host)

async function brought(name: string): Promise<{ spec: FilesSpec; facts: SourceFacts }> {
  const file = await vectorFile(name)
  const reader = await host.openFile(file)
  const { format } = (await recognise(reader))!
  await reader.close()
  const spec = specAsFound(name, name, format.id, [file])
  const source = await openSource(spec, host)
  await source.close()
  return { spec, facts: source.facts }
}

async function poured(
  name: string,
  format: string,
  more: Partial<Outlet> = {}
): Promise<{ bytes: Uint8Array<ArrayBuffer>; report: ProofReport; delivered: FilesSpec; facts: SourceFacts }> {
  const { spec, facts } = await brought(name)
  const outlet = { ...newOutlet('o', formatById(format)), ...more }
  const plan = planPour(facts, outlet, null)
  const [sink, key] = [memorySink(), plan.key && memorySink()]
  await pour({ source: spec, plan, target: { kind: 'film', sink, ...(key && { key }) } }, { host, pool })
  const bytes = sink.bytes()
  const files = [bytesFile(plan.fileName, bytes), ...(key ? [bytesFile(plan.key!.fileName, key.bytes())] : [])]
  const delivered = await deliveredSpec(plan, { id: `d ${name} ${format}`, name: plan.fileName, files }, host)
  const report = await prove(
    {
      reference: spec,
      frames: plan.frames,
      expected: expectationOf(plan, null),
      delivered: { ...delivered, interpretation: { ...delivered.interpretation, alpha: plan.due.alpha } }
    },
    { host, pool }
  )
  return { bytes, report, delivered, facts }
}

const reading = (report: ProofReport) => report.readings.find(r => r.id === 'sound')

/** All carried samples of a source's sound, from its first frame on. */
async function samplesOf(spec: FilesSpec): Promise<Uint8Array> {
  const found = (await soundTrackOf(spec, host))!
  const { facts, lead } = found.track
  const bytes = await pcmOf(found.reader, found.track, facts.channels!, { from: lead, samples: facts.samples! })
  await found.reader.close()
  return bytes
}

describe('what a source has', () => {
  test.each([
    ['rle32-sound.mov', { codec: 'PCM 16 bit', channels: 2, bits: 16, leftOut: null }],
    ['rle32-sound24.mov', { codec: 'PCM 24 bit', channels: 2, bits: 24, leftOut: null }],
    ['prores4444-aac.mov', { codec: 'AAC', channels: 2, coding: 'aac', leftOut: null }],
    ['raw-bgra-sound.avi', { codec: 'PCM 16 bit', channels: 2, bits: 16, leftOut: null }]
  ])('%s', async (name, sound) => {
    const { facts } = await brought(name)
    expect(facts.sound).toMatchObject(sound)
    expect(facts.sound!.samples! / facts.sound!.rate!).toBeCloseTo(0.5, 1)
  })

  test('the sound of two containers by one writer is the same, sample for sample', async () => {
    const [film, avi] = [
      await samplesOf((await brought('rle32-sound.mov')).spec),
      await samplesOf((await brought('raw-bgra-sound.avi')).spec)
    ]
    expect(film.length).toBe(avi.length)
    expect(Buffer.compare(film, avi)).toBe(0)
  })
})

const TAKES_PCM = writtenFormats.filter(format => format.sound?.includes('pcm'))

describe.each(['rle32-sound.mov', 'rle32-sound24.mov', 'raw-bgra-sound.avi'])(
  '%s into every film that takes PCM',
  name => {
    test.each(TAKES_PCM.map(format => ({ id: format.id })))('$id', async ({ id }) => {
      const { report, delivered, facts } = await poured(name, id)
      expect(reading(report)).toMatchObject({ state: 'good' })
      expect(reading(report)!.error).toContain('every sample is equal')
      const due = await samplesOf((await brought(name)).spec)
      const found = await samplesOf(delivered)
      expect(found.length).toBe(
        Math.min(due.length, samplesBefore(6, [12, 1], facts.sound!.rate!) * (due.length / facts.sound!.samples!))
      )
      expect(Buffer.compare(found, due.subarray(0, found.length))).toBe(0)
      expect(report.ledger.find(line => line.id === 'sound')).toMatchObject({ severity: 'none' })
    })
  }
)

describe('what others read', () => {
  test.each(['quicktime-png', 'matroska-ffv1'])(
    '%s: a library finds the same samples, beginning with the first frame',
    async id => {
      const { bytes, delivered } = await poured('rle32-sound.mov', id)
      const input = new Input({ source: new BufferSource(bytes), formats: ALL_FORMATS })
      const track = (await input.getPrimaryAudioTrack())!
      expect(await track.getSampleRate()).toBe(48000)
      expect(await track.getNumberOfChannels()).toBe(2)
      expect(await track.getFirstTimestamp()).toBeCloseTo(0, 5)
      const parts: Buffer[] = []
      for await (const packet of new EncodedPacketSink(track).packets()) parts.push(Buffer.from(packet.data))
      expect(Buffer.compare(Buffer.concat(parts), Buffer.from(await samplesOf(delivered)))).toBe(0)
      input.dispose()
    }
  )

  test.each(['quicktime-png', 'matroska-ffv1'])('%s: AAC goes along packet by packet', async id => {
    const { bytes, report } = await poured('prores4444-aac.mov', id)
    expect(reading(report)).toMatchObject({ state: 'good' })
    const given = new Input({
      source: new BufferSource(await new Response(await blobOf('prores4444-aac.mov')).arrayBuffer()),
      formats: ALL_FORMATS
    })
    const made = new Input({ source: new BufferSource(bytes), formats: ALL_FORMATS })
    const packets = async (input: Input): Promise<Buffer[]> => {
      const list: Buffer[] = []
      for await (const packet of new EncodedPacketSink((await input.getPrimaryAudioTrack())!).packets())
        list.push(Buffer.from(packet.data))
      return list
    }
    const [due, found] = [await packets(given), await packets(made)]
    expect(found.length).toBeGreaterThan(10)
    expect(found.every((packet, i) => packet.equals(due[i]!))).toBe(true)
    expect((await (await made.getPrimaryAudioTrack())!.getDecoderConfig())?.codec).toBe('mp4a.40.2')
    given.dispose()
    made.dispose()
  })
})

async function blobOf(name: string): Promise<Blob> {
  const reader = await host.openFile(await vectorFile(name))
  const bytes = await reader.read(0, reader.size)
  await reader.close()
  return new Blob([bytes as Uint8Array<ArrayBuffer>])
}

describe('cut, left out, and found wrong', () => {
  test('a range takes the samples that its frames last, to the sample', async () => {
    const { report, delivered, facts } = await poured('rle32-sound.mov', 'avi-raw', { range: { from: 3, to: 4 } })
    expect(reading(report)).toMatchObject({ state: 'good' })
    const rate = facts.sound!.rate!
    const [from, to] = [samplesBefore(2, [12, 1], rate), samplesBefore(4, [12, 1], rate)]
    const whole = await samplesOf((await brought('rle32-sound.mov')).spec)
    const found = await samplesOf(delivered)
    expect(found.length).toBe((to - from) * 4)
    expect(Buffer.compare(found, whole.subarray(from * 4, to * 4))).toBe(0)
  })

  test('AAC that is cut begins with the packet before, and the film says where hearing begins', async () => {
    const { report, delivered } = await poured('prores4444-aac.mov', 'quicktime-png', { range: { from: 4, to: 6 } })
    expect(reading(report)).toMatchObject({ state: 'good' })
    const found = (await soundTrackOf(delivered, host))!
    await found.reader.close()
    expect(found.track.lead).toBeGreaterThanOrEqual(1024)
  })

  test('none is none, and the ledger says whose choice it was', async () => {
    const { report, delivered } = await poured('rle32-sound.mov', 'quicktime-png', { sound: 'none' })
    expect(reading(report)).toBeUndefined()
    expect(await soundTrackOf(delivered, host)).toBeNull()
    expect(report.ledger.find(line => line.id === 'sound')!.sentence).toContain('the outlet asks for none')
  })

  test.each([
    ['reverse', {}, 'in another order'],
    ['play-rate', { rate: '24' }, 'another speed'],
    ['range', { from: 2, to: 5 }, null],
    ['drop-last', {}, null]
  ])('after the step %s', async (kind, settings, why) => {
    const { facts } = await brought('rle32-sound.mov')
    const prepared = preparedFacts(facts, [newStep('s', stepKindById(kind), settings)])
    if (why) expect(prepared.sound!.leftOut).toContain(why)
    else {
      expect(prepared.sound!.leftOut).toBeNull()
      expect(soundForm(prepared.sound!, prepared.rate!, 0, prepared.frames)!.from).toBe(
        kind === 'range' ? samplesBefore(1, [12, 1], 48000) : 0
      )
    }
  })

  test('one changed sample, a missing one and sound out of step are found', async () => {
    const { spec, facts } = await brought('rle32-sound.mov')
    const plan = planPour(facts, newOutlet('o', formatById('avi-raw')), null)
    const { bytes } = await poured('rle32-sound.mov', 'avi-raw')
    const at = Buffer.from(bytes).indexOf('01wb') + 8
    const wrong = bytes.slice()
    wrong[at + 1000] = wrong[at + 1000]! ^ 1
    const report = await prove(
      {
        reference: spec,
        frames: plan.frames,
        expected: expectationOf(plan, null),
        delivered: specAsFound('wrong', 'wrong', 'avi-raw', [bytesFile('wrong.avi', wrong)])
      },
      { host, pool }
    )
    expect(reading(report)).toMatchObject({ state: 'bad' })
    expect(report.findings.find(f => f.id === 'wrong-sound')!.sentence).toContain('1 samples differ')
    expect(report.verdict).toBe('broken')
  })
})

test('samples come out the same whatever order their bytes are stored in', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 0, maxLength: 60 }), fc.constantFrom(16, 24, 32), (bytes, bits) => {
      const width = bits / 8
      const whole = bytes.slice(0, bytes.length - (bytes.length % width))
      const turned = whole.slice()
      for (let i = 0; i < turned.length; i += width) turned.subarray(i, i + width).reverse()
      const layout = { bits: bits as 16, unsigned: false }
      expect(carriedPcm(turned, { ...layout, bigEndian: true })).toEqual(
        carriedPcm(whole, { ...layout, bigEndian: false })
      )
    })
  )
  expect([...carriedPcm(Uint8Array.of(0, 128, 255), { bits: 8, bigEndian: false, unsigned: true })]).toEqual([
    0, 128, 0, 0, 0, 127
  ])
})
