/**
 * Damage done to good files, and what a reader must hold to when it meets them. Used by a short test and by `npm run
 * fuzz`.
 */
import { readdirSync, readFileSync, statSync } from 'node:fs'
import path from 'node:path'
import { isAbort, PourError } from '../../core/base/errors'
import type { FileRef } from '../../core/base/files/file'
import { recognise } from '../../core/open/registry'
import type { Host } from '../../core/frame/host'
import { takeIn } from '../../core/run/intake/intake'
import { openForProof } from '../../core/open/stored'
import { openSource } from '../../core/open/open'
import { SourceFacts } from '../../core/source/source'
import { random } from '../unit/support'

/** Good files to begin with: the smallest few of each format among the vectors. */
export interface Seed {
  name: string
  bytes: Uint8Array<ArrayBuffer>
}

const MOST_SEEDS = 3
const LARGEST = 400_000

/** The vectors as seeds, by the id of the format that reads them. */
export async function seedsIn(folder: string, host: Host): Promise<Map<string, Seed[]>> {
  const seeds = new Map<string, Seed[]>()
  const files = (readdirSync(folder, { recursive: true }) as string[])
    .map(name => ({ name, size: statSync(path.join(folder, name)) }))
    .filter(({ size }) => size.isFile() && size.size <= LARGEST)
    .sort((a, b) => a.size.size - b.size.size)
  for (const { name } of files) {
    const bytes = new Uint8Array(readFileSync(path.join(folder, name)))
    const reader = await host.openFile({ kind: 'bytes', path: name, size: bytes.length, bytes })
    const known = await recognise(reader).catch(() => null)
    const list = known && (seeds.get(known.format.id) ?? seeds.set(known.format.id, []).get(known.format.id)!)
    if (list && list.length < MOST_SEEDS) list.push({ name, bytes })
  }
  return seeds
}

const EXTREMES = [0, 1, 0x7f, 0x80, 0xff, 0xffff, 0x7fffffff, 0x80000000, 0xffffffff]

/**
 * A file with some of the damage that disks, lines and people do: cut, bits turned, numbers made extreme, parts moved,
 * doubled, lost.
 */
export function damaged(bytes: Uint8Array, next: () => number): Uint8Array<ArrayBuffer> {
  let out = new Uint8Array(bytes)
  const place = (): number => Math.floor((next() < 0.6 ? next() ** 3 : next()) * out.length)
  for (let turns = 1 + Math.floor(next() * 4); turns > 0; turns--) {
    const kind = Math.floor(next() * 6)
    if (kind === 0) out = out.slice(0, Math.max(1, place()))
    else if (kind === 1) out[place()]! ^= 1 << Math.floor(next() * 8)
    else if (kind === 2) {
      const value = EXTREMES[Math.floor(next() * EXTREMES.length)]!
      const view = new DataView(out.buffer)
      const at = Math.min(place(), out.length - 4)
      if (at >= 0) view.setUint32(at, value, next() < 0.5)
    } else if (kind === 3) {
      const [from, to, length] = [place(), place(), 1 + Math.floor(next() * 64)]
      out.copyWithin(to, from, from + length)
    } else if (kind === 4) {
      const [from, length] = [place(), 1 + Math.floor(next() * 32)]
      const rest = out.subarray(from + length)
      out = new Uint8Array([...out.subarray(0, from), ...rest])
    } else out.fill(Math.floor(next() * 256), place(), place() + Math.floor(next() * 16))
    if (out.length === 0) out = new Uint8Array(1)
  }
  return out
}

/** A host that counts the files that are open. */
export function counting(host: Host): { host: Host; open(): number } {
  let open = 0
  return {
    open: () => open,
    host: {
      ...host,
      async openFile(file) {
        const reader = await host.openFile(file)
        open++
        let closed = false
        return {
          ...reader,
          close: () => {
            if (!closed) open--
            closed = true
            return reader.close()
          }
        }
      }
    }
  }
}

/** How reading ended: with frames, or with an error that Pour speaks. Anything else is a fault and is thrown. */
export async function readAnyhow(file: FileRef, host: Host): Promise<'read' | 'refused'> {
  const intake = await takeIn([file], host)
  const [found] = intake.found
  if (!found) return 'refused'
  SourceFacts.parse(found.facts)
  let ended: 'read' | 'refused' = 'read'
  for (const open of [openSource, openForProof])
    try {
      const source = await open({ ...found.spec, id: 'hostile' }, host)
      try {
        for (let i = 0; i < Math.min(3, source.facts.frames); i++) {
          const frame = await source.frame(i)
          if (frame.samples.length !== frame.width * frame.height * 4) throw new Error('a frame of a wrong length')
        }
      } finally {
        await source.close()
      }
    } catch (error) {
      if (!(error instanceof PourError) && !isAbort(error)) throw error
      ended = 'refused'
    }
  return ended
}

/** Damages `seeds` `count` times and reads each. Throws, naming how to make the file again, at the first fault. */
export async function fuzz(
  seeds: readonly Seed[],
  count: number,
  given: Host,
  { first = 0, onDone = () => undefined }: { first?: number; onDone?: (n: number, ended: string) => void } = {}
): Promise<{ read: number; refused: number }> {
  const ends = { read: 0, refused: 0 }
  const { host, open } = counting(given)
  for (let n = first; n < first + count; n++) {
    const seed = seeds[n % seeds.length]!
    const bytes = damaged(seed.bytes, random(n))
    try {
      const ended = await readAnyhow({ kind: 'bytes', path: path.basename(seed.name), size: bytes.length, bytes }, host)
      if (open() !== 0) throw new Error(`${open()} files were left open`)
      ends[ended]++
      onDone(n, ended)
    } catch (error) {
      throw new Error(
        `number ${n} of ${seed.name}: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`,
        {
          cause: error
        }
      )
    }
  }
  return ends
}
