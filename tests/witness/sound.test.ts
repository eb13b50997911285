/**
 * Sound from the stranger's films through Pour into films that the stranger hears: every sample where it belongs beside
 * the pictures, track by track.
 */
import { describe, expect, test } from 'vitest'
import { recognise, writtenFormats } from '../../core/open/registry'
import { newOutlet } from '../../core/job/outlet/outlet'
import { specAsFound } from '../../core/open/stored'
import type { SourceSpec } from '../../core/source/source'
import { bytesFile, random, testHost } from '../unit/support'
import { pictureTrack, see, write, type Seen, type Written, type WrittenSound } from './library'
import { clip } from './material'
import { planesFor } from './planes'
import { poured, type Poured } from './pour-all'

const host = await testHost()
const RATE = [25, 1] as const
const FRAMES = 24
let opened = 0

/** Noise over a sweep, so that no stretch is like another. */
function tone(rate: number, channels: number, seconds: number, seed: number): Float64Array {
  const next = random(seed)
  return Float64Array.from({ length: Math.round(rate * seconds) * channels }, (_, i) => {
    const t = Math.floor(i / channels) / rate
    return 0.5 * Math.sin(2 * Math.PI * (200 + 900 * t) * t) + 0.3 * (next() - 0.5)
  })
}

interface Kind {
  codec: string
  format: WrittenSound['format']
  rate: number
  channels: 1 | 2
  bits: number
}

const PCM16: Kind = { codec: 'pcm_s16le', format: 's16', rate: 48000, channels: 2, bits: 16 }
const AAC: Kind = { codec: 'aac', format: 'fltp', rate: 48000, channels: 2, bits: 0 }

const soundOf = (kind: Kind, more: Partial<WrittenSound> = {}, seed = 1): WrittenSound => ({
  codec: kind.codec,
  format: kind.format,
  rate: kind.rate,
  channels: kind.channels,
  samples: tone(kind.rate, kind.channels, 1.2, seed),
  ...more
})

const ENDINGS: Record<string, string> = { mov: 'mov', matroska: 'mkv', avi: 'avi' }

function filmWith(container: string, sounds: WrittenSound[], more: Partial<Written> = {}): Buffer {
  const pictures = clip(32, 24)
  return write({
    container,
    name: `film.${ENDINGS[container]}`,
    codec: 'png',
    layout: 'rgba',
    width: 32,
    height: 24,
    rate: [...RATE],
    pictures: Array.from({ length: FRAMES }, (_, n) => planesFor(pictures[n % pictures.length]!, 'rgba')),
    sounds,
    ...more
  })
}

async function sourceFrom(bytes: Uint8Array, name: string): Promise<SourceSpec> {
  const file = bytesFile(name, bytes)
  const reader = await host.openFile(file)
  const found = await recognise(reader)
  await reader.close()
  return specAsFound(`sound ${opened++}`, name, found!.format.id, [file])
}

async function through(source: SourceSpec, id: string): Promise<{ delivery: Poured; seen: Seen }> {
  const delivery = await poured(
    source,
    newOutlet(
      'o',
      writtenFormats.find(format => format.id === id)!
    )
  )
  const [file] = delivery.files
  return { delivery, seen: see(file!.bytes, file!.name.replace(/[^\w.]/g, '_')) }
}

/** What is heard from the first picture on, at each of `count` samples: silence where nothing plays. */
function heard(seen: Seen, place: number, count: number): Float64Array {
  const sounds = seen.tracks.filter(({ kind }) => kind === 'sound')
  const { sound } = sounds[place]!
  const picture = pictureTrack(seen)
  const begin = (picture.pictures[0]!.at * picture.timeBase[0] * sound!.rate) / picture.timeBase[1]
  const out = new Float64Array(count * sound!.channels)
  for (let s = 0; s < count; s++)
    for (let c = 0; c < sound!.channels; c++) {
      const from = Math.round(s + begin - sound!.at)
      const value = from >= 0 ? sound!.samples[from * sound!.channels + c] : 0
      out[s * sound!.channels + c] = value ?? 0
    }
  return out
}

function firstApart(found: Float64Array, due: Float64Array, most: number): string | null {
  for (let i = 0; i < due.length; i++)
    if (Math.abs(found[i]! - due[i]!) > most) return `value ${i} is ${found[i]} instead of ${due[i]}`
  return null
}

const FILMS = ['quicktime-png', 'quicktime-ffv1', 'matroska-ffv1', 'avi-png', 'mxf-prores-4444'] as const
const TAKES_FLOATS = new Set(['quicktime-png', 'quicktime-ffv1', 'matroska-ffv1', 'avi-png'])
const TAKES_AAC = new Set(['quicktime-png', 'quicktime-ffv1', 'matroska-ffv1'])

