/**
 * Writing AVI. The first RIFF holds frames up to a GiB, and the old index; what comes after it, after OpenDML, lies in
 * RIFFs of their own, each gathered in memory until its length is known, with an index of its chunks that an index in
 * the headers names.
 */
import { impossible } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import { PATCHABLE, type ByteSink } from '../../../base/files/sinks'
import { reduceRate } from '../../../base/rate'
import { samplesBefore, soundStride, type SoundFeed, type SoundForm } from '../../../source/sound'
import { bitmapHeader } from '../bitmap-header'
import type { Muxer, MuxPlan } from '../container'
import { chunk, fourLetters, listOf, words, type Word } from './riff'

/** Bytes of frames in the first RIFF, and in each behind it. */
export interface RiffSizes {
  first: number
  later: number
}
const PARTS: RiffSizes = { first: 2 ** 30, later: 2 ** 25 }

interface Entry {
  /** Where the chunk's head lies in the file. */
  at: number
  size: number
  key: boolean
}

/** Parts of a film beyond the first RIFF: none for films that surely fit into it. */
function laterParts({ width, height, frames, sounds: [sound] }: MuxPlan, { first, later }: RiffSizes): number {
  const most = frames * (width * height * 8 + 4096) + (sound ? sound.samples * sound.channels * 4 : 0)
  return most < first ? 0 : Math.ceil((most - first) / later) + 2
}

/** Room for so many names in the index of the headers. */
const SUPER_MOST = 8192

function streamHeader(kind: 'vids' | 'auds', fields: readonly Word[]): Uint8Array {
  return chunk('strh', fourLetters(kind), words(...fields))
}

/** Shape of pixels and fields (OpenDML AVI, 5.0): the frame's own shape is what pixels of theirs make of it. */
function properties({ width, height, pixelAspect: [w, h], fields }: MuxPlan): Uint8Array {
  let [across, down] = [width * w, height * h]
  while (across > 65535 || down > 65535) [across, down] = [across / 2, down / 2]
  const [a, d] = reduceRate([Math.round(across), Math.round(down)])
  const count = fields === 'progressive' ? 1 : 2
  const firsts = fields === 'bottom-first' ? [1, 0] : [0, 1]
  const info = Array.from({ length: count }, (_, i) =>
    words(
      [32, height / count],
      [32, width],
      [32, height / count],
      [32, width],
      [32, 0],
      [32, 0],
      [32, 0],
      [32, count === 1 ? 0 : firsts[i]!]
    )
  )
  return chunk(
    'vprp',
    words(
      [32, 0],
      [32, 0],
      [32, 0],
      [32, width],
      [32, height],
      [16, d],
      [16, a],
      [32, width],
      [32, height],
      [32, count]
    ),
    ...info
  )
}

const blockOf = ({ channels, bits }: SoundForm): number => (channels * bits) / 8

function superIndex(
  id: string,
  room: number,
  parts: readonly { at: number; size: number; duration: number }[]
): Uint8Array {
  return chunk(
    'indx',
    words([16, 4], [8, 0], [8, 0], [32, parts.length]),
    fourLetters(id),
    words([32, 0], [32, 0], [32, 0]),
    ...parts.map(({ at, size, duration }) => words([64, at], [32, size], [32, duration])),
    new Uint8Array(16 * (room - parts.length))
  )
}

interface Laid {
  frames: number
  samples: number
  largest: number
  /** Frames of the first RIFF alone, which is what old readers know. */
  firstFrames: number
  video: { at: number; size: number; duration: number }[]
  audio: { at: number; size: number; duration: number }[]
}

