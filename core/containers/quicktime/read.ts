/**
 * Reading QuickTime films: the video track's facts and its table of samples, every count and offset checked against the
 * file before memory is taken for it.
 */
import { impossible, unreadable } from '../../errors'
import type { ByteReader } from '../../files/file'
import { MAX_PIXELS } from '../../frame/frame'
import { reduceRate, type Rate } from '../../rate'
import type { Finding } from '../../source/source'
import { frameToTimecode } from '../../timecode'
import { listAtoms, printable, type Atom } from './atoms'

export interface VideoTrack {
  codec: string
  width: number
  height: number
  /** The sample description's depth: 24 without alpha, 32 with. */
  depth: number
  graphicsMode: number
  opcolor: readonly [number, number, number]
  /** nclc or nclx tag: primaries, transfer, matrix. */
  colour: readonly [number, number, number] | null
  pixelAspect: readonly [number, number]
  /** 1 progressive, 2 interlaced, from the field atom. */
  fields: number
  rate: Rate | null
  /** Time code of the first frame. */
  timecode: string | null
  /** The first sound track in words, or null. */
  sound: string | null
  samples: { offset: number; size: number; key: boolean }[]
  findings: Finding[]
}

interface Table {
  view: DataView
  bytes: Uint8Array
}

/** No table of a film may be longer than this. */
const MAX_TABLE = 1 << 28
/** Over a day at 50 frames a second. */
const MAX_FRAMES = 5_000_000

class TrackReader {
  constructor(readonly reader: ByteReader) {}

  fail(place: string, matter: string): Error {
    return unreadable(this.reader.name, place, matter)
  }

  async children(parent: Atom, from = 0): Promise<Atom[]> {
    return listAtoms(this.reader, parent.offset + from, parent.offset + parent.length)
  }

  async find(parent: Atom, ...path: string[]): Promise<Atom | null> {
    let atom: Atom | undefined = parent
    for (const type of path) {
      atom = (await this.children(atom)).find(a => a.type === type)
      if (!atom) return null
    }
    return atom
  }

  async need(parent: Atom, ...path: string[]): Promise<Atom> {
    const atom = await this.find(parent, ...path)
    if (!atom) throw this.fail(`atom ${path.at(-1)}`, 'it is missing; the film cannot be read without it')
    return atom
  }

  async table(atom: Atom, least: number): Promise<Table> {
    if (atom.length < least || atom.length > MAX_TABLE)
      throw this.fail(`atom ${atom.type}`, `its length of ${atom.length} bytes cannot be right`)
    const bytes = await this.reader.read(atom.offset, atom.length)
    if (bytes.length < atom.length) throw this.fail(`atom ${atom.type}`, 'it is cut short')
    return { bytes, view: new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength) }
  }

  /** A table of `count` entries of `size` bytes, the count standing at `at` and the entries behind it. */
  async entries(atom: Atom, at: number, size: number): Promise<{ view: DataView; count: number; start: number }> {
    const { view } = await this.table(atom, at + 4)
    const count = view.getUint32(at)
    if (count * size > view.byteLength - at - 4)
      throw this.fail(`atom ${atom.type}`, `it claims ${count} entries, more than it has room for`)
    return { view, count, start: at + 4 }
  }
}

interface Track {
  track: Atom
  media: Atom
  tables: Atom
}

/** The first track of each kind of media: "vide", "tmcd", "soun". */
async function tracksOf(film: TrackReader): Promise<Map<string, Track>> {
  const top = await listAtoms(film.reader, 0, film.reader.size)
  const movie = top.find(a => a.type === 'moov')
  if (!movie)
    throw film.fail(
      'end of file',
      'the index of the film (atom moov) is missing; the film was cut short or never finished'
    )
  const tracks = new Map<string, Track>()
  for (const track of await film.children(movie)) {
    if (track.type !== 'trak') continue
    const handler = await film.find(track, 'mdia', 'hdlr')
    if (!handler) continue
    const { bytes } = await film.table(handler, 12)
    const kind = String.fromCharCode(...bytes.subarray(8, 12))
    if (!['vide', 'tmcd', 'soun'].includes(kind) || tracks.has(kind)) continue
    const media = await film.need(track, 'mdia')
    tracks.set(kind, { track, media, tables: await film.need(media, 'minf', 'stbl') })
  }
  return tracks
}

