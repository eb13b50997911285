/** Reading Matroska: tracks, and where each block lies. Pictures and sound are told apart by what the tracks say. */
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'
import { MAX_PIXELS } from '../../../frame/frame'
import { levelsOf, type LightLevels } from '../../../source/light-levels'
import { nearestRate, reduceRate, type Rate } from '../../../base/rate'
import { carriedBits } from '../../sound/pcm'
import { silentTrack, type PcmLayout, type SoundPacket, type SoundTrack } from '../../../source/sound'
import type { FieldOrder } from '../../../source/source'
import { timesOf, type Conformed } from '../../../source/timing'
import type { Film, Packet } from '../container'
import { elementAt, elementsIn, float, headOf, numberAt, unsigned, type EbmlElement } from './ebml'
import { ID } from './ids'

const MOST_BLOCKS = 10_000_000
/** No description of tracks is longer. */
const MOST_HEADERS = 1 << 26

type EbmlChildren = Map<number, Uint8Array>

interface Entry {
  number: number
  type: number
  codec: string
  config: Uint8Array
  fields: EbmlChildren
  video: EbmlChildren
  audio: EbmlChildren
}

interface Block extends Packet {
  /** In units of the film's own scale. */
  time: number
  /** How long it is shown, where it says so. */
  duration?: number
}

const fieldsOf = (bytes: Uint8Array | undefined): EbmlChildren =>
  new Map((bytes ? (elementsIn(bytes) ?? []) : []).map(({ id, content }) => [id, content]))

const numberIn = (fields: EbmlChildren, id: number, otherwise: number): number => {
  const bytes = fields.get(id)
  return bytes && bytes.length <= 8 ? unsigned(bytes) : otherwise
}

/** Mastering display and light levels (RFC 9559, 5.1.4.1.28.26 and on); places that are not said are 0. */
function levelsIn(colour: EbmlChildren): LightLevels | null {
  const [most, mean] = [numberIn(colour, ID.maxCll, 0), numberIn(colour, ID.maxFall, 0)]
  const inside = fieldsOf(colour.get(ID.mastering))
  const value = (id: number): number => {
    const bytes = inside.get(id)
    const found = bytes ? float(bytes) : 0
    return Number.isFinite(found) ? found : 0
  }
  const place = (n: number): [number, number] => [value(ID.masteredRedX + 2 * n), value(ID.masteredRedX + 2 * n + 1)]
  return levelsOf(
    inside.size > 0
      ? { places: [0, 1, 2, 3].map(place), most: value(ID.luminanceMost), least: value(ID.luminanceLeast) }
      : null,
    most > 0 || mean > 0 ? { most, mean } : null
  )
}

function entriesOf(bytes: Uint8Array, file: string): Entry[] {
  const entries = elementsIn(bytes)
  if (!entries) throw unreadable(file, 'the tracks', 'they are damaged')
  return entries
    .filter(({ id }) => id === ID.trackEntry)
    .map(({ content }) => {
      const fields = fieldsOf(content)
      return {
        number: numberIn(fields, ID.trackNumber, 0),
        type: numberIn(fields, ID.trackType, 0),
        codec: new TextDecoder('latin1').decode(fields.get(ID.codecId) ?? new Uint8Array(0)).replace(/\0+$/, ''),
        config: (fields.get(ID.codecPrivate) ?? new Uint8Array(0)).slice(),
        fields,
        video: fieldsOf(fields.get(ID.video)),
        audio: fieldsOf(fields.get(ID.audio))
      }
    })
}

/** What stands directly in a segment. One with an open length ends a cluster that has none. */
const OUTER: ReadonlySet<number> = new Set([
  ID.info,
  ID.tracks,
  ID.cluster,
  ID.cues,
  ID.seekHead,
  ID.tags,
  ID.attachments,
  ID.chapters
])

/** Bytes read at once while blocks are looked for: heads lie close together in films of small frames. */
const WINDOW = 1 << 16

/** Reads heads of elements through a window. */
class Heads {
  private bytes = new Uint8Array(0)
  private from = 0

  constructor(private readonly reader: ByteReader) {}

  async bytesAt(at: number, length: number): Promise<Uint8Array> {
    if (at < this.from || at + length > this.from + this.bytes.length) {
      this.bytes = (await this.reader.read(at, Math.max(length, WINDOW))) as Uint8Array<ArrayBuffer>
      this.from = at
    }
    return this.bytes.subarray(at - this.from, at - this.from + length)
  }