function headers(plan: MuxPlan, room: number, laid: Laid): Uint8Array {
  const { width, height, rate, entry } = plan
  const [sound] = plan.sounds
  const [n, d] = rate
  const plain = entry.code === '\0\0\0\0'
  const bitmap = bitmapHeader({
    width,
    height: entry.bottomUp || !plain ? height : -height,
    depth: entry.depth,
    code: entry.code,
    size: plain ? ((width * entry.depth + 31) >> 5) * 4 * height : laid.largest,
    config: entry.config ?? new Uint8Array(0)
  })
  const video = listOf(
    'strl',
    chunk(
      'strh',
      fourLetters('vids'),
      plain ? words([32, 0]) : fourLetters(entry.code),
      words(
        [32, 0],
        [32, 0],
        [32, 0],
        [32, d],
        [32, n],
        [32, 0],
        [32, laid.frames],
        [32, laid.largest],
        [32, -1],
        [32, 0],
        [16, 0],
        [16, 0],
        [16, Math.min(width, 32767)],
        [16, Math.min(height, 32767)]
      )
    ),
    chunk('strf', bitmap),
    ...(room ? [superIndex('00dc', room, laid.video)] : []),
    properties(plan)
  )
  const audio = sound
    ? [
        listOf(
          'strl',
          streamHeader('auds', [
            [32, 0],
            [32, 0],
            [32, 0],
            [32, 0],
            [32, blockOf(sound)],
            [32, sound.rate * blockOf(sound)],
            [32, 0],
            [32, laid.samples],
            [32, sound.rate * blockOf(sound)],
            [32, -1],
            [32, blockOf(sound)],
            [32, 0],
            [32, 0]
          ]),
          chunk(
            'strf',
            words(
              // samples that are whole numbers, or floats
              [16, sound.coding === 'float' ? 3 : 1],
              [16, sound.channels],
              [32, sound.rate],
              [32, sound.rate * blockOf(sound)],
              [16, blockOf(sound)],
              [16, sound.bits],
              [16, 0]
            )
          ),
          ...(room ? [superIndex('01wb', room, laid.audio)] : [])
        )
      ]
    : []
  const main = chunk(
    'avih',
    words(
      [32, Math.round((1e6 * d) / n)],
      [32, 0],
      [32, 0],
      // has an index, is interleaved
      [32, 0x110],
      [32, laid.firstFrames],
      [32, 0],
      [32, sound ? 2 : 1],
      [32, laid.largest],
      [32, width],
      [32, height],
      [32, 0],
      [32, 0],
      [32, 0],
      [32, 0]
    )
  )
  const extended = room ? [listOf('odml', chunk('dmlh', words([32, laid.frames]), new Uint8Array(244)))] : []
  return listOf('hdrl', main, video, ...audio, ...extended)
}

/** An index of the chunks of one list, by OpenDML. */
function chunkIndex(id: string, entries: readonly Entry[], base: number): Uint8Array {
  const table = new Uint8Array(8 * entries.length)
  const view = new DataView(table.buffer)
  entries.forEach(({ at, size, key }, i) => {
    view.setUint32(8 * i, at + 8 - base, true)
    view.setUint32(8 * i + 4, key ? size : (size | 0x80000000) >>> 0, true)
  })
  return chunk(
    `ix${id.slice(0, 2)}`,
    words([16, 2], [8, 0], [8, 1], [32, entries.length]),
    fourLetters(id),
    words([64, base], [32, 0]),
    table
  )
}

const HEADERS = 12

const empty = (plan: MuxPlan): Laid => ({
  frames: plan.frames,
  samples: plan.sounds[0]?.samples ?? 0,
  largest: 0,
  firstFrames: plan.frames,
  video: [],
  audio: []
})

/** Bytes of everything but frames and sound, for films of one RIFF; a few more for longer ones. */
export function aviOverhead(plan: MuxPlan, parts = PARTS): number {
  const room = Math.min(SUPER_MOST, laterParts(plan, parts))
  const soundChunks = plan.sounds.length ? Math.ceil(plan.frames / soundStride(plan.rate)) : 0
  return HEADERS + headers(plan, room, empty(plan)).length + 12 + 8 + (8 + 16) * (plan.frames + soundChunks)
}

