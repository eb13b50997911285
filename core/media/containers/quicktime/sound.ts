/**
 * Sound in QuickTime films: reading a sound description of any version, and writing one (QuickTime File Format, "Sound
 * sample descriptions"; ISO/IEC 14496-14 for AAC).
 */
import { concatenate } from '../../../base/files/bytes'
import { carriedBits, turned } from '../../sound/pcm'
import {
  isSampled,
  silentTrack,
  type PcmLayout,
  type SoundForm,
  type SoundPacket,
  type SoundTrack
} from '../../../source/sound'
import { atom, fields, letters, listAtoms, printable, type Atom } from './atoms'
import type { Fragments } from './fragments'
import { chunksOf, sizesOf, type QuickTimeTrack, type TrackReader } from './tables'
import { editsOf, emptyBefore } from './times'

const MOST_SAMPLES = 2 ** 36
const MOST_PACKETS = 10_000_000

interface Description {
  code: string
  channels: number
  bits: number
  rate: number
  version: number
  /** Of version 2, "lpcm": bytes of a packet, and flags: 1 float, 2 big-endian, 4 signed. */
  packed: { bytes: number; flags: number } | null
  children: Atom[]
}

async function descriptionOf(film: TrackReader, atomOf: Atom): Promise<Description> {
  const { view, bytes } = await film.table(atomOf, 8 + 36)
  const at = 8
  const size = Math.min(view.getUint32(at), view.byteLength - at)
  const version = view.getUint16(at + 16)
  const code = String.fromCharCode(...bytes.subarray(at + 4, at + 8))
  const plain: Description = {
    code,
    channels: view.getUint16(at + 24),
    bits: view.getUint16(at + 26),
    rate: view.getUint32(at + 32) / 65536,
    version,
    packed: null,
    children: []
  }
  const head = version === 0 ? 36 : version === 1 ? 52 : 72
  if (version === 2 && size >= 72) {
    plain.rate = view.getFloat64(at + 40)
    plain.channels = view.getUint32(at + 48)
    plain.bits = view.getUint32(at + 56)
    plain.packed = { bytes: view.getUint32(at + 64), flags: view.getUint32(at + 60) }
  }
  if (size > head + 8) {
    const from = atomOf.offset + at + head
    plain.children = await listAtoms(film.reader, from, atomOf.offset + at + size).catch(() => [])
  }
  return plain
}

/** The atom of a type among a description's own and those of its "wave". */
async function within(film: TrackReader, { children }: Description, type: string): Promise<Atom | null> {
  const own = children.find(child => child.type === type)
  if (own) return own
  const wave = children.find(child => child.type === 'wave')
  if (!wave) return null
  const inner = await listAtoms(film.reader, wave.offset, wave.offset + wave.length).catch(() => [])
  return inner.find(child => child.type === type) ?? null
}

/** How samples of a code are stored; null for what is neither whole numbers nor floats of 32 bits. */
async function layoutOf(film: TrackReader, described: Description): Promise<PcmLayout | null> {
  const { code, bits, packed } = described
  const whole = (width: number): width is 16 | 24 | 32 => width === 16 || width === 24 || width === 32
  if (code === 'lpcm' && packed) {
    const float = (packed.flags & 1) !== 0
    if (float && bits !== 32) return null
    return whole(bits) && packed.bytes === (described.channels * bits) / 8
      ? { bits, bigEndian: (packed.flags & 2) !== 0, unsigned: false, ...(float ? { float } : {}) }
      : null
  }
  if (code === 'raw ') return bits === 8 ? { bits: 8, bigEndian: false, unsigned: true } : null
  if (code === 'sowt' || code === 'twos') {
    if (bits === 8) return { bits: 8, bigEndian: false, unsigned: false }
    return whole(bits) ? { bits, bigEndian: code === 'twos', unsigned: false } : null
  }
  if (code === 'in24' || code === 'in32' || code === 'fl32') {
    const order = await within(film, described, 'enda')
    const little = order ? ((await film.reader.read(order.offset, 2))[1] ?? 0) === 1 : false
    const float = code === 'fl32'
    return { bits: code === 'in24' ? 24 : 32, bigEndian: !little, unsigned: false, ...(float ? { float } : {}) }
  }
  return null
}

/**
 * The AudioSpecificConfig in an "esds": descriptors 3, 4 and 5 within each other (ISO/IEC 14496-1, 7.2.6). Null where
 * it is none.
 */
export function specificConfig(esds: Uint8Array): Uint8Array | null {
  let at = 4
  const tagAt = (wanted: number): number => {
    if (esds[at++] !== wanted) return -1
    let length = 0
    for (let i = 0; i < 4; i++) {
      const byte = esds[at++] ?? 0
      length = (length << 7) | (byte & 127)
      if (!(byte & 128)) break
    }
    return length
  }
  if (tagAt(3) < 0) return null
  const flags = esds[at + 2] ?? 0
  at += 3 + (flags & 128 ? 2 : 0) + (flags & 64 ? 1 + (esds[at + 3] ?? 0) : 0) + (flags & 32 ? 2 : 0)
  if (tagAt(4) < 0 || esds[at] !== 0x40) return null
  at += 13
  const length = tagAt(5)
  return length > 0 && at + length <= esds.length ? esds.slice(at, at + length) : null
}

