/**
 * Reading AVI: the headers of the first streams of pictures and of sound, and where their chunks lie, by the indexes of
 * OpenDML or of version 1, or chunk by chunk where neither can be believed.
 */
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'
import { MAX_PIXELS } from '../../../frame/frame'
import { nearestRate } from '../../../base/rate'
import { silentTrack, type SoundTrack } from '../../../source/sound'
import { carriedBits } from '../../sound/pcm'
import type { FieldOrder } from '../../../source/source'
import type { Film, Packet } from '../container'
import { chunkAt, lettersAt, listChunks, type Chunk } from './riff'

const MOST_CHUNKS = 10_000_000
const MOST_HEADERS = 10_000

interface Stream {
  number: number
  type: string
  scale: number
  rate: number
  start: number
  format: Uint8Array
  index: Chunk | null
  properties: Uint8Array | null
}

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

async function streamsOf(reader: ByteReader, header: Chunk): Promise<Stream[]> {
  const streams: Stream[] = []
  for (const list of await listChunks(reader, header.offset, header.offset + header.length, MOST_HEADERS)) {
    if (list.list !== 'strl') continue
    const parts = await listChunks(reader, list.offset, list.offset + list.length, MOST_HEADERS)
    const content = async (id: string, least: number, most: number): Promise<Uint8Array | null> => {
      const part = parts.find(p => p.id === id)
      if (!part || part.length < least) return null
      return reader.read(part.offset, Math.min(part.length, most))
    }
    const head = await content('strh', 48, 64)
    const format = await content('strf', 14, 1 << 20)
    if (!head || !format)
      throw unreadable(reader.name, `stream ${streams.length + 1}`, 'its header is missing or cut short')
    const view = viewOf(head)
    streams.push({
      number: streams.length,
      type: lettersAt(head, 0),
      scale: view.getUint32(20, true),
      rate: view.getUint32(24, true),
      start: view.getUint32(28, true),
      format,
      index: parts.find(p => p.id === 'indx') ?? null,
      properties: await content('vprp', 36, 256)
    })
    if (streams.length > 100) throw unreadable(reader.name, 'list hdrl', 'it has more streams than any film needs')
  }
  return streams
}

/** Whether a chunk's id is of a stream: two digits of its number, then the kind. */
const isOf = (id: string, stream: Stream, kinds: readonly string[]): boolean =>
  Number(id.slice(0, 2)) === stream.number && kinds.includes(id.slice(2))

const KINDS: Record<string, readonly string[]> = { vids: ['dc', 'db', 'iv'], auds: ['wb'] }

/**
 * Entries of OpenDML's indexes: a super index that names others, or one of chunks (OpenDML AVI, 3.0). Null where they
 * cannot be right.
 */
async function openIndex(reader: ByteReader, stream: Stream): Promise<Packet[] | null> {
  if (!stream.index) return null
  const whole = await reader.read(stream.index.offset, Math.min(stream.index.length, 1 << 26))
  if (whole.length < 24) return null
  const view = viewOf(whole)
  const parts: { offset: number; length: number }[] = []
  if (view.getUint8(3) === 1) parts.push(stream.index)
  else {
    const count = view.getUint32(4, true)
    if (24 + 16 * count > whole.length) return null
    let named = 0
    for (let i = 0; i < count; i++) {
      const at = Number(view.getBigUint64(24 + 16 * i, true))
      const found = await chunkAt(reader, at, reader.size)
      if (!found?.id.startsWith('ix') || found.offset + found.length > reader.size) return null
      // named again and again, a small index could stand for any number of chunks
      named += found.length
      if (named > reader.size) return null
      parts.push(found)
    }
  }
  const packets: Packet[] = []
  for (const { offset, length } of parts) {
    const bytes = await reader.read(offset, length)
    if (bytes.length < 24) return null
    const part = viewOf(bytes)
    const count = part.getUint32(4, true)
    const wide = part.getUint16(0, true) >= 3
    const size = wide ? 12 : 8
    if (part.getUint8(3) !== 1 || 24 + size * count > bytes.length || packets.length + count > MOST_CHUNKS) return null
    const base = Number(part.getBigUint64(12, true))
    for (let i = 0; i < count; i++) {
      const at = 24 + size * i
      const length = part.getUint32(at + 4, true)
      packets.push({
        offset: base + part.getUint32(at, true),
        size: length & 0x7fffffff,
        key: (length & 0x80000000) === 0
      })
    }
  }
  return packets.length && packets.every(p => p.offset + p.size <= reader.size) ? packets : null
}