describe.each(FILMS)('%s', id => {
  test.each([
    PCM16,
    { ...PCM16, channels: 1, rate: 44100 },
    { ...PCM16, codec: 'pcm_s24le', format: 's32', bits: 24 },
    { ...PCM16, codec: 'pcm_s24le', format: 's32', bits: 24, rate: 96000 },
    { ...PCM16, codec: 'pcm_s32le', format: 's32', bits: 32 },
    { ...PCM16, rate: 192000 },
    { ...PCM16, codec: 'pcm_f32le', format: 'flt', bits: 32 }
  ] as Kind[])('$codec, $rate Hz, $channels channels: every sample is heard where it was', async kind => {
    for (const container of ['mov', 'matroska']) {
      const bytes = filmWith(container, [soundOf(kind)])
      const source = await sourceFrom(bytes, `film.${ENDINGS[container]}`)
      const { delivery, seen } = await through(source, id)
      const count = (FRAMES / RATE[0]) * kind.rate
      if (kind.format === 'flt' && !TAKES_FLOATS.has(id)) {
        expect(delivery.report.ledger.find(line => line.id === 'sound')?.severity).toBe('loss')
        expect(seen.tracks.some(track => track.kind === 'sound')).toBe(false)
        continue
      }
      expect(delivery.report.readings.find(reading => reading.id === 'sound')?.error).toMatch(/^none/)
      const due = heard(see(bytes, `film.${ENDINGS[container]}`), 0, count)
      expect([container, firstApart(heard(seen, 0, count), due, 0)]).toEqual([container, null])
      const { sound } = seen.tracks.find(track => track.kind === 'sound')!
      expect([sound!.rate, sound!.channels, sound!.samples.length / sound!.channels]).toEqual([
        kind.rate,
        kind.channels,
        count
      ])
    }
  })

  test.each([
    ['sound that begins 0.2 s later', { at: 9600 }, 0],
    ['sound that begins a sample later', { at: 1 }, 0],
    ['pictures that begin 0.2 s later', {}, 5]
  ] as const)('%s', async (_, sound, late) => {
    for (const kind of [PCM16, AAC]) {
      if (kind === AAC && !TAKES_AAC.has(id)) continue
      for (const container of ['mov', 'matroska']) {
        const bytes = filmWith(container, [soundOf(kind, sound)], {
          times: Array.from({ length: FRAMES }, (_unused, n) => n + late)
        })
        const source = await sourceFrom(bytes, `film.${ENDINGS[container]}`)
        const { delivery, seen } = await through(source, id)
        const said = `${kind.codec} from ${container}`
        expect([said, delivery.report.readings.find(reading => reading.id === 'sound')?.error]).toEqual([
          said,
          expect.stringMatching(/^none/)
        ])
        if (late) expect(delivery.report.ledger.map(line => line.id)).toContain('sound-before')
        const count = (FRAMES / RATE[0]) * kind.rate
        const due = heard(see(bytes, `film.${ENDINGS[container]}`), 0, count)
        const found = heard(seen, 0, count)
        if (kind === PCM16) expect([said, firstApart(found, due, 0)]).toEqual([said, null])
        else expect([said, shiftOf(found, due, kind)]).toEqual([said, 0])
      }
    }
  })

  test('several tracks keep their order and their names, or are told', async () => {
    const words = ['dialogue', 'music', 'effects']
    const sounds = words.map((title, n) =>
      soundOf({ ...PCM16, channels: n === 1 ? 2 : 1 }, { words: { title } }, n + 5)
    )
    for (const container of ['mov', 'matroska']) {
      const bytes = filmWith(container, sounds)
      const { delivery, seen } = await through(await sourceFrom(bytes, `film.${ENDINGS[container]}`), id)
      const tracks = seen.tracks.filter(track => track.kind === 'sound')
      const lines = delivery.report.ledger.filter(line => line.id === 'sound')
      expect(lines.length).toBe(3)
      if (id === 'avi-png') {
        expect(tracks.length).toBe(1)
        expect(lines.map(({ severity }) => severity)).toEqual(['none', 'loss', 'loss'])
        expect(delivery.report.verdict).toBe('visible-loss')
        continue
      }
      expect(lines.map(({ severity }) => severity)).toEqual(['none', 'none', 'none'])
      const count = (FRAMES / RATE[0]) * 48000
      const before = see(bytes, `film.${ENDINGS[container]}`)
      for (const n of words.keys()) expect(firstApart(heard(seen, n, count), heard(before, n, count), 0)).toBe(null)
      if (!id.startsWith('mxf')) expect(tracks.map(track => track.words.title ?? track.words.name)).toEqual(words)
    }
  })
})

/** By how many samples one stretch of sound lies behind another: where they agree best. */
function shiftOf(found: Float64Array, due: Float64Array, { channels, rate }: Kind): number {
  let best = { shift: 0, error: Infinity }
  // behind what a decoder needs to begin
  const from = Math.round(0.4 * rate)
  for (let shift = -60; shift <= 60; shift++) {
    let error = 0
    for (let s = from; s < from + 6000; s++) error += Math.abs(found[(s + shift) * channels]! - due[s * channels]!)
    if (error < best.error) best = { shift, error }
  }
  return best.shift
}

test('a source of several tracks out of an MXF comes back as it was', async () => {
  const sounds = [soundOf(PCM16, {}, 3), soundOf({ ...PCM16, channels: 1 }, {}, 4)]
  const first = await through(await sourceFrom(filmWith('mov', sounds), 'film.mov'), 'mxf-prores-4444')
  const again = await through(await sourceFrom(first.delivery.files[0]!.bytes, 'film.mxf'), 'quicktime-png')
  const count = (FRAMES / RATE[0]) * 48000
  for (const n of [0, 1]) expect(firstApart(heard(again.seen, n, count), heard(first.seen, n, count), 0)).toBe(null)
})