  async at(at: number): Promise<EbmlElement> {
    const found = headOf(await this.bytesAt(at, 12), 0)
    if (!found) return elementAt(this.reader, at)
    return { id: found.id, at, offset: at + found.size, length: found.length }
  }
}

/** Elements in [from, stop), each of a known length within it. */
async function* partsOf(
  heads: Heads,
  from: number,
  stop: number,
  file: string
): AsyncGenerator<EbmlElement & { end: number }> {
  for (let at = from; at < stop;) {
    const part = await heads.at(at)
    if (part.length === null || part.offset + part.length > stop)
      throw unreadable(file, `byte ${at}`, 'a group of blocks is damaged')
    at = part.offset + part.length
    yield { ...part, end: at }
  }
}

/** The addition of number 1 in a list of them: alpha, by the WebM Container Guidelines. Null where there is none. */
async function sideIn(
  heads: Heads,
  additions: EbmlElement & { end: number },
  file: string
): Promise<{ offset: number; size: number } | null> {
  for await (const more of partsOf(heads, additions.offset, additions.end, file)) {
    if (more.id !== ID.blockMore) continue
    let number = 1
    let found: { offset: number; size: number } | null = null
    for await (const part of partsOf(heads, more.offset, more.end, file)) {
      if (part.id === ID.blockAddId) number = unsigned(await heads.bytesAt(part.offset, Math.min(8, part.length!)))
      if (part.id === ID.blockAdditional) found = { offset: part.offset, size: part.length! }
    }
    if (number === 1 && found) return found
  }
  return null
}

/** The block in [offset, end): its track, time and bytes. Laced blocks of sound are left to be told of. */
async function blockAt(
  heads: Heads,
  offset: number,
  end: number,
  time: number,
  key: boolean | null
): Promise<(Block & { track: number; laced: boolean }) | null> {
  const bytes = await heads.bytesAt(offset, Math.min(16, end - offset))
  const track = numberAt(bytes, 0)
  if (!track || track.value === null || bytes.length < track.size + 3) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const flags = view.getUint8(track.size + 2)
  const from = offset + track.size + 3
  return {
    track: track.value,
    time: time + view.getInt16(track.size),
    offset: from,
    size: end - from,
    key: key ?? (flags & 0x80) !== 0,
    laced: (flags & 0x06) !== 0
  }
}

async function clusterBlocks(
  heads: Heads,
  cluster: EbmlElement,
  end: number,
  file: string,
  take: (block: Block & { track: number; laced: boolean }) => void
): Promise<number> {
  let time = 0
  let at = cluster.offset
  while (at < end) {
    const found = await heads.at(at)
    if (cluster.length === null && OUTER.has(found.id)) return at
    if (found.length === null || found.offset + found.length > end)
      throw unreadable(file, `byte ${at}`, 'an element runs beyond its cluster; the film was cut short or is damaged')
    const stop = found.offset + found.length
    if (found.id === ID.timestamp) time = unsigned(await heads.bytesAt(found.offset, Math.min(8, found.length)))
    else if (found.id === ID.simpleBlock) {
      const block = await blockAt(heads, found.offset, stop, time, null)
      if (!block) throw unreadable(file, `byte ${at}`, 'a block is damaged')
      take(block)
    } else if (found.id === ID.blockGroup) {
      let inner: EbmlElement | null = null
      let builds = false
      let duration: number | null = null
      let side: { offset: number; size: number } | null = null
      for await (const part of partsOf(heads, found.offset, stop, file)) {
        if (part.id === ID.block) inner = part
        if (part.id === ID.referenceBlock) builds = true
        if (part.id === ID.blockDuration)
          duration = unsigned(await heads.bytesAt(part.offset, Math.min(8, part.length!)))
        if (part.id === ID.blockAdditions) side = await sideIn(heads, part, file)
      }
      const block = inner && (await blockAt(heads, inner.offset, inner.offset + inner.length!, time, !builds))
      if (!block) throw unreadable(file, `byte ${at}`, 'a group of blocks has no block')
      take({ ...block, ...(side ? { side } : {}), ...(duration === null ? {} : { duration }) })
    }
    at = stop
  }
  return end
}

const ORDERS: Record<number, FieldOrder> = {
  0: 'progressive',
  1: 'top-first',
  6: 'bottom-first',
  9: 'bottom-first',
  14: 'top-first'
}

