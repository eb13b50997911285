/**
 * Reading QuickTime films: the video track's facts and its table of samples, every count and offset checked against the
 * file before memory is taken for it.
 */
import type { ByteReader } from '../../../base/files/file'
import { MAX_PIXELS } from '../../../frame/frame'
import { levelsOf, readMastering, type LightLevels } from '../../../source/light-levels'
import type { Orientation } from '../../../frame/orient'
import type { Rate } from '../../../base/rate'
import type { FieldOrder, Finding } from '../../../source/source'
import { frameToTimecode } from '../../../base/timecode'
import type { Film, Packet } from '../container'
import { listAtoms, type Atom } from './atoms'
import { claimOf } from './declare'
import { soundOf } from './sound'
import { fragmentsOf } from './fragments'
import { chunksOf, sizesOf, TrackReader, type QuickTimeTrack } from './tables'
import { editsOf, emptyBefore, shownBy } from './times'

/** Over a day at 50 frames a second. */
const MAX_FRAMES = 5_000_000

/** The first tracks of pictures and of time code, "vide" and "tmcd", and all of sound, "soun". */
async function tracksOf(
  film: TrackReader
): Promise<{ movie: Atom; tracks: Map<string, QuickTimeTrack>; sounds: QuickTimeTrack[]; pictures: number }> {
  const top = await listAtoms(film.reader, 0, film.reader.size)
  const movie = top.find(a => a.type === 'moov')
  if (!movie)
    throw film.fail(
      'end of file',
      'the index of the film (atom moov) is missing; the film was cut short or never finished'
    )
  const tracks = new Map<string, QuickTimeTrack>()
  const sounds: QuickTimeTrack[] = []
  let pictures = 0
  for (const track of await film.children(movie)) {
    if (track.type !== 'trak') continue
    const handler = await film.find(track, 'mdia', 'hdlr')
    if (!handler) continue
    const { bytes } = await film.table(handler, 12)
    const kind = String.fromCharCode(...bytes.subarray(8, 12))
    if (kind === 'vide') pictures++
    if (!['vide', 'tmcd', 'soun'].includes(kind) || tracks.has(kind)) continue
    const media = await film.need(track, 'mdia')
    const found = { track, media, tables: await film.need(media, 'minf', 'stbl') }
    if (kind === 'soun') sounds.push(found)
    else tracks.set(kind, found)
  }
  return { movie, tracks, sounds, pictures }
}

