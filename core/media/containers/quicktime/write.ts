/**
 * Writing QuickTime films, for every codec: media data as it comes, the index behind it, or before it where that is
 * asked.
 *
 * file: ftyp, [moov, free], wide (room for a 64-bit mdat header), mdat, [moov]
 * Layouts after the QuickTime File Format Specification, "Movie atoms", "Sample description" and "Timecode media".
 */
import { matrixFor } from '../../../frame/colour-tags'
import { writeMastering, type LightLevels } from '../../../source/light-levels'
import { impossible } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import { PATCHABLE, type ByteSink } from '../../../base/files/sinks'
import { gcd, type Rate } from '../../../base/rate'
import { isSampled, samplesBefore, soundStride, type SoundFeed, type SoundForm } from '../../../source/sound'
import { nominalRate, timecodeToFrame } from '../../../base/timecode'
import type { Muxer, MuxPlan } from '../container'
import { atom, fields, letters, list } from './atoms'
import { graphicsMode } from './declare'
import { soundDescription, storedPcm } from './sound'

const UNITY = fields(
  [32, 0x10000],
  [32, 0],
  [32, 0],
  [32, 0],
  [32, 0x10000],
  [32, 0],
  [32, 0],
  [32, 0],
  [32, 0x40000000]
)
const FTYP = 20
const WIDE = 8

/**
 * Timescale and frame duration: the rate's own fraction, multiplied up so that slow rates still get a scale of 600 or
 * more, which players expect. The fraction stays exact.
 */
export function timeBase([n, d]: Rate): { scale: number; duration: number } {
  const times = Math.max(1, Math.ceil(600 / n))
  return { scale: n * times, duration: d * times }
}

const FIELDS = { progressive: [1, 0], 'top-first': [2, 1], 'bottom-first': [2, 6] } as const

/** Mastering display and content light level (ISO/IEC 14496-12, 12.1.6 and 12.1.7). */
function levelAtoms(levels: LightLevels | null | undefined): Uint8Array[] {
  const { mastering, content } = levels ?? {}
  return [
    ...(mastering ? [atom('mdcv', writeMastering(mastering, 'film'))] : []),
    ...(content ? [atom('clli', fields([16, inWords(content.most)], [16, inWords(content.mean)]))] : [])
  ]
}

/** Whole cd/m2, as many as 16 bits hold. */
const inWords = (luminance: number): number => Math.min(65535, Math.round(luminance))

function descriptionAtom({
  entry: codec,
  width,
  height,
  pixelAspect,
  fields: order,
  tags,
  levels
}: MuxPlan): Uint8Array {
  const name = letters(codec.name.slice(0, 31))
  const entry = concatenate([
    fields([32, 0], [16, 0], [16, 1], [16, 0], [16, 0]),
    letters('    '),
    fields(
      [32, 0],
      [32, 1023],
      [16, width],
      [16, height],
      [32, 72 << 16],
      [32, 72 << 16],
      [32, 0],
      [16, 1],
      [8, name.length]
    ),
    name,
    new Uint8Array(31 - name.length),
    // a sample description knows depths to 32; beyond, the codec's own letters say it
    fields([16, Math.min(codec.depth, 32)], [16, 0xffff]),
    atom('colr', letters('nclc'), fields([16, tags?.[0] ?? 1], [16, tags?.[1] ?? 1], [16, matrixFor(tags)])),
    ...levelAtoms(levels),
    atom('pasp', fields([32, pixelAspect[0]], [32, pixelAspect[1]])),
    atom('fiel', FIELDS[order]),
    ...(codec.atoms ?? []).map(({ name, content }) => atom(name, content)),
    ...(codec.config?.length ? [atom('glbl', codec.config)] : [])
  ])
  return atom('stsd', fields([32, 0], [32, 1]), atom(codec.code, entry))
}

function chunkOffsets(starts: readonly number[], wide: boolean): Uint8Array {
  return atom(wide ? 'co64' : 'stco', fields([32, 0], [32, starts.length]), list(wide ? 64 : 32, starts))
}

function handler(kind: string, type: string, name: string): Uint8Array {
  return atom(
    'hdlr',
    fields([32, 0]),
    letters(kind),
    letters(type),
    fields([32, 0], [32, 0], [32, 0], [8, name.length]),
    letters(name)
  )
}

const DATA = atom('dinf', atom('dref', fields([32, 0], [32, 1]), atom('alis', fields([32, 1]))))