/** The time code that a track of it begins with, or null where that cannot be told. */
async function timecodeOf(film: TrackReader, { tables }: Track, rate: Rate | null): Promise<string | null> {
  const { view } = await film.table(await film.need(tables, 'stsd'), 8 + 34)
  const offsets = await film.find(tables, 'stco')
  const wide = await film.find(tables, 'co64')
  const place = offsets ?? wide
  if (!rate || !place) return null
  const entries = await film.entries(place, 4, wide && !offsets ? 8 : 4)
  if (entries.count < 1) return null
  const at = wide && !offsets ? Number(entries.view.getBigUint64(entries.start)) : entries.view.getUint32(entries.start)
  const bytes = await film.reader.read(at, 4)
  if (bytes.length < 4) throw film.fail('the time code', 'it lies beyond the end of the file; the film was cut short')
  return frameToTimecode(
    new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0),
    rate,
    (view.getUint32(8 + 20) & 1) === 1
  )
}

/** A sound track in words: four letters of its codec, channels and rate, from its description. Null where that is cut short. */
async function soundOf(film: TrackReader, { tables }: Track): Promise<string | null> {
  const atom = await film.find(tables, 'stsd')
  if (!atom || atom.length < 8 + 36) return 'a sound track that cannot be read'
  const { view, bytes } = await film.table(atom, 8 + 36)
  const channels = view.getUint16(8 + 24)
  const codec = printable(String.fromCharCode(...bytes.subarray(12, 16)))
  return `${codec}, ${channels} ${channels === 1 ? 'channel' : 'channels'}, ${view.getUint16(8 + 32)} Hz`
}

async function description(
  film: TrackReader,
  tables: Atom
): Promise<Pick<VideoTrack, 'codec' | 'width' | 'height' | 'depth' | 'colour' | 'pixelAspect' | 'fields'>> {
  const atom = await film.need(tables, 'stsd')
  const { view, bytes } = await film.table(atom, 8 + 86)
  const size = view.getUint32(8)
  if (view.getUint32(4) < 1 || size < 86 || 8 + size > view.byteLength)
    throw film.fail('atom stsd', 'the sample description is damaged')
  const result: Awaited<ReturnType<typeof description>> = {
    codec: String.fromCharCode(...bytes.subarray(12, 16)),
    width: view.getUint16(8 + 32),
    height: view.getUint16(8 + 34),
    depth: view.getUint16(8 + 82),
    colour: null,
    pixelAspect: [1, 1],
    fields: 1
  }
  if (result.width < 1 || result.height < 1 || result.width * result.height > MAX_PIXELS)
    throw film.fail('atom stsd', `a picture of ${result.width}x${result.height} cannot be taken`)
  // a list of extensions may end in four zero bytes
  const end = atom.offset + 8 + size
  for (const extension of await listAtoms(
    film.reader,
    atom.offset + 8 + 86,
    view.getUint32(8 + size - 4) === 0 && size >= 90 ? end - 4 : end
  )) {
    const at = extension.offset - atom.offset
    const kind =
      extension.type === 'colr' && extension.length >= 10 ? String.fromCharCode(...bytes.subarray(at, at + 4)) : ''
    if (kind === 'nclc' || kind === 'nclx')
      result.colour = [view.getUint16(at + 4), view.getUint16(at + 6), view.getUint16(at + 8)]
    if (extension.type === 'pasp' && extension.length >= 8)
      result.pixelAspect = [view.getUint32(at) || 1, view.getUint32(at + 4) || 1]
    if (extension.type === 'fiel' && extension.length >= 1) result.fields = bytes[at]!
  }
  return result
}