/** Writes a film of one stream of pictures, and one of sound where there is a feed. */
export async function assembleAvi(
  sink: ByteSink,
  plan: MuxPlan,
  [feed]: readonly SoundFeed[],
  parts = PARTS
): Promise<Muxer> {
  const room = Math.min(SUPER_MOST, laterParts(plan, parts))
  const laid = empty(plan)
  const headLength = HEADERS + headers(plan, room, laid).length
  if (headLength + 12 > PATCHABLE) throw impossible('the headers of this film would be too long')
  await sink.append(concatenate([fourLetters('RIFF'), words([32, 0]), fourLetters('AVI ')]))
  await sink.append(headers(plan, room, laid))
  await sink.append(concatenate([fourLetters('LIST'), words([32, 4]), fourLetters('movi')]))
  const movie = headLength + 8
  let at = movie + 4
  let frames = 0
  let first = true
  let held: Uint8Array[] = []
  /** Where the list of the part at hand begins, and what lies in it. */
  let list = movie
  let entries: { id: string; entry: Entry }[] = []
  const stride = soundStride(plan.rate)

  const of = (id: string): Entry[] => entries.filter(e => e.id === id).map(e => e.entry)

  /** The indexes of the part at hand, and their names for the headers. */
  function indexes(): Uint8Array[] {
    if (!room) return []
    const made: Uint8Array[] = []
    for (const [id, names, duration] of [
      ['00dc', laid.video, of('00dc').length],
      [
        '01wb',
        laid.audio,
        plan.sounds[0] ? of('01wb').reduce((sum, e) => sum + e.size, 0) / blockOf(plan.sounds[0]) : 0
      ]
    ] as const) {
      const mine = of(id)
      if (mine.length === 0) continue
      const index = chunkIndex(id, mine, list)
      names.push({ at, size: index.length, duration })
      at += index.length
      made.push(index)
    }
    return made
  }

  async function closePart(): Promise<void> {
    if (laid.video.length >= SUPER_MOST) throw impossible('the film has become longer than an AVI can index')
    const names = indexes()
    if (!first) {
      const movi = 4 + [...held, ...names].reduce((sum, part) => sum + part.length, 0)
      await sink.append(
        concatenate([
          fourLetters('RIFF'),
          words([32, 4 + 8 + movi]),
          fourLetters('AVIXLIST'),
          words([32, movi]),
          fourLetters('movi')
        ])
      )
      for (const part of [...held, ...names]) await sink.append(part)
      held = []
    } else {
      for (const part of names) await sink.append(part)
      await sink.patch(movie - 4, words([32, at - movie]))
      const table = new Uint8Array(16 * entries.length)
      const view = new DataView(table.buffer)
      entries.forEach(({ id, entry }, i) => {
        table.set(fourLetters(id), 16 * i)
        view.setUint32(16 * i + 4, entry.key ? 0x10 : 0, true)
        view.setUint32(16 * i + 8, entry.at - movie, true)
        view.setUint32(16 * i + 12, entry.size, true)
      })
      const index = chunk('idx1', table)
      await sink.append(index)
      at += index.length
      await sink.patch(4, words([32, at - 8]))
      laid.firstFrames = frames
      first = false
    }
    entries = []
    // the heads of the RIFF and of its list
    list = at + 20
    at += 24
  }

  async function put(id: string, bytes: Uint8Array, key: boolean): Promise<void> {
    const used = at - list
    if (used + bytes.length > (first ? parts.first : parts.later) && entries.length > 0) {
      if (!room) throw impossible('the film has become longer than was planned for')
      await closePart()
    }
    entries.push({ id, entry: { at, size: bytes.length, key } })
    const head = concatenate([fourLetters(id), words([32, bytes.length])])
    const pad = new Uint8Array(bytes.length & 1)
    at += 8 + bytes.length + pad.length
    for (const part of [head, bytes, pad]) {
      if (part.length === 0) continue
      if (first) await sink.append(part)
      else held.push(part)
    }
  }

  return {
    async add(packet) {
      const [sound] = plan.sounds
      if (sound && feed && frames % stride === 0) {
        const until = samplesBefore(Math.min(frames + stride, plan.frames), plan.rate, sound.rate)
        const bytes = concatenate((await feed.upTo(until)).map(part => part.bytes))
        if (bytes.length) await put('01wb', bytes, true)
      }
      laid.largest = Math.max(laid.largest, packet.length)
      await put('00dc', packet, plan.isKey(frames))
      frames++
    },
    async finish() {
      await closePart()
      await sink.patch(HEADERS, headers(plan, room, laid))
    }
  }
}