/** Entries of the index of version 1, whose places are counted from the list "movi" or from the file's beginning. */
async function oldIndex(reader: ByteReader, index: Chunk, movie: Chunk, stream: Stream): Promise<Packet[] | null> {
  const bytes = await reader.read(index.offset, index.length)
  const view = viewOf(bytes)
  const kinds = KINDS[stream.type]!
  const packets: Packet[] = []
  let base: number | null = null
  for (let at = 0; at + 16 <= bytes.length; at += 16) {
    const id = lettersAt(bytes, at)
    if (!isOf(id, stream, kinds)) continue
    const place = view.getUint32(at + 8, true)
    if (base === null) {
      for (const from of [movie.offset - 4, 0]) {
        const head = await reader.read(from + place, 4)
        if (head.length === 4 && lettersAt(head, 0) === id) base = from
      }
      if (base === null) return null
    }
    packets.push({
      offset: base + place + 8,
      size: view.getUint32(at + 12, true),
      key: (view.getUint32(at + 4, true) & 0x10) !== 0
    })
    if (packets.length > MOST_CHUNKS) return null
  }
  return packets.length && packets.every(p => p.offset + p.size <= reader.size) ? packets : null
}

/** Chunk by chunk, through every list of the film. */
async function walked(reader: ByteReader, movies: readonly Chunk[], stream: Stream): Promise<Packet[]> {
  const packets: Packet[] = []
  const kinds = KINDS[stream.type]!
  const lists = [...movies]
  for (let list = lists.shift(); list; list = lists.shift()) {
    for (const found of await listChunks(reader, list.offset, list.offset + list.length, MOST_CHUNKS)) {
      if (found.list === 'rec ') lists.push(found)
      else if (isOf(found.id, stream, kinds)) packets.push({ offset: found.offset, size: found.length, key: true })
    }
  }
  return packets
}

/** The chunks of a stream. One of no length shows the picture before once more. */
async function packetsOf(
  reader: ByteReader,
  movies: readonly Chunk[],
  index: Chunk | null,
  stream: Stream
): Promise<Packet[]> {
  const packets =
    (await openIndex(reader, stream)) ??
    (index && movies.length === 1 ? await oldIndex(reader, index, movies[0]!, stream) : null) ??
    (await walked(reader, movies, stream))
  if (stream.type !== 'vids') return packets
  let before: Packet | null = null
  return packets.map(packet => {
    if (packet.size === 0 && before) return before
    before = packet
    return packet
  })
}

/** Shape of a pixel and order of fields from the video properties (OpenDML AVI, 5.0). */
function propertiesOf(
  bytes: Uint8Array | null,
  width: number,
  height: number
): { pixelAspect: [number, number]; fields: FieldOrder | null } {
  if (!bytes) return { pixelAspect: [1, 1], fields: null }
  const view = viewOf(bytes)
  const [down, across] = [view.getUint16(20, true), view.getUint16(22, true)]
  const shape = across && down ? nearestRate([across * height, down * width]) : null
  const fieldsPerFrame = view.getUint32(32, true)
  const first = bytes.length >= 36 + 32 ? view.getUint32(36 + 28, true) : 0
  const second = bytes.length >= 36 + 64 ? view.getUint32(36 + 32 + 28, true) : first
  return {
    pixelAspect: shape && shape[0] < 65536 && shape[1] < 65536 ? [shape[0], shape[1]] : [1, 1],
    fields:
      fieldsPerFrame === 1
        ? 'progressive'
        : fieldsPerFrame === 2
          ? first <= second
            ? 'top-first'
            : 'bottom-first'
          : null
  }
}

/**
 * PCM of WAVEFORMATEX, or of its extensible form; other sound is described. `late` is how many seconds the first
 * picture stands behind the beginning of the film.
 */
