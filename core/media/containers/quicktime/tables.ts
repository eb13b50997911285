/** Tables of a QuickTime film, every count and offset checked against the file before memory is taken for it. */
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'
import { listAtoms, type Atom } from './atoms'

interface Table {
  view: DataView
  bytes: Uint8Array
}

/** No table of a film may be longer than this. */
const MAX_TABLE = 1 << 28

/** Finds atoms of a film, and reads their tables. */
export class TrackReader {
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

export interface QuickTimeTrack {
  track: Atom
  media: Atom
  tables: Atom
}

/** Where the chunks of a track begin, and how many samples each holds. */
export async function chunksOf(
  film: TrackReader,
  tables: Atom,
  most: number
): Promise<{ offset: number; samples: number }[]> {
  const wide = await film.find(tables, 'co64')
  const offsets = await film.entries(wide ?? (await film.need(tables, 'stco')), 4, wide ? 8 : 4)
  const runs = await film.entries(await film.need(tables, 'stsc'), 4, 12)
  const chunks: { offset: number; samples: number }[] = []
  let run = 0
  let left = most
  for (let chunk = 0; chunk < offsets.count && left > 0; chunk++) {
    while (run + 1 < runs.count && runs.view.getUint32(runs.start + (run + 1) * 12) <= chunk + 1) run++
    const samples = Math.min(left, runs.count ? runs.view.getUint32(runs.start + run * 12 + 4) : 1)
    chunks.push({
      offset: wide
        ? Number(offsets.view.getBigUint64(offsets.start + chunk * 8))
        : offsets.view.getUint32(offsets.start + chunk * 4),
      samples
    })
    left -= samples
  }
  return chunks
}

/** Sizes of a track's samples: one for all, or one each. */
export async function sizesOf(
  film: TrackReader,
  tables: Atom
): Promise<{ common: number; count: number; at(i: number): number }> {
  const sizes = await film.table(await film.need(tables, 'stsz'), 12)
  const common = sizes.view.getUint32(4)
  const count = sizes.view.getUint32(8)
  if (common === 0 && count * 4 > sizes.view.byteLength - 12)
    throw film.fail('atom stsz', `it claims ${count} frames, more than it has room for`)
  return { common, count, at: i => common || sizes.view.getUint32(12 + i * 4) }
}