/** What a film says of the time that its tracks share. */
export interface FilmTiming {
  /** Seconds before the first picture is shown. */
  pictureAt: number
  /** Units a second of the track's media, 0 where it says none, and of the film. */
  scales: { track: number; film: number }
  /** Packets that lie in fragments behind the index; null where there are none. */
  fragments: Fragments | null
}

/**
 * Samples at the head of the sound that lie before the first picture, negative where it begins later; and those of them
 * that are heard. Null for lists that do more than choose a beginning.
 */
async function leadOf(
  film: TrackReader,
  { track }: QuickTimeTrack,
  rate: number,
  { pictureAt, scales }: FilmTiming
): Promise<{ lead: number; early: number } | null> {
  const edits = await editsOf(film, track)
  const playing = edits.findIndex(({ from }) => from >= 0)
  if (playing >= 0 && playing !== edits.length - 1) return null
  const late = emptyBefore(edits) / scales.film
  const skipped = playing >= 0 ? (edits[playing]!.from * rate) / (scales.track || rate) : 0
  const before = Math.round((pictureAt - late) * rate)
  return { lead: Math.round(skipped) + before, early: Math.max(0, before) }
}

/** What a track is called: its own words, where it has any (QuickTime File Format, "User data atoms"). */
async function nameOf(film: TrackReader, { track }: QuickTimeTrack): Promise<string> {
  const atomOf = await film.find(track, 'udta', 'name')
  if (!atomOf || atomOf.length > 1024) return ''
  const bytes = await film.reader.read(atomOf.offset, atomOf.length)
  return printable(new TextDecoder().decode(bytes).replace(/\0+$/, ''))
}

/** Runs of samples of one duration, as a packet's duration in samples. */
async function packetDuration(film: TrackReader, tables: Atom): Promise<number> {
  const { view, count, start } = await film.entries(await film.need(tables, 'stts'), 4, 8)
  return count ? view.getUint32(start + 4) : 1024
}

/** Where the packets of a track lie; words where the film cuts them short. */
async function packetsIn(
  film: TrackReader,
  { tables }: QuickTimeTrack,
  { layout, channels }: { layout: PcmLayout | null; channels: number },
  fragments: Fragments | null
): Promise<SoundPacket[] | string> {
  const packets: SoundPacket[] = []
  const sizes = await sizesOf(film, tables)
  const frame = layout ? (channels * layout.bits) / 8 : 0
  if (layout) {
    if (sizes.count > MOST_SAMPLES || sizes.count * frame > film.reader.size) return 'PCM that the film cuts short'
    for (const { offset, samples } of await chunksOf(film, tables, sizes.count)) {
      if (offset + samples * frame > film.reader.size) return 'PCM that the film cuts short'
      packets.push({ offset, size: samples * frame, samples })
    }
  } else {
    const duration = sizes.count ? await packetDuration(film, tables) : 1024
    if (sizes.count > MOST_PACKETS || sizes.count * Math.max(1, sizes.common) > film.reader.size)
      return 'AAC of more packets than the film holds'
    for (const { offset, samples } of await chunksOf(film, tables, sizes.count)) {
      let at = offset
      for (let i = 0; i < samples; i++) {
        const size = sizes.at(packets.length)
        if (at + size > film.reader.size) return 'AAC that the film cuts short'
        packets.push({ offset: at, size, samples: duration })
        at += size
      }
    }
  }
  fragments?.packets.forEach(({ offset, size }, i) =>
    packets.push({ offset, size, samples: layout ? Math.floor(size / frame) : fragments.ticks[i]! })
  )
  return packets
}

/**
 * The sound of a track. What Pour cannot carry is described, not refused: a film with damaged sound still has its
 * pictures. Lengths are held against the file before memory is taken.
 */