function soundOf(stream: Stream, packets: readonly Packet[], late: number): SoundTrack {
  const view = viewOf(stream.format)
  const tag = view.getUint16(0, true)
  const channels = view.getUint16(2, true)
  const rate = view.getUint32(4, true)
  const block = view.getUint16(12, true)
  const bits = stream.format.length >= 16 ? view.getUint16(14, true) : 8
  const extended = tag === 0xfffe && stream.format.length >= 26 ? view.getUint16(24, true) : tag
  const width = block / Math.max(1, channels)
  const float = extended === 3 && bits === 32
  const whole =
    (extended === 1 || float) &&
    (bits === 8 || bits === 16 || bits === 24 || bits === 32) &&
    width === bits / 8 &&
    channels >= 1 &&
    channels <= 1024 &&
    rate >= 1 &&
    rate <= 10_000_000
  if (!whole) return silentTrack(`sound of format 0x${tag.toString(16)}`, 'only PCM and AAC are carried')
  const layout = { bits, bigEndian: false, unsigned: bits === 8, ...(float ? { float } : {}) } as const
  const coding = float ? 'float' : 'pcm'
  const parts = packets.map(({ offset, size }) => ({ offset, size, samples: Math.floor(size / block) }))
  const samples = parts.reduce((sum, part) => sum + part.samples, 0)
  const pictureAt = Math.round(late * rate)
  // a stream that starts later is silent until then; one that starts before the pictures has so much before them
  const lead = pictureAt - stream.start
  return {
    facts: {
      codec: `PCM ${bits} bit${float ? ' float' : ''}`,
      name: '',
      rate,
      channels,
      samples: Math.max(0, samples - lead),
      coding,
      bits: carriedBits(layout),
      begins: 0,
      early: Math.max(0, lead),
      leftOut: null
    },
    coding,
    layout,
    config: new Uint8Array(0),
    packets: parts,
    lead
  }
}

/** Reads the headers and indexes of a film. Rejects with one clear error where they are damaged. */
export async function readAvi(reader: ByteReader): Promise<Film> {
  const fail = (place: string, matter: string): Error => unreadable(reader.name, place, matter)
  const movies: Chunk[] = []
  let header: Chunk | null = null
  let index: Chunk | null = null
  for (let at = 0, count = 0; at + 12 <= reader.size && count < MOST_HEADERS; count++) {
    const riff = await chunkAt(reader, at, reader.size)
    if (riff?.id !== 'RIFF' || (riff.list !== 'AVI ' && riff.list !== 'AVIX')) break
    const end = riff.offset + riff.length
    if (end > reader.size)
      throw fail('end of file', `it says ${end} bytes and has ${reader.size}; the film was cut short`)
    for (const part of await listChunks(reader, riff.offset, end, MOST_HEADERS)) {
      if (part.list === 'hdrl') header ??= part
      else if (part.list === 'movi') movies.push(part)
      else if (part.id === 'idx1') index ??= part
    }
    at = end + (end & 1)
  }
  if (!header) throw fail('byte 12', 'the headers (list hdrl) are missing')
  if (movies.length === 0) throw fail('end of file', 'the frames (list movi) are missing; the film was cut short')
  const streams = await streamsOf(reader, header)
  const stream = streams.find(s => s.type === 'vids')
  if (!stream) throw fail('list hdrl', 'the film has no stream of pictures')
  if (stream.format.length < 40) throw fail('list strf', 'the description of the pictures is cut short')
  const bitmap = viewOf(stream.format)
  const width = bitmap.getInt32(4, true)
  const tall = bitmap.getInt32(8, true)
  const height = Math.abs(tall)
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw fail('list strf', `a picture of ${width}x${height} cannot be taken`)
  const packets = await packetsOf(reader, movies, index, stream)
  if (packets.length === 0) throw fail('list movi', 'the film has no frames')
  const rate = stream.scale && stream.rate ? nearestRate([stream.rate, stream.scale]) : null
  const sounding = streams.filter(s => s.type === 'auds')
  const late = rate ? (stream.start * rate[1]) / rate[0] : 0
  const properties = propertiesOf(stream.properties, width, height)
  const depth = bitmap.getUint16(14, true)
  return {
    picture: {
      container: 'avi',
      code: lettersAt(stream.format, 16),
      kind: 'AVI',
      config: stream.format.slice(40),
      width,
      height,
      depth,
      bottomUp: tall > 0,
      claim: carriesAlpha =>
        carriesAlpha
          ? { mode: 'unknown', matte: null, says: `${depth} bits a pixel; AVI has no way to say how alpha is stored` }
          : { mode: 'none', matte: null, says: `${depth} bits a pixel, without alpha` },
      colour: null,
      ...properties,
      rate,
      timecode: null,
      packets,
      findings: []
    },
    sounds: await Promise.all(
      sounding.map(async sound => soundOf(sound, await packetsOf(reader, movies, index, sound), late))
    )
  }
}

/** Whether a file of these first bytes is an AVI film. */
export const looksLikeAvi = (head: Uint8Array): boolean =>
  lettersAt(head, 0) === 'RIFF' && ['AVI ', 'AVIX'].includes(lettersAt(head, 8))
