/**
 * Reading MXF: the header's metadata, and every element of essence wrapped frame by frame. Partitions and indexes are
 * passed over, so a film whose writer never came to its footer can be read.
 */
import { impossible, unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'
import { MAX_PIXELS } from '../../../frame/frame'
import { nearestRate, type Rate } from '../../../base/rate'
import { carriedBits } from '../../sound/pcm'
import { silentTrack, type SoundTrack } from '../../../source/sound'
import type { FieldOrder } from '../../../source/source'
import { frameToTimecode } from '../../../base/timecode'
import type { Film, Packet } from '../container'
import { hexOf, tagsOf, tripletAt, unversioned } from './klv'
import { KEY, MATRICES, PRIMARIES, SET, TRANSFERS } from './labels'

type Tags = Map<number, Uint8Array>

const MOST_TRIPLETS = 30_000_000
const MOST_SET = 1 << 24

const SETS = new Map(Object.values(SET).map(kind => [unversioned(KEY.set(kind)), kind]))

const unsigned = (bytes: Uint8Array | undefined): number =>
  (bytes ?? new Uint8Array(0)).reduce((value, byte) => value * 256 + byte, 0)

function ratio(bytes: Uint8Array | undefined): Rate | null {
  if (bytes?.length !== 8) return null
  const [n, d] = [unsigned(bytes.subarray(0, 4)), unsigned(bytes.subarray(4))]
  return n && d ? nearestRate([n, d]) : null
}

/** A number of H.273 from a label, by its last digits. */
const told = (table: Record<string, number>, bytes: Uint8Array | undefined): number =>
  bytes?.length === 16 ? (table[hexOf(bytes).slice(-10)] ?? 2) : 2

interface Metadata {
  sets: { kind: string; tags: Tags }[]
}

const setsOf = ({ sets }: Metadata, ...kinds: string[]): Tags[] =>
  sets.filter(({ kind }) => kinds.includes(kind)).map(({ tags }) => tags)

interface Elements {
  pictures: Packet[]
  /** Of each track of sound, by the number of its elements. */
  sounds: Map<string, Packet[]>
}

/** Walks every triplet of the file. */
async function walk(reader: ByteReader): Promise<{ metadata: Metadata; elements: Elements }> {
  const metadata: Metadata = { sets: [] }
  const elements: Elements = { pictures: [], sounds: new Map() }
  let picture: string | null = null
  let headers = 0
  for (let at = 0, count = 0; at < reader.size; count++) {
    if (count > MOST_TRIPLETS) throw unreadable(reader.name, `byte ${at}`, 'it holds more parts than any film needs')
    const found = await tripletAt(reader, at)
    at = found.offset + found.length
    if (found.key.startsWith(KEY.partition)) headers++
    if (found.key.startsWith(KEY.essence)) {
      const number = found.key.slice(-8)
      const packet = { offset: found.offset, size: found.length, key: true }
      // compound and plain items of pictures, of which the first track counts, and of sound
      if (number.startsWith('15') || number.startsWith('05')) {
        picture ??= number
        if (picture === number) elements.pictures.push(packet)
      } else if (number.startsWith('16') || number.startsWith('06')) {
        const list = elements.sounds.get(number) ?? []
        list.push(packet)
        elements.sounds.set(number, list)
      }
      continue
    }
    const kind = SETS.get(unversioned(found.key))
    // later partitions may repeat the metadata; the last that is whole says most
    if (!kind || found.length > MOST_SET) continue
    const tags = tagsOf(await reader.read(found.offset, found.length))
    if (!tags) throw unreadable(reader.name, `byte ${found.at}`, 'a set of its metadata is damaged')
    if (kind === SET.preface && headers > 1) metadata.sets.length = 0
    metadata.sets.push({ kind, tags })
  }
  return { metadata, elements }
}

function fieldsOf(tags: Tags): FieldOrder | null {
  const layout = tags.get(0x320c)
  if (!layout) return null
  if (layout[0] === 0 || layout[0] === 4) return 'progressive'
  return tags.get(0x3212)?.[0] === 2 ? 'bottom-first' : 'top-first'
}

/** The track whose elements have a number, and what describes it; else what describes sound at that place. */
function describedBy(metadata: Metadata, elements: string, place: number): { tags: Tags | undefined; name: string } {
  const waves = setsOf(metadata, SET.wave, SET.aes3)
  const id = (tags: Tags, tag: number): string => hexOf(tags.get(tag) ?? new Uint8Array(0))
  const track = setsOf(metadata, SET.track).find(tags => id(tags, 0x4804) === elements)
  const named = track?.get(0x4802) ?? new Uint8Array(0)
  const name = new TextDecoder('utf-16be').decode(named).replace(/\0+$/, '').slice(0, 200)
  const linked = track && waves.find(tags => id(tags, 0x3006) === id(track, 0x4801))
  return { tags: linked ?? waves[place] ?? waves[0], name }
}

function soundOf(metadata: Metadata, elements: string, packets: readonly Packet[], place: number): SoundTrack {
  const other = (why: string): SoundTrack => silentTrack('sound in MXF', why)
  const { tags, name } = describedBy(metadata, elements, place)
  if (!tags) return other('only PCM as in wave files is carried from MXF')
  const rate = ratio(tags.get(0x3d03))
  const channels = unsigned(tags.get(0x3d07))
  const bits = unsigned(tags.get(0x3d01))
  const block = unsigned(tags.get(0x3d0a)) || (channels * bits) / 8
  if (rate?.[1] !== 1 || !(channels >= 1 && channels <= 1024) || block !== (channels * bits) / 8)
    return other('its description is damaged')
  if (bits !== 8 && bits !== 16 && bits !== 24 && bits !== 32) return other('it is not of whole bytes')
  const layout = { bits, bigEndian: false, unsigned: bits === 8 } as const
  const parts = packets.map(({ offset, size }) => ({ offset, size, samples: Math.floor(size / block) }))
  return {
    facts: {
      codec: `PCM ${bits} bit`,
      name,
      rate: rate[0],
      channels,
      samples: parts.reduce((sum, part) => sum + part.samples, 0),
      coding: 'pcm',
      bits: carriedBits(layout),
      begins: 0,
      early: 0,
      leftOut: null
    },
    coding: 'pcm',
    layout,
    config: new Uint8Array(0),
    packets: parts,
    lead: 0
  }
}

function timecodeOf(metadata: Metadata, rate: Rate | null): string | null {
  const [tags] = setsOf(metadata, SET.timecode)
  if (!tags || !rate) return null
  const start = unsigned(tags.get(0x1501))
  // a count from nought at the head of a film says no more than that it begins
  return start > 0 ? frameToTimecode(start, rate, tags.get(0x1503)?.[0] === 1) : null
}

/** Reads a film. Rejects with one clear error where it is damaged, or wrapped in a way that is not read. */
export async function readMxf(reader: ByteReader): Promise<Film> {
  const fail = (place: string | null, matter: string): Error => unreadable(reader.name, place, matter)
  const { metadata, elements } = await walk(reader)
  const [tags] = setsOf(metadata, SET.picture, SET.rgba)
  if (!tags) throw fail('the header', 'it describes no pictures')
  const { pictures } = elements
  if (pictures.length === 0)
    throw fail(null, 'it holds no pictures; the film was cut short, or they lie in other files')
  const rate = ratio(tags.get(0x3001))
  const length = Math.max(0, ...setsOf(metadata, SET.sequence).map(set => unsigned(set.get(0x0202))))
  if (pictures.length === 1 && length > 1 && length < 2 ** 32)
    throw impossible(
      'its pictures are wrapped as one clip; only MXF that is wrapped frame by frame is read',
      reader.name
    )
  const stored = [unsigned(tags.get(0x3203)), unsigned(tags.get(0x3202))] as const
  const shown = [unsigned(tags.get(0x3209)) || stored[0], unsigned(tags.get(0x3208)) || stored[1]] as const
  const [width, height] = shown
  if (!(width >= 1 && height >= 1 && width * height <= MAX_PIXELS))
    throw fail('the header', `a picture of ${width}x${height} cannot be taken`)
  const aspect = ratio(tags.get(0x320e))
  const shape = aspect ? nearestRate([aspect[0] * height, aspect[1] * width]) : null
  const fields = fieldsOf(tags)
  const colour = [
    told(PRIMARIES, tags.get(0x3219)),
    told(TRANSFERS, tags.get(0x3210)),
    told(MATRICES, tags.get(0x321a))
  ] as const
  const alphaBits = unsigned(tags.get(0x3309))
  return {
    picture: {
      container: 'mxf',
      code: hexOf(tags.get(0x3201) ?? new Uint8Array(0)),
      kind: 'MXF',
      config: new Uint8Array(0),
      width,
      height,
      depth: 0,
      bottomUp: false,
      claim: carriesAlpha =>
        carriesAlpha
          ? {
              mode: 'unknown',
              matte: null,
              says:
                `${alphaBits ? `alpha of ${alphaBits} bits` : 'alpha in its frames'}; MXF has no way to ` +
                'say how it is stored'
            }
          : { mode: 'none', matte: null, says: 'no alpha in its frames' },
      colour: colour.every(code => code === 2) ? null : colour,
      pixelAspect: shape && shape[0] < 65536 && shape[1] < 65536 ? [shape[0], shape[1]] : [1, 1],
      fields,
      rate,
      timecode: timecodeOf(metadata, rate),
      packets: pictures,
      findings: []
    },
    sounds: [...elements.sounds].map(([number, packets], place) => soundOf(metadata, number, packets, place))
  }
}

/** A header partition stands at the very beginning. */
export const looksLikeMxf = (head: Uint8Array): boolean => hexOf(head.subarray(0, 16)).startsWith(`${KEY.partition}2`)