/** Chunks of a track of sound, and the size of each packet where packets have sizes of their own. */
interface LaidSound {
  form: SoundForm
  chunks: { at: number; samples: number; packets: number }[]
  sizes: number[]
}

/** Where the samples of a film lie, and what it counts in. */
interface Laid {
  scale: number
  /** Units a second of the film, in which edits are told. */
  filmScale: number
  duration: number
  sizes: readonly number[]
  /** Where each frame lies. */
  starts: readonly number[]
  /** Whether offsets take 64 bits. */
  wide: boolean
  /** Numbers, from 1, of frames that need no other; null when all are such. */
  keys: readonly number[] | null
  timecode: { frame: number; drop: boolean; at: number } | null
  sounds: LaidSound[]
}

/**
 * Units a second in which both the frames and the samples of sound are whole, so that edits are told to the sample;
 * that of the frames alone where a count of them would not fit.
 */
function filmScaleOf(scale: number, duration: number, frames: number, sounds: readonly SoundForm[]): number {
  const shared = sounds.reduce((least, { rate }) => (least / gcd(least, rate)) * rate, scale)
  return shared <= 0x7fffffff && (frames * duration * shared) / scale <= 0xffffffff ? shared : scale
}

/** Units of the film that so many of the frames' own come to. */
const inFilm = (units: number, { scale, filmScale }: Laid): number => Math.round((units * filmScale) / scale)

function trackHeader(id: number, total: number, width: number, height: number, volume = 0): Uint8Array {
  return atom(
    'tkhd',
    fields(
      [32, 0xf],
      [32, 0],
      [32, 0],
      [32, id],
      [32, 0],
      [32, total],
      [32, 0],
      [32, 0],
      [16, 0],
      [16, 0],
      [16, volume],
      [16, 0]
    ),
    UNITY,
    fields([32, width * 0x10000], [32, height * 0x10000])
  )
}

function mediaHeader(scale: number, total: number): Uint8Array {
  return atom('mdhd', fields([32, 0], [32, 0], [32, 0], [32, scale], [32, total], [16, 0x7fff], [16, 0]))
}

function videoTrack(plan: MuxPlan, laid: Laid, total: number): Uint8Array {
  const { sizes, duration } = laid
  const { mode, opcolor } = graphicsMode(plan.alpha)
  const tables = atom(
    'stbl',
    descriptionAtom(plan),
    atom('stts', fields([32, 0], [32, 1], [32, sizes.length], [32, duration])),
    ...(laid.keys ? [atom('stss', fields([32, 0], [32, laid.keys.length]), list(32, laid.keys))] : []),
    atom('stsc', fields([32, 0], [32, 1], [32, 1], [32, 1], [32, 1])),
    atom('stsz', fields([32, 0], [32, 0], [32, sizes.length]), list(32, sizes)),
    chunkOffsets(laid.starts, laid.wide)
  )
  const videoHeader = atom('vmhd', fields([32, 1], [16, mode], [16, opcolor[0]], [16, opcolor[1]], [16, opcolor[2]]))
  const media = atom(
    'mdia',
    mediaHeader(laid.scale, total),
    handler('mhlr', 'vide', 'Video'),
    atom('minf', videoHeader, handler('dhlr', 'alis', 'Data'), DATA, tables)
  )
  const reference = laid.timecode ? [atom('tref', atom('tmcd', fields([32, 2])))] : []
  return atom('trak', trackHeader(1, inFilm(total, laid), plan.width, plan.height), ...reference, media)
}

/** A track whose one sample is the number of the first frame; it lasts as long as the film. */
function timecodeTrack(rate: Rate, laid: Laid, total: number): Uint8Array {
  const { scale, duration, wide, timecode } = laid
  const { drop, at } = timecode!
  // 1 drop-frame, 2 wraps after 24 hours
  const description = atom(
    'tmcd',
    fields(
      [32, 0],
      [16, 0],
      [16, 1],
      [32, 0],
      [32, (drop ? 1 : 0) | 2],
      [32, scale],
      [32, duration],
      [8, nominalRate(rate)],
      [8, 0]
    )
  )
  const tables = atom(
    'stbl',
    atom('stsd', fields([32, 0], [32, 1]), description),
    atom('stts', fields([32, 0], [32, 1], [32, 1], [32, total])),
    atom('stsc', fields([32, 0], [32, 1], [32, 1], [32, 1], [32, 1])),
    atom('stsz', fields([32, 0], [32, 4], [32, 1])),
    chunkOffsets([at], wide)
  )
  const look = atom(
    'tcmi',
    fields(
      [32, 0],
      [16, 0],
      [16, 0],
      [16, 12],
      [16, 0],
      [16, 0],
      [16, 0],
      [16, 0],
      [16, 0xffff],
      [16, 0xffff],
      [16, 0xffff],
      [8, 0]
    )
  )
  const general = atom(
    'gmhd',
    atom('gmin', fields([32, 0], [16, 0x40], [16, 0x8000], [16, 0x8000], [16, 0x8000], [16, 0], [16, 0])),
    atom('tmcd', look)
  )
  const media = atom(
    'mdia',
    mediaHeader(scale, total),
    handler('mhlr', 'tmcd', 'Time code'),
    atom('minf', general, handler('dhlr', 'alis', 'Data'), DATA, tables)
  )
  return atom('trak', trackHeader(2, inFilm(total, laid), 0, 0), media)
}