/** Of Y'CbCr (RFC 9559, 5.1.4.1.28.25). */
const RANGES: Record<number, 'full' | 'limited'> = { 1: 'limited', 2: 'full' }

/** The rate whose frames last so many nanoseconds, as near as those can say. */
function rateOfDuration(nanoseconds: number): Rate | null {
  if (!(nanoseconds > 0)) return null
  for (const d of [1, 1001])
    for (let n = 1; n <= 240; n++) {
      const rate: Rate = d === 1 ? [n, 1] : [1000 * n, 1001]
      if (Math.abs((1e9 * rate[1]) / rate[0] - nanoseconds) < 1) return reduceRate(rate)
    }
  return nearestRate([1e9, nanoseconds])
}

/** Hours, minutes and seconds as tags tell them, in nanoseconds; 0 where they are none. */
function nanosecondsOf(text: string): number {
  const parts = /^(\d+):(\d+):(\d+(?:\.\d+)?)/.exec(text)
  return parts ? (Number(parts[1]) * 3600 + Number(parts[2]) * 60 + Number(parts[3])) * 1e9 : 0
}

/** How long each track is, in nanoseconds, by the tags that writers leave (RFC 9559, 5.1.8; "DURATION"). */
function lengthsOf(tags: Uint8Array): Map<number, number> {
  const lengths = new Map<number, number>()
  for (const { id, content } of elementsIn(tags) ?? []) {
    if (id !== ID.tag) continue
    const parts = elementsIn(content) ?? []
    const uid = numberIn(fieldsOf(parts.find(part => part.id === ID.targets)?.content), ID.tagTrackUid, 0)
    for (const part of parts) {
      const said = fieldsOf(part.id === ID.simpleTag ? part.content : undefined)
      const text = (which: number): string => new TextDecoder().decode(said.get(which) ?? new Uint8Array(0))
      if (text(ID.tagName).replace(/\0+$/, '') === 'DURATION') lengths.set(uid, nanosecondsOf(text(ID.tagString)))
    }
  }
  return lengths
}

/**
 * How long the last picture is shown: by its own word, by the length of its track or of a film that holds nothing else;
 * where nothing is said, or nothing that can be, as long as the one before.
 */
function lastTicks(blocks: readonly Block[], said: { track: number; film: number }, before: number): number {
  const last = blocks.at(-1)!
  if (last.duration) return last.duration
  const begin = last.time - blocks[0]!.time
  const left = [said.track, said.film].map(length => length - begin).find(ticks => ticks >= 1)
  return left ?? before
}

/**
 * `said` are the lengths of the track, and of the film where nothing else is in it, in units of the film's scale, 0
 * where they are not told. Of one frame the length is the frame's.
 */
function timing(
  blocks: readonly Block[],
  scale: number,
  entry: Entry,
  said: { track: number; film: number }
): Conformed {
  const told = rateOfDuration(
    numberIn(entry.fields, ID.defaultDuration, 0) || (blocks.length === 1 ? (said.track || said.film) * scale : 0)
  )
  const perSecond = 1e9 / scale
  const ticks = blocks.slice(1).map((block, i) => block.time - blocks[i]!.time)
  const even =
    told && blocks.every(({ time }, i) => Math.abs(time - blocks[0]!.time - (i * told[1] * perSecond) / told[0]) <= 1)
  if (even || ticks.length === 0) return { rate: told, shown: null, findings: [] }
  return timesOf([...ticks, Math.round(lastTicks(blocks, said, ticks.at(-1)!))], perSecond)
}