/** The time code that a track of it begins with, or null where that cannot be told. */
async function timecodeOf(film: TrackReader, { tables }: QuickTimeTrack, rate: Rate | null): Promise<string | null> {
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

/**
 * How fields are stored, by the second byte of "fiel": which is shown first (QuickTime File Format, "Field handling").
 */
const ORDERS: Record<number, FieldOrder> = { 1: 'top-first', 14: 'top-first', 6: 'bottom-first', 9: 'bottom-first' }

interface Description {
  code: string
  width: number
  height: number
  depth: number
  config: Uint8Array
  colour: readonly [number, number, number] | null
  levels: LightLevels | null
  range: 'full' | 'limited' | null
  pixelAspect: [number, number]
  fields: FieldOrder | null
  /** Width and height of the clean aperture, where it is less than the whole. */
  aperture: [number, number] | null
}

const pictureOf = ({ aperture: _aperture, ...described }: Description): Omit<Description, 'aperture'> => described

async function description(film: TrackReader, tables: Atom): Promise<Description> {
  const atom = await film.need(tables, 'stsd')
  const { view, bytes } = await film.table(atom, 8 + 86)
  const size = view.getUint32(8)
  if (view.getUint32(4) < 1 || size < 86 || 8 + size > view.byteLength)
    throw film.fail('atom stsd', 'the sample description is damaged')
  const result: Description = {
    code: String.fromCharCode(...bytes.subarray(12, 16)),
    width: view.getUint16(8 + 32),
    height: view.getUint16(8 + 34),
    depth: view.getUint16(8 + 82),
    colour: null,
    levels: null,
    range: null,
    config: new Uint8Array(0),
    pixelAspect: [1, 1],
    fields: null,
    aperture: null
  }
  if (result.width < 1 || result.height < 1 || result.width * result.height > MAX_PIXELS)
    throw film.fail('atom stsd', `a picture of ${result.width}x${result.height} cannot be taken`)
  let mastering: LightLevels['mastering'] = null
  let content: LightLevels['content'] = null
  // a list of extensions may end in four zero bytes, which are no atom
  for (const extension of await listAtoms(film.reader, atom.offset + 8 + 86, atom.offset + 8 + size)) {
    const at = extension.offset - atom.offset
    const kind =
      extension.type === 'colr' && extension.length >= 10 ? String.fromCharCode(...bytes.subarray(at, at + 4)) : ''
    if (kind === 'nclc' || kind === 'nclx')
      result.colour = [view.getUint16(at + 4), view.getUint16(at + 6), view.getUint16(at + 8)]
    if (kind === 'nclx' && extension.length >= 11) result.range = bytes[at + 10]! & 0x80 ? 'full' : 'limited'
    if (extension.type === 'mdcv' && extension.length >= 24)
      mastering = readMastering(bytes.subarray(at, at + 24), 'film')
    if (extension.type === 'clli' && extension.length >= 4)
      content = { most: view.getUint16(at), mean: view.getUint16(at + 2) }
    if (extension.type === 'pasp' && extension.length >= 8)
      result.pixelAspect = [view.getUint32(at) || 1, view.getUint32(at + 4) || 1]
    if (extension.type === 'fiel' && extension.length >= 1)
      result.fields =
        bytes[at]! < 2 ? 'progressive' : (ORDERS[extension.length > 1 ? bytes[at + 1]! : 0] ?? 'top-first')
    if (extension.type === 'clap' && extension.length >= 16) {
      const [w, h] = [0, 8].map(from => view.getUint32(at + from) / (view.getUint32(at + from + 4) || 1)) as [
        number,
        number
      ]
      if (w > 0 && h > 0 && (w < result.width || h < result.height)) result.aperture = [Math.round(w), Math.round(h)]
    }
    // what the codec keeps outside its packets
    if (extension.type === 'glbl') result.config = bytes.slice(at, at + extension.length)
  }
  result.levels = levelsOf(mastering, content)
  return result
}

/** How long each sample of the index is shown, in units of the track. */
async function ticksOf(film: TrackReader, tables: Atom, count: number): Promise<number[]> {
  const { view, count: runs, start } = await film.entries(await film.need(tables, 'stts'), 4, 8)
  const ticks: number[] = []
  let frames = 0
  for (let i = 0; i < runs; i++) {
    const [n, duration] = [view.getUint32(start + i * 8), view.getUint32(start + i * 8 + 4)]
    frames += n
    for (let k = 0; k < n && ticks.length < count; k++) ticks.push(duration)
  }
  if (frames !== count) throw film.fail('atom stts', `it times ${frames} frames; the film has ${count}`)
  return ticks
}

/** Units a second of a track's media, or of the film. */
async function scaleOf(film: TrackReader, parent: Atom, header: 'mdhd' | 'mvhd'): Promise<number> {
  const atom = await film.find(parent, header)
  if (!atom) return 0
  const { view } = await film.table(atom, 20)
  const at = view.getUint8(0) === 1 ? 20 : 12
  return view.byteLength >= at + 4 ? view.getUint32(at) : 0
}

/**
 * The turns and mirrorings that a matrix of a track header may stand for (ISO/IEC 14496-12, 8.3.2): its first four
 * numbers.
 */
const TURNS: Readonly<Record<string, Orientation>> = {
  '1,0,0,1': 1,
  '-1,0,0,1': 2,
  '-1,0,0,-1': 3,
  '1,0,0,-1': 4,
  '0,1,1,0': 5,
  '0,1,-1,0': 6,
  '0,-1,-1,0': 7,
  '0,-1,1,0': 8
}

/** A track's number, and how its pictures lie; a matrix that does more than turn and mirror is told. */
async function headerOf(
  film: TrackReader,
  track: Atom
): Promise<{ id: number; orientation: Orientation; findings: Finding[] }> {
  const atom = await film.find(track, 'tkhd')
  if (!atom) return { id: 1, orientation: 1, findings: [] }
  const { view } = await film.table(atom, 84)
  const wide = view.getUint8(0) === 1
  const id = view.getUint32(wide ? 20 : 12)
  const at = wide ? 52 : 40
  if (view.byteLength < at + 36) return { id, orientation: 1, findings: [] }
  const [a, b, , c, d] = [0, 1, 2, 3, 4].map(i => view.getInt32(at + 4 * i) / 65536) as [
    number,
    number,
    number,
    number,
    number
  ]
  const orientation = TURNS[[a, b, c, d].join(',')]
  // nothing but zeros is what careless writers leave
  if (orientation || [a, b, c, d].every(value => value === 0))
    return { id, orientation: orientation ?? 1, findings: [] }
  const sentence =
    'The film asks to be scaled or turned by an angle when it is shown; its pictures are taken as stored.'
  return { id, orientation: 1, findings: [{ id: 'matrix', severity: 'warning', frames: [], sentence }] }
}

async function sampleTable(film: TrackReader, tables: Atom): Promise<Packet[]> {
  const { common, count, at } = await sizesOf(film, tables)
  if (count < 1) return []
  if (count > MAX_FRAMES)
    throw film.fail('atom stsz', `it claims ${count} frames, more than the ${MAX_FRAMES} Pour takes`)
  if (count * Math.max(common, 1) > film.reader.size && common > 0)
    throw film.fail('atom stsz', `it claims ${count} frames of ${common} bytes, more than the file holds`)
  const sync = await film.find(tables, 'stss')
  let keys: Set<number> | null = null
  if (sync) {
    const list = await film.entries(sync, 4, 4)
    keys = new Set()
    for (let i = 0; i < list.count; i++) keys.add(list.view.getUint32(list.start + i * 4) - 1)
  }
  const samples: Packet[] = []
  for (const chunk of await chunksOf(film, tables, count)) {
    let { offset } = chunk
    for (let i = 0; i < chunk.samples; i++) {
      const size = at(samples.length)
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

/** Reads the first tracks of pictures and of sound. Rejects with one clear error where the film is damaged. */
export async function readFilm(reader: ByteReader): Promise<Film> {
  const film = new TrackReader(reader)
  const { movie, tracks, sounds, pictures } = await tracksOf(film)
  const video = tracks.get('vide')
  if (!video) throw film.fail('atom moov', 'the film has no video track')
  const { track, media, tables } = video
  const described = await description(film, tables)
  const { id, orientation, findings } = await headerOf(film, track)
  const indexed = await sampleTable(film, tables)
  const fragments = await fragmentsOf(film, movie, id, MAX_FRAMES)
  const packets = [...indexed, ...(fragments?.packets ?? [])]
  if (packets.length === 0) throw film.fail('atom stsz', 'the film has no frames')
  const ticks = [...(indexed.length ? await ticksOf(film, tables, indexed.length) : []), ...(fragments?.ticks ?? [])]
  const scales = { track: await scaleOf(film, media, 'mdhd'), film: (await scaleOf(film, movie, 'mvhd')) || 600 }
  const edits = await editsOf(film, track)
  const times = shownBy(ticks, edits, scales)
  const pictureAt = emptyBefore(edits) / scales.film
  const { rate } = times
  if (pictures > 1)
    findings.push({
      id: 'more-tracks',
      severity: 'warning',
      frames: [],
      sentence: `The film has ${pictures} tracks of pictures; the first is taken, the others are left out.`
    })
  if (described.aperture)
    findings.push({
      id: 'clean-aperture',
      severity: 'note',
      frames: [],
      sentence:
        `The film says that ${described.aperture.join(' x ')} of its ${described.width} x ` +
        `${described.height} pixels are its picture; all of them are taken.`
    })
  const header = await film.find(media, 'minf', 'vmhd')
  const look = header ? await film.table(header, 12) : null
  const mode = look ? look.view.getUint16(4) : 0
  const opcolor = look
    ? ([look.view.getUint16(6), look.view.getUint16(8), look.view.getUint16(10)] as const)
    : ([0, 0, 0] as const)
  const counted = tracks.get('tmcd')
  const heard = []
  for (const sounding of sounds) {
    const { id: own } = await headerOf(film, sounding.track)
    const scale = await scaleOf(film, sounding.media, 'mdhd')
    heard.push(
      await soundOf(film, sounding, {
        pictureAt,
        scales: { track: scale, film: scales.film },
        fragments: await fragmentsOf(film, movie, own, MAX_FRAMES)
      })
    )
  }
  return {
    picture: {
      ...pictureOf(described),
      container: 'quicktime',
      kind: 'QuickTime',
      bottomUp: false,
      claim: carriesAlpha => claimOf(mode, opcolor, carriesAlpha, described.depth),
      rate,
      timecode: counted ? await timecodeOf(film, counted, rate) : null,
      packets,
      shown: times.shown,
      orientation,
      findings: [...times.findings, ...findings]
    },
    sounds: heard
  }
}

/** True if the file begins like a QuickTime film. */
export function looksLikeQuickTime(head: Uint8Array): boolean {
  const type = String.fromCharCode(...head.subarray(4, 8))
  if (type === 'ftyp') return String.fromCharCode(...head.subarray(8, 12)) === 'qt  '
  return ['moov', 'mdat', 'wide', 'free', 'skip'].includes(type)
}
