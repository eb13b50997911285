/**
 * Writing QuickTime films, for every codec: media data as it comes, the index behind it, or before it where that is asked.
 *
 * file: ftyp, [moov, free], wide (room for a 64-bit mdat header), mdat, [moov]
 * Layouts after the QuickTime File Format Specification, "Movie atoms", "Sample description" and "Timecode media".
 */
import { impossible } from '../../errors'
import { concatenate } from '../../files/bytes'
import { PATCHABLE, type ByteSink } from '../../files/sinks'
import type { Rate } from '../../rate'
import { atom, fields, letters, list } from './atoms'
import { nominalRate, timecodeToFrame } from '../../timecode'
import { graphicsMode } from './declare'
import type { Assembler, Deliverable } from '../../formats/format'

export interface FilmCodec {
  /** Four letters of the sample description. */
  code: string
  /** The codec's name as the sample description carries it. */
  name: string
  depth: 24 | 32
}

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
 * Timescale and frame duration: the rate's own fraction, multiplied up so that slow rates still get a scale of 600 or more,
 * which players expect. The fraction stays exact.
 */
export function timeBase([n, d]: Rate): { scale: number; duration: number } {
  const times = Math.max(1, Math.ceil(600 / n))
  return { scale: n * times, duration: d * times }
}

function descriptionAtom(codec: FilmCodec, { width, height }: Deliverable): Uint8Array {
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
    fields([16, codec.depth], [16, 0xffff]),
    atom('colr', letters('nclc'), fields([16, 1], [16, 1], [16, 1])),
    atom('pasp', fields([32, 1], [32, 1])),
    atom('fiel', [1, 0])
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

/** Where the samples of a film lie, and what it counts in. */
interface Laid {
  scale: number
  duration: number
  sizes: readonly number[]
  /** Where the first frame lies; frames follow one another. */
  start: number
  /** Whether offsets take 64 bits. */
  wide: boolean
  /** Numbers, from 1, of frames that need no other; null when all are such. */
  keys: readonly number[] | null
  timecode: { frame: number; drop: boolean; at: number } | null
}

function trackHeader(id: number, total: number, width: number, height: number): Uint8Array {
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
      [16, 0],
      [16, 0]
    ),
    UNITY,
    fields([32, width * 0x10000], [32, height * 0x10000])
  )
}

function mediaHeader(scale: number, total: number): Uint8Array {
  return atom('mdhd', fields([32, 0], [32, 0], [32, 0], [32, scale], [32, total], [16, 0x7fff], [16, 0]))
}

function videoTrack(codec: FilmCodec, deliverable: Deliverable, laid: Laid, total: number): Uint8Array {
  const { sizes, duration } = laid
  const { mode, opcolor } = graphicsMode(deliverable.alpha)
  const starts: number[] = []
  let at = laid.start
  for (const size of sizes) {
    starts.push(at)
    at += size
  }
  const tables = atom(
    'stbl',
    descriptionAtom(codec, deliverable),
    atom('stts', fields([32, 0], [32, 1], [32, sizes.length], [32, duration])),
    ...(laid.keys ? [atom('stss', fields([32, 0], [32, laid.keys.length]), list(32, laid.keys))] : []),
    atom('stsc', fields([32, 0], [32, 1], [32, 1], [32, 1], [32, 1])),
    atom('stsz', fields([32, 0], [32, 0], [32, sizes.length]), list(32, sizes)),
    chunkOffsets(starts, laid.wide)
  )
  const videoHeader = atom('vmhd', fields([32, 1], [16, mode], [16, opcolor[0]], [16, opcolor[1]], [16, opcolor[2]]))
  const media = atom(
    'mdia',
    mediaHeader(laid.scale, total),
    handler('mhlr', 'vide', 'Video'),
    atom('minf', videoHeader, handler('dhlr', 'alis', 'Data'), DATA, tables)
  )
  const reference = laid.timecode ? [atom('tref', atom('tmcd', fields([32, 2])))] : []
  return atom('trak', trackHeader(1, total, deliverable.width, deliverable.height), ...reference, media)
}