/** `pictureAt` is the time of the first picture, and `scale` nanoseconds to a unit of times. */
function soundOf(
  entry: Entry,
  blocks: readonly (Block & { laced: boolean })[],
  { pictureAt, scale }: { pictureAt: number; scale: number }
): SoundTrack {
  const rate = Math.round(float(entry.audio.get(ID.samplingFrequency) ?? new Uint8Array(0)))
  const channels = numberIn(entry.audio, ID.channels, 1)
  const bits = numberIn(entry.audio, ID.bitDepth, 0)
  const other = (why: string): SoundTrack => silentTrack(entry.codec, why)
  const pcm = /^A_PCM\/(?:INT\/(LIT|BIG)|FLOAT\/IEEE)$/.exec(entry.codec)
  const floats = entry.codec.endsWith('IEEE')
  const aac = entry.codec === 'A_AAC' && entry.config.length > 0
  if (!pcm && !aac) return other('only PCM and AAC are carried')
  if (blocks.some(block => block.laced)) return other('several packets share one block of it, which is not read')
  if (!(rate >= 1 && rate <= 10_000_000 && channels >= 1 && channels <= 1024))
    return other('its description is damaged')
  if (pcm && bits !== 8 && bits !== 16 && bits !== 24 && bits !== 32) return other('it is not of whole bytes')
  if (floats && bits !== 32) return other('its floats are not of 32 bits')
  const layout = pcm
    ? ({ bits, bigEndian: pcm[1] === 'BIG', unsigned: bits === 8, ...(floats ? { float: true } : {}) } as PcmLayout)
    : null
  const packets: SoundPacket[] = blocks.map(({ offset, size }) => ({
    offset,
    size,
    samples: layout ? Math.floor(size / ((channels * bits) / 8)) : 1024
  }))
  const stored = packets.reduce((sum, packet) => sum + packet.samples, 0)
  // times are rounded to the film's scale: what is less than a unit of it is no distance
  const units = blocks.length ? pictureAt - blocks[0]!.time : 0
  const priming = Math.round((numberIn(entry.fields, ID.codecDelay, 0) * rate) / 1e9)
  const before = Math.abs(units) <= 1 ? 0 : Math.round((units * scale * rate) / 1e9)
  const lead = priming + before
  const coding = layout ? (floats ? 'float' : 'pcm') : 'aac'
  return {
    facts: {
      codec: layout ? `PCM ${bits} bit${floats ? ' float' : ''}` : 'AAC',
      name: new TextDecoder()
        .decode(entry.fields.get(ID.name) ?? new Uint8Array(0))
        .replace(/\0+$/, '')
        .slice(0, 200),
      rate,
      channels,
      samples: Math.max(0, stored - lead),
      coding,
      bits: layout ? carriedBits(layout) : null,
      begins: 0,
      early: Math.max(0, before),
      leftOut: null
    },
    coding,
    layout,
    config: entry.config,
    packets,
    lead
  }
}

/** What was made for QuickTime and carries its letters, or all of its sample description, along. */
function quicktimeOf({ codec, config }: Entry): { code: string; depth: number } | null {
  const letters = (at: number): string => new TextDecoder('latin1').decode(config.subarray(at, at + 4))
  if (codec === 'V_PRORES' && config.length >= 4) return { code: `${codec}/${letters(0)}`, depth: 0 }
  if (codec !== 'V_QUICKTIME' || config.length < 8) return null
  const depth = config.length >= 86 ? new DataView(config.buffer, config.byteOffset).getUint16(82) : 0
  return { code: `${codec}/${letters(4)}`, depth }
}