/** What a track is called (QuickTime File Format, "User data atoms"); nothing where it has no name. */
const named = (name: string | undefined): Uint8Array[] =>
  name ? [atom('udta', atom('name', new TextEncoder().encode(name)))] : []

/** A track of sound; its edits begin where the first frame does, and end with the last. */
function soundTrack(id: number, laid: Laid, { form, chunks, sizes }: LaidSound, total: number): Uint8Array {
  const pcm = isSampled(form)
  const counts = chunks.map(chunk => (pcm ? chunk.samples : chunk.packets))
  const runs = counts.flatMap((count, i) => (i === 0 || count !== counts[i - 1] ? [[i + 1, count, 1]] : []))
  const stored = pcm ? form.samples : form.stored
  const tables = atom(
    'stbl',
    soundDescription(form),
    atom('stts', fields([32, 0], [32, 1], [32, pcm ? form.samples : sizes.length], [32, pcm ? 1 : 1024])),
    atom('stsc', fields([32, 0], [32, runs.length]), list(32, runs.flat())),
    pcm
      ? atom('stsz', fields([32, 0], [32, (form.channels * form.bits) / 8], [32, form.samples]))
      : atom('stsz', fields([32, 0], [32, 0], [32, sizes.length]), list(32, sizes)),
    chunkOffsets(
      chunks.map(chunk => chunk.at),
      laid.wide
    )
  )
  const media = atom(
    'mdia',
    mediaHeader(form.rate, stored),
    handler('mhlr', 'soun', 'Sound'),
    atom('minf', atom('smhd', fields([32, 0], [16, 0], [16, 0])), handler('dhlr', 'alis', 'Data'), DATA, tables)
  )
  const length = Math.min(inFilm(total, laid), Math.round((form.samples * laid.filmScale) / form.rate))
  // silence before its first packet is an edit that shows nothing
  const late = Math.round(((form.delay ?? 0) * laid.filmScale) / form.rate)
  const edits = [...(late ? [[late, -1, 0x10000]] : []), [length - late, form.lead, 0x10000]]
  const edit = atom('edts', atom('elst', fields([32, 0], [32, edits.length]), list(32, edits.flat())))
  return atom('trak', trackHeader(id, length, 0, 0, 0x100), edit, media, ...named(form.name))
}

function movieAtom(plan: MuxPlan, laid: Laid): Uint8Array {
  const total = laid.duration * laid.sizes.length
  if (total > 0xffffffff || laid.sounds.some(({ form }) => form.samples > 0xffffffff))
    throw impossible(`${laid.sizes.length} frames at ${plan.rate.join('/')} are longer than a QuickTime film can count`)
  const soundId = laid.timecode ? 3 : 2
  const movieHeader = atom(
    'mvhd',
    fields(
      [32, 0],
      [32, 0],
      [32, 0],
      [32, laid.filmScale],
      [32, inFilm(total, laid)],
      [32, 0x10000],
      [16, 0x100],
      [16, 0],
      [32, 0],
      [32, 0]
    ),
    UNITY,
    new Uint8Array(24),
    fields([32, soundId + laid.sounds.length])
  )
  return atom(
    'moov',
    movieHeader,
    videoTrack(plan, laid, total),
    ...(laid.timecode ? [timecodeTrack(plan.rate, laid, total)] : []),
    ...laid.sounds.map((sound, n) => soundTrack(soundId + n, laid, sound, total))
  )
}

