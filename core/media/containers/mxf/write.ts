/**
 * Writing MXF OP1a (SMPTE ST 378), wrapped frame by frame: header partition, body partition with the pictures and the
 * sound of each frame behind one another, footer partition with the index, and the list of partitions.
 */
import { concatenate } from '../../../base/files/bytes'
import { PATCHABLE, type ByteSink } from '../../../base/files/sinks'
import { impossible } from '../../../base/errors'
import { samplesBefore, type SoundFeed } from '../../../source/sound'
import type { Muxer, MuxPlan } from '../container'
import { batch, bytesOfHex, headOf, localSet, number, triplet } from './klv'
import { KEY, LABEL } from './labels'
import { BODY, containersOf, INDEX, metadata, pictureElement, soundTrackOf } from './metadata'

interface Partition {
  key: string
  at: number
  before: number
  footer: number
  headerBytes: number
  indexBytes: number
  body: number
  index: number
}

function partition(plan: MuxPlan, p: Partition): Uint8Array {
  return triplet(
    p.key,
    number(2, 1),
    number(2, 3),
    number(4, 1),
    number(8, p.at),
    number(8, p.before),
    number(8, p.footer),
    number(8, p.headerBytes),
    number(8, p.indexBytes),
    number(4, p.index),
    number(8, 0),
    number(4, p.body),
    bytesOfHex(LABEL.oneItem),
    batch(16, containersOf(plan))
  )
}

const EMPTY: Omit<Partition, 'key' | 'at'> = { before: 0, footer: 0, headerBytes: 0, indexBytes: 0, body: 0, index: 0 }

/** Entries of an index segment: its table is a tag, and no tag is longer than 65535 bytes. */
const SEGMENT = 4000

/** Where each frame begins in the body, and its sounds in the frame (SMPTE ST 377-1, 11). */
function indexSegments(plan: MuxPlan, starts: readonly number[], sounds: readonly number[][]): Uint8Array {
  const [n, d] = plan.rate
  const slices = plan.sounds.length
  const parts: Uint8Array[] = []
  for (let from = 0; from < starts.length; from += SEGMENT) {
    const entries = starts.slice(from, from + SEGMENT).map((start, i) =>
      concatenate([
        // no frame is shown out of order, each is its own key frame and may be begun with
        number(1, 0),
        number(1, 0),
        number(1, 0x80),
        number(8, start),
        ...sounds[from + i]!.map(at => number(4, at))
      ])
    )
    const delta = (slice: number): Uint8Array => concatenate([number(1, 0), number(1, slice), number(4, 0)])
    parts.push(
      localSet(KEY.index, [
        [0x3c0a, concatenate([bytesOfHex('506f75720000400080000001'), number(4, from)])],
        [0x3f0b, concatenate([number(4, n), number(4, d)])],
        [0x3f0c, number(8, from)],
        [0x3f0d, number(8, entries.length)],
        [0x3f05, number(4, 0)],
        [0x3f06, number(4, INDEX)],
        [0x3f07, number(4, BODY)],
        [0x3f08, number(1, slices)],
        [
          0x3f09,
          batch(
            6,
            Array.from({ length: slices + 1 }, (_, slice) => delta(slice))
          )
        ],
        [0x3f0a, batch(11 + 4 * slices, entries)]
      ])
    )
  }
  return concatenate(parts)
}

/** Bytes that tell one film from another, gathered from what is in it, so that the same film is the same file. */
class Unique {
  private readonly sums = Uint32Array.of(0x811c9dc5, 0x1000193, 0x9e3779b9, 0x85ebca6b)

  take(bytes: Uint8Array): void {
    const { sums } = this
    const step = 1 + (bytes.length >> 12)
    for (let i = 0; i < bytes.length; i += step) {
      const lane = i & 3
      sums[lane] = Math.imul(sums[lane]! ^ bytes[i]!, 0x1000193)
    }
    sums[0] = Math.imul(sums[0]! ^ bytes.length, 0x85ebca6b)
    for (let lane = 1; lane < 4; lane++) sums[lane] = (sums[lane]! ^ (sums[lane - 1]! >>> 15)) >>> 0
  }

  bytes(): Uint8Array {
    return concatenate([...this.sums].map(sum => number(4, sum)))
  }
}

/** Bytes of everything but frames and sound. */
export function mxfOverhead(plan: MuxPlan): number {
  const elements = plan.frames * (1 + plan.sounds.length)
  const packs = 3 * (partition(plan, { ...EMPTY, key: KEY.header, at: 0 }).length + 4)
  const segments = Math.ceil(plan.frames / SEGMENT)
  return (
    metadata(plan, new Uint8Array(16)).length +
    packs +
    elements * 20 +
    segments * 160 +
    plan.frames * (11 + 4 * plan.sounds.length) +
    80
  )
}

/**
 * Writes a film of one track of pictures, and one of sound for each feed, shared out to the frames it is heard with.
 */
export async function assembleMxf(sink: ByteSink, plan: MuxPlan, feeds: readonly SoundFeed[]): Promise<Muxer> {
  const header = (unique: Uint8Array, footer: number): Uint8Array => {
    const sets = metadata(plan, unique)
    return concatenate([partition(plan, { ...EMPTY, key: KEY.header, at: 0, footer, headerBytes: sets.length }), sets])
  }
  const first = header(new Uint8Array(16), 0)
  const bodyAt = first.length
  const bodyPack = (footer: number): Uint8Array =>
    partition(plan, { ...EMPTY, key: KEY.body, at: bodyAt, footer, body: BODY })
  if (first.length + bodyPack(0).length > PATCHABLE) throw impossible('the headers of this film would be too long')
  await sink.append(first)
  await sink.append(bodyPack(0))
  const essenceAt = bodyAt + bodyPack(0).length
  let at = essenceAt
  const starts: number[] = []
  const sounds: number[][] = []
  const unique = new Unique()

  async function put(key: string, bytes: Uint8Array): Promise<void> {
    const head = headOf(key, bytes.length)
    await sink.append(head)
    if (bytes.length) await sink.append(bytes)
    at += head.length + bytes.length
  }

  return {
    async add(packet) {
      starts.push(at - essenceAt)
      unique.take(packet)
      await put(pictureElement(plan), packet)
      const places: number[] = []
      for (const [n, { rate }] of plan.sounds.entries()) {
        places.push(at - essenceAt - starts.at(-1)!)
        const parts = (await feeds[n]?.upTo(samplesBefore(starts.length, plan.rate, rate))) ?? []
        await put(soundTrackOf(n, plan.sounds.length).element, concatenate(parts.map(part => part.bytes)))
      }
      sounds.push(places)
    },
    async finish() {
      const footerAt = at
      const index = indexSegments(plan, starts, sounds)
      const footer = partition(plan, {
        ...EMPTY,
        key: KEY.footer,
        at: footerAt,
        before: bodyAt,
        footer: footerAt,
        indexBytes: index.length,
        index: INDEX
      })
      const places = [
        [0, 0],
        [BODY, bodyAt],
        [0, footerAt]
      ] as const
      const entries = places.map(([stream, place]) => concatenate([number(4, stream), number(8, place)]))
      // the list ends in its own length, by which readers find it from the end of the file
      const length = entries.length * 12 + 4
      const random = concatenate([headOf(KEY.random, length), ...entries, number(4, length + 20)])
      await sink.append(concatenate([footer, index, random]))
      await sink.patch(0, header(unique.bytes(), footerAt))
      await sink.patch(bodyAt, bodyPack(footerAt))
    }
  }
}