async function timing(
  film: TrackReader,
  media: Atom,
  tables: Atom,
  count: number
): Promise<{ rate: Rate | null; findings: Finding[] }> {
  const header = await film.table(await film.need(media, 'mdhd'), 20)
  const timescale = header.view.getUint32(header.bytes[0] === 1 ? 20 : 12)
  const { view, count: runs, start } = await film.entries(await film.need(tables, 'stts'), 4, 8)
  let frames = 0
  let units = 0
  let commonest = { duration: 0, frames: 0 }
  const byDuration = new Map<number, number>()
  for (let i = 0; i < runs; i++) {
    const n = view.getUint32(start + i * 8)
    const duration = view.getUint32(start + i * 8 + 4)
    frames += n
    units += n * duration
    const total = (byDuration.get(duration) ?? 0) + n
    byDuration.set(duration, total)
    if (total > commonest.frames) commonest = { duration, frames: total }
  }
  if (frames !== count) throw film.fail('atom stts', `it times ${frames} frames; the film has ${count}`)
  if (timescale === 0 || commonest.duration === 0) return { rate: null, findings: [] }
  const rate = reduceRate([timescale, commonest.duration])
  // the last frame often lasts differently without meaning it
  const odd = frames - commonest.frames
  if (odd <= 1) return { rate, findings: [] }
  return {
    rate,
    findings: [
      {
        id: 'uneven-timing',
        severity: 'warning',
        frames: [],
        sentence: `${odd} of ${frames} frames last longer or shorter than the others; the film takes ${Math.round((units / timescale) * 1000) / 1000} s.`
      }
    ]
  }
}

async function sampleTable(film: TrackReader, tables: Atom): Promise<VideoTrack['samples']> {
  const sizes = await film.table(await film.need(tables, 'stsz'), 12)
  const common = sizes.view.getUint32(4)
  const count = sizes.view.getUint32(8)
  if (common === 0 && count * 4 > sizes.view.byteLength - 12)
    throw film.fail('atom stsz', `it claims ${count} frames, more than it has room for`)
  if (count < 1) throw film.fail('atom stsz', 'the film has no frames')
  if (count > MAX_FRAMES)
    throw film.fail('atom stsz', `it claims ${count} frames, more than the ${MAX_FRAMES} Pour takes`)
  if (count * Math.max(common, 1) > film.reader.size && common > 0)
    throw film.fail('atom stsz', `it claims ${count} frames of ${common} bytes, more than the file holds`)

  const wide = await film.find(tables, 'co64')
  const offsets = await film.entries(wide ?? (await film.need(tables, 'stco')), 4, wide ? 8 : 4)
  const offsetOf = (i: number): number =>
    wide ? Number(offsets.view.getBigUint64(offsets.start + i * 8)) : offsets.view.getUint32(offsets.start + i * 4)
  const runs = await film.entries(await film.need(tables, 'stsc'), 4, 12)
  const sync = await film.find(tables, 'stss')
  let keys: Set<number> | null = null
  if (sync) {
    const list = await film.entries(sync, 4, 4)
    keys = new Set()
    for (let i = 0; i < list.count; i++) keys.add(list.view.getUint32(list.start + i * 4) - 1)
  }
  const samples: VideoTrack['samples'] = []
  let run = 0
  for (let chunk = 0; chunk < offsets.count && samples.length < count; chunk++) {
    while (run + 1 < runs.count && runs.view.getUint32(runs.start + (run + 1) * 12) <= chunk + 1) run++
    const perChunk = runs.count ? runs.view.getUint32(runs.start + run * 12 + 4) : 1
    let offset = offsetOf(chunk)
    for (let i = 0; i < perChunk && samples.length < count; i++) {
      const size = common || sizes.view.getUint32(12 + samples.length * 4)
      if (offset + size > film.reader.size)
        throw film.fail(
          `frame ${samples.length + 1}`,
          'its data lies beyond the end of the file; the film was cut short'
        )
      samples.push({ offset, size, key: keys === null || keys.has(samples.length) })
      offset += size
    }
  }
  if (samples.length < count) throw film.fail('atom stsc', `it places ${samples.length} of ${count} frames`)
  return samples
}

