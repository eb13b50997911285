/**
 * Writing QuickTime films, for every codec: media data as it comes, the index at the end.
 *
 * file: ftyp, wide (room for a 64-bit mdat header), mdat, moov
 * Layouts after the QuickTime File Format Specification, "Movie atoms" and "Sample description".
 */
import { impossible } from '../../errors'
import { concatenate } from '../../files/bytes'
import type { ByteSink } from '../../files/sinks'
import type { Rate } from '../../rate'
import { atom, fields, letters, list } from './atoms'
import { graphicsMode } from './declare'
import type { Assembler, Deliverable } from '../format'

export interface FilmCodec {
  /** Four letters of the sample description. */
  code: string
  /** The codec's name as the sample description carries it. */
  name: string
  depth: 24 | 32
}

const UNITY = fields([32, 0x10000], [32, 0], [32, 0], [32, 0], [32, 0x10000], [32, 0], [32, 0], [32, 0], [32, 0x40000000])
const MDAT_AT = 20 + 8

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
    fields([32, 0], [32, 1023], [16, width], [16, height], [32, 72 << 16], [32, 72 << 16], [32, 0], [16, 1], [8, name.length]),
    name,
    new Uint8Array(31 - name.length),
    fields([16, codec.depth], [16, 0xffff]),
    atom('colr', letters('nclc'), fields([16, 1], [16, 1], [16, 1])),
    atom('pasp', fields([32, 1], [32, 1])),
    atom('fiel', [1, 0])
  ])
  return atom('stsd', fields([32, 0], [32, 1]), atom(codec.code, entry))
}

function chunkOffsets(first: number, sizes: readonly number[]): Uint8Array {
  const starts: number[] = []
  let at = first
  for (const size of sizes) {
    starts.push(at)
    at += size
  }
  const wide = at > 0xffffffff
  return atom(wide ? 'co64' : 'stco', fields([32, 0], [32, starts.length]), list(wide ? 64 : 32, starts))
}

function handler(kind: string, type: string, name: string): Uint8Array {
  return atom('hdlr', fields([32, 0]), letters(kind), letters(type), fields([32, 0], [32, 0], [32, 0], [8, name.length]), letters(name))
}

function movieAtom(codec: FilmCodec, deliverable: Deliverable, sizes: readonly number[], mediaStart: number): Uint8Array {
  const { scale, duration } = timeBase(deliverable.rate!)
  const total = duration * sizes.length
  if (total > 0xffffffff) throw impossible(`${sizes.length} frames at ${deliverable.rate!.join('/')} are longer than a QuickTime film can count`)
  const { mode, opcolor } = graphicsMode(deliverable.alpha)
  const { width, height } = deliverable
  const movieHeader = atom('mvhd', fields([32, 0], [32, 0], [32, 0], [32, scale], [32, total], [32, 0x10000], [16, 0x100], [16, 0], [32, 0], [32, 0]), UNITY, new Uint8Array(24), fields([32, 2]))
  const trackHeader = atom('tkhd', fields([32, 0xf], [32, 0], [32, 0], [32, 1], [32, 0], [32, total], [32, 0], [32, 0], [16, 0], [16, 0], [16, 0], [16, 0]), UNITY, fields([32, width * 0x10000], [32, height * 0x10000]))
  const mediaHeader = atom('mdhd', fields([32, 0], [32, 0], [32, 0], [32, scale], [32, total], [16, 0x7fff], [16, 0]))
  const videoHeader = atom('vmhd', fields([32, 1], [16, mode], [16, opcolor[0]], [16, opcolor[1]], [16, opcolor[2]]))
  const data = atom('dinf', atom('dref', fields([32, 0], [32, 1]), atom('alis', fields([32, 1]))))
  const tables = atom(
    'stbl',
    descriptionAtom(codec, deliverable),
    atom('stts', fields([32, 0], [32, 1], [32, sizes.length], [32, duration])),
    atom('stsc', fields([32, 0], [32, 1], [32, 1], [32, 1], [32, 1])),
    atom('stsz', fields([32, 0], [32, 0], [32, sizes.length]), list(32, sizes)),
    chunkOffsets(mediaStart, sizes)
  )
  const media = atom('mdia', mediaHeader, handler('mhlr', 'vide', 'Video'), atom('minf', videoHeader, handler('dhlr', 'alis', 'Data'), data, tables))
  return atom('moov', movieHeader, atom('trak', trackHeader, media))
}

/** Bytes of everything but the frames themselves. */
export function filmOverhead(codec: FilmCodec, deliverable: Deliverable): number {
  return MDAT_AT + 8 + movieAtom(codec, deliverable, new Array<number>(deliverable.frames).fill(0), 0).length
}

/** Writes a film of one video track whose samples all stand alone. */
export async function assembleFilm(sink: ByteSink, codec: FilmCodec, deliverable: Deliverable): Promise<Assembler> {
  await sink.append(atom('ftyp', letters('qt  '), fields([32, 0x20240000]), letters('qt  ')))
  await sink.append(atom('wide'))
  await sink.append(fields([32, 8], [32, 0x6d646174]))
  const start = MDAT_AT + 8
  const sizes: number[] = []
  let bytes = 0
  return {
    async add(_, encoded) {
      sizes.push(encoded.length)
      bytes += encoded.length
      await sink.append(encoded)
    },
    async finish() {
      // past 4 GiB the header grows backwards over the room that "wide" kept
      if (bytes + 8 > 0xffffffff) await sink.patch(MDAT_AT - 8, fields([32, 1], [32, 0x6d646174], [64, bytes + 16]))
      else await sink.patch(MDAT_AT, fields([32, bytes + 8]))
      await sink.append(movieAtom(codec, deliverable, sizes, start))
    }
  }
}