/** Reads a film's tracks and blocks. Rejects with one clear error where it is damaged. */
export async function readMatroska(reader: ByteReader): Promise<Film> {
  const fail = (place: string | null, matter: string): Error => unreadable(reader.name, place, matter)
  const head = await elementAt(reader, 0)
  if (head.id !== ID.ebml || head.length === null) throw fail('byte 0', 'this is not a Matroska or WebM file')
  const doc = fieldsOf(await reader.read(head.offset, Math.min(head.length, 4096))).get(ID.docType)
  const webm = doc !== undefined && new TextDecoder('latin1').decode(doc).startsWith('webm')
  const segment = await elementAt(reader, head.offset + head.length)
  if (segment.id !== ID.segment) throw fail(`byte ${segment.at}`, 'the segment is missing')
  const end = segment.length === null ? reader.size : segment.offset + segment.length
  if (end > reader.size) throw fail(null, `it says ${end} bytes and has ${reader.size}; it was cut short`)
  const heads = new Heads(reader)
  let scale = 1_000_000
  let length = 0
  let entries: Entry[] = []
  let lengths = new Map<number, number>()
  const blocks = new Map<number, (Block & { laced: boolean })[]>()
  let count = 0
  for (let at = segment.offset; at < end;) {
    const found = await heads.at(at)
    const stop = found.length === null ? end : found.offset + found.length
    if (stop > end) throw fail(`byte ${at}`, 'an element runs beyond the file')
    if (found.length === null && found.id !== ID.cluster)
      throw fail(`byte ${at}`, 'an element has no length; the film is damaged')
    const content = async (): Promise<Uint8Array> => {
      if (found.length! > MOST_HEADERS) throw fail(`byte ${at}`, 'an element is longer than any film needs')
      return reader.read(found.offset, found.length!)
    }
    if (found.id === ID.info) {
      const info = fieldsOf(await content())
      scale = numberIn(info, ID.timestampScale, scale) || scale
      length = float(info.get(ID.duration) ?? new Uint8Array(0)) || 0
    } else if (found.id === ID.tracks) entries = entriesOf(await content(), reader.name)
    else if (found.id === ID.tags) lengths = lengthsOf(await content())
    if (found.id !== ID.cluster) {
      at = stop
      continue
    }
    at = await clusterBlocks(heads, found, stop, reader.name, block => {
      if (++count > MOST_BLOCKS) throw fail(`byte ${block.offset}`, 'it has more blocks than any film needs')
      const list = blocks.get(block.track) ?? []
      list.push(block)
      blocks.set(block.track, list)
    })
  }
  const entry = entries.find(e => e.type === 1)
  if (!entry) throw fail(null, 'it has no video track')
  const [width, height] = [numberIn(entry.video, ID.pixelWidth, 0), numberIn(entry.video, ID.pixelHeight, 0)]
  if (!(width >= 1 && height >= 1 && width * height <= MAX_PIXELS))
    throw fail('the tracks', `a picture of ${width}x${height} cannot be taken`)
  const pictures = (blocks.get(entry.number) ?? []).sort((a, b) => a.time - b.time)
  if (pictures.length === 0) throw fail(null, 'it holds no frames')
  const sounding = entries.filter(e => e.type === 2)
  const times = timing(pictures, scale, entry, {
    track: (lengths.get(numberIn(entry.fields, ID.trackUid, 0)) ?? 0) / scale,
    film: sounding.length ? 0 : length
  })
  const beside = numberIn(entry.video, ID.alphaMode, 0) === 1 || pictures[0]!.side !== undefined
  // what was made for AVI carries its bitmap header along
  const bitmap = entry.codec === 'V_MS/VFW/FOURCC' && entry.config.length >= 40
  const described = quicktimeOf(entry)
  const code = bitmap
    ? `V_${new TextDecoder('latin1').decode(entry.config.subarray(16, 20))}`
    : (described?.code ?? entry.codec)
  const unit = numberIn(entry.video, ID.displayUnit, 0)
  const shown = [numberIn(entry.video, ID.displayWidth, width), numberIn(entry.video, ID.displayHeight, height)]
  const shape = unit === 0 || unit === 3 ? nearestRate([shown[0]! * height, shown[1]! * width]) : null
  const colour = fieldsOf(entry.video.get(ID.colour))
  const interlaced = numberIn(entry.video, ID.flagInterlaced, 0)
  const fields =
    interlaced === 2
      ? 'progressive'
      : interlaced === 1
        ? (ORDERS[numberIn(entry.video, ID.fieldOrder, 2)] ?? 'top-first')
        : null
  return {
    picture: {
      container: 'matroska',
      code,
      kind: webm ? 'WebM' : 'Matroska',
      config: bitmap ? entry.config.slice(40) : entry.config,
      ...(entry.fields.has(ID.name) ? { name: new TextDecoder().decode(entry.fields.get(ID.name)).slice(0, 200) } : {}),
      width,
      height,
      depth: described?.depth ?? 0,
      bottomUp: false,
      claim: carriesAlpha =>
        !carriesAlpha
          ? { mode: 'none', matte: null, says: 'no alpha in or beside the frames' }
          : beside
            ? { mode: 'straight', matte: null, says: 'AlphaMode 1, alpha as side data' }
            : { mode: 'unknown', matte: null, says: 'a plane of alpha; nothing in the file says how it is stored' },
      colour:
        colour.size > 0
          ? [numberIn(colour, ID.primaries, 2), numberIn(colour, ID.transfer, 2), numberIn(colour, ID.matrix, 2)]
          : null,
      levels: levelsIn(colour),
      range: RANGES[numberIn(colour, ID.range, 0)] ?? null,
      pixelAspect: shape && shape[0] < 65536 && shape[1] < 65536 ? [shape[0], shape[1]] : [1, 1],
      fields,
      rate: times.rate,
      timecode: null,
      packets: pictures,
      shown: times.shown,
      findings: times.findings
    },
    sounds: sounding.map(sound =>
      soundOf(sound, blocks.get(sound.number) ?? [], { pictureAt: pictures[0]!.time, scale })
    )
  }
}