/** An edit list that does more than show the whole media from its first frame at normal speed is reported. */
async function edits(film: TrackReader, track: Atom): Promise<Finding[]> {
  const list = await film.find(track, 'edts', 'elst')
  if (!list) return []
  const { view, count, start } = await film.entries(list, 4, 12)
  if (view.getUint8(0) !== 0) return []
  const plain = count === 0 || (count === 1 && view.getInt32(start + 4) === 0 && view.getUint32(start + 8) === 0x10000)
  return plain
    ? []
    : [
        {
          id: 'edit-list',
          severity: 'warning',
          frames: [],
          sentence:
            'The film has an edit list that hides, repeats or slows part of it. Pour shows every stored frame once.'
        }
      ]
}

/** Reads the first video track of a film. Rejects with one clear error where the film is damaged. */
export async function readFilm(reader: ByteReader): Promise<VideoTrack> {
  const film = new TrackReader(reader)
  const tracks = await tracksOf(film)
  const video = tracks.get('vide')
  if (!video) throw film.fail('atom moov', 'the film has no video track')
  const { track, media, tables } = video
  const described = await description(film, tables)
  const samples = await sampleTable(film, tables)
  const { rate, findings } = await timing(film, media, tables, samples.length)
  const header = await film.find(media, 'minf', 'vmhd')
  const look = header ? await film.table(header, 12) : null
  const counted = tracks.get('tmcd')
  const sounding = tracks.get('soun')
  return {
    ...described,
    graphicsMode: look ? look.view.getUint16(4) : 0,
    opcolor: look ? [look.view.getUint16(6), look.view.getUint16(8), look.view.getUint16(10)] : [0, 0, 0],
    rate,
    timecode: counted ? await timecodeOf(film, counted, rate) : null,
    sound: sounding ? await soundOf(film, sounding) : null,
    samples,
    findings: [
      ...findings,
      ...(await edits(film, track)),
      ...(described.fields > 1
        ? [
            {
              id: 'interlaced',
              severity: 'warning' as const,
              frames: [],
              sentence: 'The film says it is interlaced; Pour shows both fields of a frame together.'
            }
          ]
        : [])
    ]
  }
}

/** True if the file begins like a QuickTime film. */
export function looksLikeQuickTime(head: Uint8Array): boolean {
  const type = String.fromCharCode(...head.subarray(4, 8))
  if (type === 'ftyp') return String.fromCharCode(...head.subarray(8, 12)) === 'qt  '
  return ['moov', 'mdat', 'wide', 'free', 'skip'].includes(type)
}

/** For films whose codec no format of the table reads. */
/** Codecs that are met in films and not read yet, by the four letters of their sample descriptions. */
const UNREAD: readonly { codes: readonly string[]; what: string }[] = [
  { codes: ['CFHD'], what: 'a wavelet film' },
  { codes: ['Hap1', 'Hap5', 'HapY', 'HapM', 'HapA'], what: 'a film of textures for graphics processors' },
  { codes: ['AVdn', 'AVdh'], what: 'a VC-3 film' },
  { codes: ['apcn', 'apch', 'apcs', 'apco'], what: 'a ProRes 422 film, which has no alpha' },
  {
    codes: ['v210', 'v216', '2vuy', 'v308', 'v408', 'v410', 'r210', 'b48r'],
    what: 'an uncompressed film of another layout'
  },
  { codes: ['mjpa', 'mjpb', 'jpeg', 'dmb1'], what: 'a film of JPEG pictures, which have no alpha' },
  { codes: ['avc1', 'avc3', 'hvc1', 'hev1', 'av01', 'mp4v'], what: 'a film for viewing' },
  { codes: ['dvcp', 'dvc ', 'dvpp', 'dv5n', 'dv5p', 'dvh5', 'dvh6'], what: 'a DV film, which has no alpha' },
  { codes: ['smc ', 'cvid', 'SVQ3', 'SVQ1', 'rpza', '8BPS'], what: 'a film of an old codec' }
]

export function unknownCodec(reader: ByteReader, codec: string): Error {
  const what = UNREAD.find(({ codes }) => codes.includes(codec))?.what ?? 'a codec Pour does not know'
  return impossible(
    `it is ${what} ("${printable(codec)}"), which Pour cannot read yet; ask for ProRes 4444 or numbered pictures`,
    reader.name
  )
}