/** A track whose one sample is the number of the first frame; it lasts as long as the film. */
function timecodeTrack(rate: Rate, { scale, duration, wide, timecode }: Laid, total: number): Uint8Array {
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
  return atom('trak', trackHeader(2, total, 0, 0), media)
}

function movieAtom(codec: FilmCodec, deliverable: Deliverable, laid: Laid): Uint8Array {
  const total = laid.duration * laid.sizes.length
  if (total > 0xffffffff)
    throw impossible(
      `${laid.sizes.length} frames at ${deliverable.rate!.join('/')} are longer than a QuickTime film can count`
    )
  const movieHeader = atom(
    'mvhd',
    fields(
      [32, 0],
      [32, 0],
      [32, 0],
      [32, laid.scale],
      [32, total],
      [32, 0x10000],
      [16, 0x100],
      [16, 0],
      [32, 0],
      [32, 0]
    ),
    UNITY,
    new Uint8Array(24),
    fields([32, laid.timecode ? 3 : 2])
  )
  return atom(
    'moov',
    movieHeader,
    videoTrack(codec, deliverable, laid, total),
    ...(laid.timecode ? [timecodeTrack(deliverable.rate!, laid, total)] : [])
  )
}

/** What a film of these options comes to before its frames are known: every table has its final length. */
function layOf(deliverable: Deliverable, isKey: (position: number) => boolean): Omit<Laid, 'start'> {
  const { scale, duration } = timeBase(deliverable.rate!)
  const sizes = new Array<number>(deliverable.frames).fill(0)
  const keys = sizes.flatMap((_, i) => (isKey(i) ? [i + 1] : []))
  const text = String(deliverable.options.timecode ?? '')
  const timecode = text ? { frame: timecodeToFrame(text, deliverable.rate!), drop: text.includes(';'), at: 0 } : null
  return { scale, duration, sizes, wide: false, keys: keys.length === sizes.length ? null : keys, timecode }
}

/** Bytes of everything but the frames themselves. */
export function filmOverhead(codec: FilmCodec, deliverable: Deliverable, isKey: (position: number) => boolean): number {
  const laid = layOf(deliverable, isKey)
  return (
    FTYP +
    WIDE +
    8 +
    (laid.timecode ? 4 : 0) +
    movieAtom(codec, deliverable, { ...laid, start: 0, wide: Boolean(deliverable.options['fast-start']) }).length
  )
}

/** Writes a film of one video track, and one of time code where that is asked. `isKey` tells the frames that need no other. */
export async function assembleFilm(
  sink: ByteSink,
  codec: FilmCodec,
  deliverable: Deliverable,
  isKey: (position: number) => boolean
): Promise<Assembler> {
  const laid = layOf(deliverable, isKey)
  const indexFirst = deliverable.options['fast-start'] === true
  const room = indexFirst ? movieAtom(codec, deliverable, { ...laid, start: 0, wide: true }).length : 0
  if (FTYP + room + WIDE + 8 > PATCHABLE)
    throw impossible(
      `the index of ${deliverable.frames} frames is longer than the ${PATCHABLE} bytes that can be kept free before them; let the index come last`
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
  const start = at
  const sizes: number[] = []
  return {
    async add(_, encoded) {
      sizes.push(encoded.length)
      at += encoded.length
      await sink.append(encoded)
    },
    async finish() {
      const length = at - mdat
      // past 4 GiB the header grows backwards over the room that "wide" kept
      if (length > 0xffffffff) await sink.patch(mdat - 8, fields([32, 1], [32, 0x6d646174], [64, length + 8]))
      else await sink.patch(mdat, fields([32, length]))
      if (room) await sink.patch(FTYP, movieAtom(codec, deliverable, { ...laid, sizes, start, wide: true }))
      else await sink.append(movieAtom(codec, deliverable, { ...laid, sizes, start, wide: at > 0xffffffff }))
    }
  }
}