export async function soundOf(film: TrackReader, sounding: QuickTimeTrack, beside: FilmTiming): Promise<SoundTrack> {
  const words = (codec: string): SoundTrack => silentTrack(codec, 'Pour does not read it')
  try {
    const { tables } = sounding
    const described = await descriptionOf(film, await film.need(tables, 'stsd'))
    const { code, channels } = described
    const rate = Math.round(described.rate)
    if (!(channels >= 1 && channels <= 1024 && rate >= 1 && rate <= 10_000_000)) return words(`"${printable(code)}"`)
    const led = await leadOf(film, sounding, rate, beside)
    const layout = await layoutOf(film, described)
    const esds = code === 'mp4a' ? await within(film, described, 'esds') : null
    const config = esds ? specificConfig(await film.reader.read(esds.offset, Math.min(esds.length, 4096))) : null
    const known = layout !== null || config !== null
    const packets = known ? await packetsIn(film, sounding, { layout, channels }, beside.fragments) : []
    if (typeof packets === 'string') return words(packets)
    const stored = packets.reduce((sum, packet) => sum + packet.samples, 0)
    const coding = layout ? (layout.float ? 'float' : 'pcm') : config ? 'aac' : 'other'
    const { lead, early } = led ?? { lead: 0, early: 0 }
    return {
      facts: {
        codec: layout
          ? `PCM ${layout.bits} bit${layout.float ? ' float' : ''}`
          : config
            ? 'AAC'
            : `"${printable(code)}"`,
        name: await nameOf(film, sounding),
        rate,
        channels,
        samples: known ? Math.max(0, stored - lead) : null,
        coding,
        bits: layout ? carriedBits(layout) : null,
        begins: 0,
        early,
        leftOut: !known
          ? 'only PCM and AAC are carried'
          : led === null
            ? 'its edit list plays parts of it more than once'
            : null
      },
      coding,
      layout,
      config: config ?? new Uint8Array(0),
      packets,
      lead
    }
  } catch {
    return words('a sound track that cannot be read')
  }
}

/** Rates from here on are beyond what a description of version 1 can say. */
const FAST = 65536

/** Whether samples are described by version 2, which alone knows fast rates and floats by flags. */
const isLinear = (form: SoundForm): boolean => form.coding === 'float' || (form.coding === 'pcm' && form.rate >= FAST)

const pcmCode = (form: SoundForm): string =>
  isLinear(form) ? 'lpcm' : form.bits === 16 ? 'sowt' : form.bits === 24 ? 'in24' : 'in32'

/**
 * PCM as the film stores it: 16 bits little-endian under "sowt" and all of "lpcm", others big-endian. `bytes` are
 * little-endian, and changed in place.
 */
export function storedPcm(bytes: Uint8Array, form: SoundForm): Uint8Array {
  return form.bits === 16 || isLinear(form) ? bytes : turned(bytes, form.bits / 8)
}

/** An "esds" around an AudioSpecificConfig. */
function esdsAtom(config: Uint8Array): Uint8Array {
  const tagged = (tag: number, ...content: (Uint8Array | readonly number[])[]): Uint8Array => {
    const body = concatenate(content.map(part => Uint8Array.from(part)))
    return concatenate([Uint8Array.from([tag, 0x80, 0x80, 0x80, body.length]), body])
  }
  const decoder = tagged(4, [0x40, 0x15], [0, 0, 0], fields([32, 0], [32, 0]), tagged(5, config))
  return atom('esds', fields([32, 0]), tagged(3, [0, 0, 0], decoder, tagged(6, [2])))
}

/** A number of IEEE 754 with 64 bits. */
function double(value: number): Uint8Array {
  const bytes = new Uint8Array(8)
  new DataView(bytes.buffer).setFloat64(0, value)
  return bytes
}

/** The head of version 2 (QuickTime File Format, "Sound sample description, version 2"). */
function linearHead({ coding, channels, rate, bits }: SoundForm): Uint8Array {
  const pcm = coding !== 'aac'
  // 1 float, 4 signed, 8 packed; little-endian by its absence
  const flags = !pcm ? 0 : coding === 'float' ? 1 | 8 : 4 | 8
  return concatenate([
    fields([32, 0], [16, 0], [16, 1], [16, 2], [16, 0], [32, 0]),
    fields([16, 3], [16, 16], [16, 0xfffe], [16, 0], [32, 65536], [32, 72]),
    double(rate),
    fields(
      [32, channels],
      [32, 0x7f000000],
      [32, pcm ? bits : 0],
      [32, flags],
      [32, pcm ? (channels * bits) / 8 : 0],
      [32, pcm ? 1 : 1024]
    )
  ])
}

/** The head of version 1. */
function head({ coding, channels, rate, bits }: SoundForm): Uint8Array {
  const pcm = coding === 'pcm'
  const width = bits / 8
  return fields(
    [32, 0],
    [16, 0],
    [16, 1],
    [16, 1],
    [16, 0],
    [32, 0],
    [16, channels],
    [16, 16],
    [16, pcm ? 0 : 0xfffe],
    [16, 0],
    [32, rate * 65536],
    [32, pcm ? 1 : 1024],
    [32, pcm ? width : 0],
    [32, pcm ? width * channels : 0],
    [32, pcm ? width : 2]
  )
}

/** The sample description of a delivery's sound. */
export function soundDescription(form: SoundForm): Uint8Array {
  if (isSampled(form))
    return atom('stsd', fields([32, 0], [32, 1]), atom(pcmCode(form), isLinear(form) ? linearHead(form) : head(form)))
  const wave = atom(
    'wave',
    atom('frma', letters('mp4a')),
    atom('mp4a', fields([32, 0])),
    esdsAtom(form.config),
    fields([32, 8], [32, 0])
  )
  const coded = form.rate >= FAST ? [linearHead(form), esdsAtom(form.config)] : [head(form), wave]
  return atom('stsd', fields([32, 0], [32, 1]), atom('mp4a', ...coded))
}