/** What a film comes to before its frames are known: every table has its final length, or a greater. */
function layOf(plan: MuxPlan): Laid {
  const { scale, duration } = timeBase(plan.rate)
  const sizes = new Array<number>(plan.frames).fill(0)
  const keys = sizes.flatMap((_, i) => (plan.isKey(i) ? [i + 1] : []))
  const text = String(plan.options.timecode ?? '')
  const timecode = text ? { frame: timecodeToFrame(text, plan.rate), drop: text.includes(';'), at: 0 } : null
  const chunks = Math.ceil(plan.frames / soundStride(plan.rate)) + 1
  return {
    scale,
    filmScale: filmScaleOf(scale, duration, plan.frames, plan.sounds),
    duration,
    sizes,
    starts: sizes,
    wide: false,
    keys: keys.length === sizes.length ? null : keys,
    timecode,
    sounds: plan.sounds.map(form => ({
      form,
      // no two alike, so that each takes an entry of its own
      chunks: Array.from({ length: chunks }, (_, i) => ({ at: 0, samples: i, packets: i })),
      sizes: new Array<number>(form.coding === 'aac' ? Math.ceil(form.stored / 1024) : 0).fill(0)
    }))
  }
}

/** Bytes of everything but frames and sound. */
export function filmOverhead(plan: MuxPlan): number {
  const laid = layOf(plan)
  return (
    FTYP +
    WIDE +
    8 +
    (laid.timecode ? 4 : 0) +
    movieAtom(plan, { ...laid, wide: Boolean(plan.options['fast-start']) }).length
  )
}

/**
 * Writes a film of one video track, one of time code where that is asked, and one of sound for each feed, in
 * chunks of half a second before the frames they are heard with.
 */
export async function assembleFilm(sink: ByteSink, plan: MuxPlan, feeds: readonly SoundFeed[]): Promise<Muxer> {
  const laid = layOf(plan)
  const indexFirst = plan.options['fast-start'] === true
  // eight more bytes, so that what the index leaves free can always be an atom
  const room = indexFirst ? movieAtom(plan, { ...laid, wide: true }).length + 8 * plan.sounds.length : 0
  if (FTYP + room + WIDE + 8 > PATCHABLE)
    throw impossible(
      `the index of ${plan.frames} frames is longer than the ${PATCHABLE} bytes that can be kept free before ` +
        'them; let the index come last'
    )
  const mdat = FTYP + room + WIDE
  await sink.append(atom('ftyp', letters('qt  '), fields([32, 0x20240000]), letters('qt  ')))
  if (room) await sink.append(atom('free', new Uint8Array(room - 8)))
  await sink.append(atom('wide'))
  await sink.append(fields([32, 8], [32, 0x6d646174]))
  let at = mdat + 8
  if (laid.timecode) {
    laid.timecode.at = at
    await sink.append(fields([32, laid.timecode.frame]))
    at += 4
  }
  const sizes: number[] = []
  const starts: number[] = []
  const sounds = laid.sounds.map(({ form }): LaidSound => ({ form, chunks: [], sizes: [] }))
  const stride = soundStride(plan.rate)
  async function putSound(sound: LaidSound, feed: SoundFeed | undefined): Promise<void> {
    const { form } = sound
    if (!feed) return
    const parts = await feed.upTo(samplesBefore(Math.min(sizes.length + stride, plan.frames), plan.rate, form.rate))
    const bytes = concatenate(parts.map(part => part.bytes))
    if (bytes.length === 0) return
    sound.chunks.push({ at, samples: parts.reduce((sum, part) => sum + part.samples, 0), packets: parts.length })
    if (form.coding === 'aac') sound.sizes.push(...parts.map(part => part.bytes.length))
    const stored = isSampled(form) ? storedPcm(bytes, form) : bytes
    at += stored.length
    await sink.append(stored)
  }
  return {
    async add(packet) {
      if (sizes.length % stride === 0) for (const [n, sound] of sounds.entries()) await putSound(sound, feeds[n])
      sizes.push(packet.length)
      starts.push(at)
      at += packet.length
      await sink.append(packet)
    },
    async finish() {
      const length = at - mdat
      // past 4 GiB the header grows backwards over the room that "wide" kept
      if (length > 0xffffffff) await sink.patch(mdat - 8, fields([32, 1], [32, 0x6d646174], [64, length + 8]))
      else await sink.patch(mdat, fields([32, length]))
      const done = { ...laid, sizes, starts, sounds, wide: Boolean(room) || at > 0xffffffff }
      const index = movieAtom(plan, done)
      if (!room) return sink.append(index)
      const rest = room - index.length
      await sink.patch(FTYP, rest ? concatenate([index, atom('free', new Uint8Array(rest - 8))]) : index)
    }
  }
}
