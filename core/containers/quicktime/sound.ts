/**
 * Sound in QuickTime films: reading a sound description of any version, and writing one (QuickTime File Format, "Sound
 * sample descriptions"; ISO/IEC 14496-14 for AAC).
 */
import { concatenate } from '../../files/bytes'
import { carriedBits, turned } from '../../sound/pcm'
import { silentTrack, type PcmLayout, type SoundForm, type SoundPacket, type SoundTrack } from '../../sound/sound'
import { atom, fields, letters, listAtoms, printable, type Atom } from './atoms'
import { chunksOf, sizesOf, type Track, type TrackReader } from './tables'

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

/** How samples of a code are stored; null for what is not whole numbers. */
async function layoutOf(film: TrackReader, described: Description): Promise<PcmLayout | null> {
  const { code, bits, packed } = described
  const whole = (width: number): width is 16 | 24 | 32 => width === 16 || width === 24 || width === 32
  if (code === 'lpcm' && packed) {
    const float = (packed.flags & 1) !== 0
    return !float && whole(bits) && packed.bytes === (described.channels * bits) / 8
      ? { bits, bigEndian: (packed.flags & 2) !== 0, unsigned: false }
      : null
  }
  if (code === 'raw ') return bits === 8 ? { bits: 8, bigEndian: false, unsigned: true } : null
  if (code === 'sowt' || code === 'twos') {
    if (bits === 8) return { bits: 8, bigEndian: false, unsigned: false }
    return whole(bits) ? { bits, bigEndian: code === 'twos', unsigned: false } : null
  }
  if (code === 'in24' || code === 'in32') {
    const order = await within(film, described, 'enda')
    const little = order ? ((await film.reader.read(order.offset, 2))[1] ?? 0) === 1 : false
    return { bits: code === 'in24' ? 24 : 32, bigEndian: !little, unsigned: false }
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

/**
 * Samples at the head of the sound that lie before the first picture: negative where it begins later. Null for lists
 * that do more.
 */
async function leadOf(film: TrackReader, { track }: Track, rate: number, movieScale: number): Promise<number | null> {
  const list = await film.find(track, 'edts', 'elst')
  if (!list) return 0
  const { view } = await film.table(list, 8)
  const wide = view.getUint8(0) === 1
  const { count, start } = await film.entries(list, 4, wide ? 20 : 12)
  let late = 0
  for (let i = 0; i < count; i++) {
    const at = start + i * (wide ? 20 : 12)
    const duration = wide ? Number(view.getBigUint64(at)) : view.getUint32(at)
    const time = wide ? Number(view.getBigInt64(at + 8)) : view.getInt32(at + 4)
    if (time >= 0) return i === count - 1 ? time - late : null
    late += Math.round((duration * rate) / movieScale)
  }
  return -late
}

async function movieScaleOf(film: TrackReader): Promise<number> {
  const top = await listAtoms(film.reader, 0, film.reader.size)
  const movie = top.find(child => child.type === 'moov')!
  const header = await film.find(movie, 'mvhd')
  if (!header) return 600
  const { view } = await film.table(header, 20)
  return view.getUint32(view.getUint8(0) === 1 ? 20 : 12) || 600
}

/** Runs of samples of one duration, as a packet's duration in samples. */
async function packetDuration(film: TrackReader, tables: Atom): Promise<number> {
  const { view, count, start } = await film.entries(await film.need(tables, 'stts'), 4, 8)
  return count ? view.getUint32(start + 4) : 1024
}

/**
 * The sound of a track. What Pour cannot carry is described, not refused: a film with damaged sound still has its
 * pictures. Lengths are held against the file before memory is taken.
 */
export async function soundOf(film: TrackReader, sounding: Track): Promise<SoundTrack> {
  const words = (codec: string): SoundTrack => silentTrack(codec, 'Pour does not read it')
  try {
    const { tables } = sounding
    const described = await descriptionOf(film, await film.need(tables, 'stsd'))
    const { code, channels } = described
    const rate = Math.round(described.rate)
    if (!(channels >= 1 && channels <= 1024 && rate >= 1 && rate <= 10_000_000)) return words(`"${printable(code)}"`)
    const lead = await leadOf(film, sounding, rate, await movieScaleOf(film))
    const layout = await layoutOf(film, described)
    const esds = code === 'mp4a' ? await within(film, described, 'esds') : null
    const config = esds ? specificConfig(await film.reader.read(esds.offset, Math.min(esds.length, 4096))) : null
    const sizes = await sizesOf(film, tables)
    const packets: SoundPacket[] = []
    if (layout) {
      const frame = (channels * layout.bits) / 8
      if (sizes.count > MOST_SAMPLES || sizes.count * frame > film.reader.size)
        return words('PCM that the film cuts short')
      for (const { offset, samples } of await chunksOf(film, tables, sizes.count)) {
        if (offset + samples * frame > film.reader.size) return words('PCM that the film cuts short')
        packets.push({ offset, size: samples * frame, samples })
      }
    } else if (config) {
      const duration = await packetDuration(film, tables)
      if (sizes.count > MOST_PACKETS || sizes.count * Math.max(1, sizes.common) > film.reader.size)
        return words('AAC of more packets than the film holds')
      for (const { offset, samples } of await chunksOf(film, tables, sizes.count)) {
        let at = offset
        for (let i = 0; i < samples; i++) {
          const size = sizes.at(packets.length)
          if (at + size > film.reader.size) return words('AAC that the film cuts short')
          packets.push({ offset: at, size, samples: duration })
          at += size
        }
      }
    }
    const stored = packets.reduce((sum, packet) => sum + packet.samples, 0)
    const known = layout !== null || config !== null
    return {
      facts: {
        codec: layout ? `PCM ${layout.bits} bit` : config ? 'AAC' : `"${printable(code)}"`,
        rate,
        channels,
        samples: known ? Math.max(0, stored - (lead ?? 0)) : null,
        coding: layout ? 'pcm' : config ? 'aac' : 'other',
        bits: layout ? carriedBits(layout) : null,
        begins: 0,
        leftOut: !known
          ? 'only PCM and AAC are carried'
          : lead === null
            ? 'its edit list plays parts of it more than once'
            : null
      },
      coding: layout ? 'pcm' : config ? 'aac' : 'other',
      layout,
      config: config ?? new Uint8Array(0),
      packets,
      lead: lead ?? 0
    }
  } catch {
    return words('a sound track that cannot be read')
  }
}

const pcmCode = ({ bits }: SoundForm): string => (bits === 16 ? 'sowt' : bits === 24 ? 'in24' : 'in32')

/**
 * PCM as the film stores it: 16 bits little-endian under "sowt", others big-endian. `bytes` are little-endian, and
 * changed in place.
 */
export function storedPcm(bytes: Uint8Array, { bits }: SoundForm): Uint8Array {
  return bits === 16 ? bytes : turned(bytes, bits / 8)
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

/** The sample description of a delivery's sound, version 1. */
export function soundDescription(form: SoundForm): Uint8Array {
  const { channels, rate, bits } = form
  const pcm = form.coding === 'pcm'
  const code = pcm ? pcmCode(form) : 'mp4a'
  const width = bits / 8
  const head = fields(
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
    [32, rate < 65536 ? rate * 65536 : 0],
    [32, pcm ? 1 : 1024],
    [32, pcm ? width : 0],
    [32, pcm ? width * channels : 0],
    [32, pcm ? width : 2]
  )
  const wave = pcm
    ? []
    : [
        atom(
          'wave',
          atom('frma', letters('mp4a')),
          atom('mp4a', fields([32, 0])),
          esdsAtom(form.config),
          fields([32, 8], [32, 0])
        )
      ]
  return atom('stsd', fields([32, 0], [32, 1]), atom(code, head, ...wave))
}
