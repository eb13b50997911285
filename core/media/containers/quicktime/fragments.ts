/**
 * Films in fragments (ISO/IEC 14496-12, 8.8): runs of samples that stand after the index, as recorders and web servers
 * write them.
 */
import type { Packet } from '../container'
import { listAtoms, type Atom } from './atoms'
import type { TrackReader } from './tables'

export interface Fragments {
  packets: Packet[]
  /** How long each is shown, in units of the track. */
  ticks: number[]
}

interface Defaults {
  duration: number
  size: number
  flags: number
}

/** The sample depends on others (8.8.3.1, sample_is_non_sync_sample). */
const BUILDS_ON = 0x10000

/** Reads u32 after u32 of an atom, and knows what is missing. */
class AtomReader {
  private at: number

  constructor(
    private readonly film: TrackReader,
    private readonly type: string,
    private readonly view: DataView,
    start = 4
  ) {
    this.at = start
  }

  get flags(): number {
    return this.view.getUint32(0) & 0xffffff
  }

  u32(): number {
    if (this.at + 4 > this.view.byteLength) throw this.film.fail(`atom ${this.type}`, 'it is cut short')
    this.at += 4
    return this.view.getUint32(this.at - 4)
  }

  u64(): number {
    return this.u32() * 2 ** 32 + this.u32()
  }
}

async function fieldsOf(film: TrackReader, atom: Atom): Promise<AtomReader> {
  const { view } = await film.table(atom, 8)
  return new AtomReader(film, atom.type, view)
}

/** What the index says of a track's samples in fragments; null where it announces none. */
async function defaultsOf(film: TrackReader, movie: Atom, track: number): Promise<Defaults | null> {
  const extends_ = await film.find(movie, 'mvex')
  if (!extends_) return null
  for (const atom of await film.children(extends_)) {
    if (atom.type !== 'trex') continue
    const fields = await fieldsOf(film, atom)
    if (fields.u32() !== track) continue
    fields.u32()
    return { duration: fields.u32(), size: fields.u32(), flags: fields.u32() }
  }
  return { duration: 0, size: 0, flags: 0 }
}

/**
 * Where samples lie: from `base` on where the run says how far, else right behind the run before. Returns where they
 * end.
 */
async function runOf(
  film: TrackReader,
  run: Atom,
  { base, behind }: { base: number; behind: number },
  defaults: Defaults,
  into: Fragments
): Promise<number> {
  const fields = await fieldsOf(film, run)
  const { flags } = fields
  const count = fields.u32()
  const each = [0x100, 0x200, 0x400, 0x800].filter(flag => flags & flag).length
  // a common size counts only where the samples of the run do not bring their own
  const common = flags & 0x200 ? 0 : defaults.size
  if (count * 4 * each > run.length || count * Math.max(1, common) > film.reader.size)
    throw film.fail('atom trun', `it claims ${count} samples, more than the film holds`)
  let at = flags & 1 ? base + (fields.u32() | 0) : behind
  let first = flags & 4 ? fields.u32() : null
  for (let i = 0; i < count; i++) {
    const duration = flags & 0x100 ? fields.u32() : defaults.duration
    const size = flags & 0x200 ? fields.u32() : defaults.size
    const own = flags & 0x400 ? fields.u32() : defaults.flags
    if (flags & 0x800) fields.u32()
    if (at < 0 || at + size > film.reader.size)
      throw film.fail(
        `frame ${into.packets.length + 1}`,
        'its data lies beyond the end of the file; the film was cut short'
      )
    into.packets.push({ offset: at, size, key: ((first ?? own) & BUILDS_ON) === 0 })
    into.ticks.push(duration)
    first = null
    at += size
  }
  return at
}

/** The samples of a track in all fragments of a film; null where the index announces none. */
export async function fragmentsOf(
  film: TrackReader,
  movie: Atom,
  track: number,
  most: number
): Promise<Fragments | null> {
  const defaults = await defaultsOf(film, movie, track)
  if (!defaults) return null
  const found: Fragments = { packets: [], ticks: [] }
  for (const fragment of await listAtoms(film.reader, 0, film.reader.size)) {
    if (fragment.type !== 'moof') continue
    const start = fragment.offset - 8
    let end = start
    for (const part of await film.children(fragment)) {
      if (part.type !== 'traf') continue
      const header = await fieldsOf(film, await film.need(part, 'tfhd'))
      const { flags } = header
      const mine = header.u32() === track
      // without a base, the first track's data begins at the fragment, and every other's where the last ended
      const base = flags & 1 ? header.u64() : flags & 0x20000 ? start : end
      if (flags & 2) header.u32()
      const own = {
        duration: flags & 8 ? header.u32() : defaults.duration,
        size: flags & 0x10 ? header.u32() : defaults.size,
        flags: flags & 0x20 ? header.u32() : defaults.flags
      }
      let at = base
      for (const run of await film.children(part)) {
        if (run.type !== 'trun') continue
        at = await runOf(film, run, { base, behind: at }, own, mine ? found : { packets: [], ticks: [] })
        if (found.packets.length > most)
          throw film.fail('atom trun', `it comes to more than the ${most} frames Pour takes`)
      }
      end = at
    }
  }
  return found
}
