/**
 * What unit tests share: a host with the real kernels, random frames, vectors with their truth, and yardstick decoders.
 */
import type { SourceFacts } from '../../core/source/source'
import { readFile } from 'node:fs/promises'
import { wholeForm } from '../../core/media/formats/form'
import path from 'node:path'
import fc from 'fast-check'
import sharp from 'sharp'
import { PourError } from '../../core/base/errors'
import type { FileRef } from '../../core/base/files/file'
import { memorySink } from '../../core/base/files/sinks'
import { formatById } from '../../core/open/registry'
import type { Format } from '../../core/media/formats/format'
import type { Deliverable } from '../../core/media/formats/deliverable'
import { STRAIGHT, type AlphaMode, type Depth, type Frame } from '../../core/frame/frame'
import type { StrokeStyle } from '../../core/draw/raster/stroke'
import type { Host } from '../../core/frame/host'
import { nodeHost } from '../../platform/node/host'

export const root = path.resolve(import.meta.dirname, '../..')
export const vectors = path.join(root, 'tests/vectors')

let ready: Promise<Host> | null = null
export function testHost(): Promise<Host> {
  return (ready ??= nodeHost(path.join(root, 'core/frame/kernels/build/kernels.wasm')))
}

export function bytesFile(name: string, bytes: Uint8Array): FileRef {
  return { kind: 'bytes', path: name, size: bytes.length, bytes: new Uint8Array(bytes) }
}

export async function vectorFile(name: string): Promise<FileRef> {
  return bytesFile(name, await readFile(path.join(vectors, name)))
}

/** Frame `number` (from 1) of a truth, read by sharp: RGBA codes of 8 or 16 bits. */
export async function truth(name: string, number: number): Promise<Frame> {
  return sharpFrame(await readFile(path.join(vectors, 'truth', `${name}.${String(number).padStart(4, '0')}.png`)))
}

/** Any picture sharp reads, as stored, with alpha added where it has none. */
export async function sharpFrame(bytes: Uint8Array): Promise<Frame> {
  const image = sharp(bytes, { limitInputPixels: false })
  const { depth } = await image.metadata()
  const wide = depth === 'ushort'
  const { data, info } = await image
    .ensureAlpha()
    .toColourspace(wide ? 'rgb16' : 'srgb')
    .raw(wide ? { depth: 'ushort' } : {})
    .toBuffer({ resolveWithObject: true })
  const own = new Uint8Array(data)
  return {
    width: info.width,
    height: info.height,
    depth: wide ? 16 : 8,
    samples: wide ? new Uint16Array(own.buffer) : own,
    alpha: STRAIGHT,
    transfer: 'srgb'
  }
}

/** A small repeatable generator of random numbers (xorshift), for frames too large to draw value by value. */
export function random(seed: number): () => number {
  let state = Math.imul(seed, 0x9e3779b1) | 1
  return () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) / 2 ** 32
  }
}

export interface Noise {
  width: number
  height: number
  depth: Depth
  alpha?: AlphaMode
  seed?: number
  /** Share of pixels that repeat the one before, so that run lengths and filters have work. */
  runs?: number
}

/** Codes at random, with clear, solid and partial pixels in like measure. */
export function noise({ width, height, depth, alpha = STRAIGHT, seed = 1, runs = 0.5 }: Noise): Frame {
  const next = random(seed)
  const full = depth === 8 ? 255 : depth === 16 ? 65535 : 1
  const length = width * height * 4
  const samples =
    depth === 8 ? new Uint8Array(length) : depth === 16 ? new Uint16Array(length) : new Float32Array(length)
  for (let i = 0; i < length; i += 4) {
    if (i > 0 && next() < runs) {
      samples.copyWithin(i, i - 4, i)
      continue
    }
    for (let c = 0; c < 3; c++) samples[i + c] = depth === 32 ? next() : Math.floor(next() * (full + 1))
    const kind = next()
    samples[i + 3] =
      alpha.mode === 'none' || kind < 0.3
        ? full
        : kind < 0.6
          ? 0
          : depth === 32
            ? next()
            : Math.floor(next() * (full + 1))
  }
  return { width, height, depth, samples, alpha, transfer: 'srgb' }
}

/** Small frames of every shape. */
export const anyNoise = (depth: Depth, alpha?: AlphaMode): fc.Arbitrary<Frame> =>
  fc
    .record({
      width: fc.integer({ min: 1, max: 33 }),
      height: fc.integer({ min: 1, max: 17 }),
      seed: fc.integer({ min: 1, max: 2 ** 30 }),
      runs: fc.constantFrom(0, 0.3, 0.9, 1)
    })
    .map(shape => noise({ ...shape, depth, ...(alpha ? { alpha } : {}) }))

/** A frame that needs no other. */
export const ALONE = null

export function deliverable(frame: Frame, frames: number, more: Partial<Deliverable> = {}): Deliverable {
  return {
    width: frame.width,
    height: frame.height,
    frames,
    rate: [12, 1],
    ...wholeForm(frame.depth, frame.alpha),
    pixelAspect: [1, 1],
    fields: 'progressive',
    sound: null,
    options: {},
    names: [],
    ...more
  }
}

/** A film written through the registry, as a pour would write it. */
export async function writeFilm(
  id: string,
  frames: readonly Frame[],
  more: Partial<Deliverable> = {}
): Promise<Uint8Array<ArrayBuffer>> {
  const host = await testHost()
  const format = formatById(id)
  const shape = deliverable(frames[0]!, frames.length, more)
  const sink = memorySink()
  const film = await format.assemble({ kind: 'film', sink }, shape, host)
  for (const [i, frame] of frames.entries())
    await film.add(
      i,
      await format.encode(host, frame, shape, i > 0 && format.buildsOn?.(i, shape) ? frames[i - 1]! : null)
    )
  await film.finish()
  return sink.bytes()
}

/** The width, from one on, that a format has films of. */
export function widthFor(format: Format, width: number): number {
  const refuses = (wide: number): boolean =>
    format.container !== undefined &&
    Boolean(format.refusesClip?.({ width: wide, height: 24, frames: 1, depth: 16, options: {} }))
  while (refuses(width)) width++
  return width
}

/** Runs `work` on damaged bytes: anything but success or one clear error of ours fails the test. */
export async function survives(work: () => Promise<unknown>): Promise<'read' | 'refused'> {
  try {
    await work()
    return 'read'
  } catch (error) {
    if (!(error instanceof PourError))
      throw new Error(`not a clear error: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`)
    if (!error.file || error.matter.length < 10)
      throw new Error(`an error must name its file and matter: "${error.message}"`)
    if (/\bundefined\b|is not a function|reading '|ASSERTIONS|out of bounds|call stack/.test(error.message))
      throw new Error(`an error speaks of the file, not of code: "${error.message}"`)
    return 'refused'
  }
}

/** Damages bytes: a cut, flipped bytes, or a stretch set to one value. */
export function damage(bytes: Uint8Array, seed: number): Uint8Array {
  const next = random(seed)
  const kind = next()
  if (kind < 0.3) return bytes.slice(0, Math.floor(next() * bytes.length))
  // a Buffer would share its memory with its slice, and fill differently
  const copy = new Uint8Array(bytes)
  // headers and tables are small; half of the damage is aimed at the first and last stretch
  const place = (): number => {
    const where = next()
    const span = Math.min(bytes.length, 700)
    return where < 0.35
      ? Math.floor(next() * span)
      : where < 0.7
        ? bytes.length - 1 - Math.floor(next() * span)
        : Math.floor(next() * bytes.length)
  }
  if (kind < 0.85) for (let n = 1 + Math.floor(next() * 4); n > 0; n--) copy[place()] = Math.floor(next() * 256)
  else {
    const from = place()
    copy.fill(next() < 0.5 ? 0 : 255, from, from + 1 + Math.floor(next() * 16))
  }
  return copy
}

/** Where two runs of codes first differ, in words; null when they are alike. Far quicker than a deep comparison. */
export function firstDifference(found: ArrayLike<number>, due: ArrayLike<number>): string | null {
  if (found.length !== due.length) return `${found.length} codes instead of ${due.length}`
  for (let i = 0; i < due.length; i++) if (found[i] !== due[i]) return `code ${i} is ${found[i]} instead of ${due[i]}`
  return null
}

/** Facts of a numbered strap, to be changed where a test is about it. */
export const strapFacts = (more: Partial<SourceFacts> = {}): SourceFacts => ({
  name: 'name strap',
  format: 'png-sequence',
  kind: 'PNG sequence',
  width: 1280,
  height: 720,
  frames: 50,
  rate: [25, 1],
  rateFrom: 'name',
  bitDepth: 16,
  claim: { mode: 'straight', matte: null, says: '' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 1,
  findings: [],
  ...more
})

/** A stroke of this width with round ends and corners. */
export const roundOf = (width: number): StrokeStyle => ({
  width,
  cap: 'round',
  join: 'round',
  miterLimit: 4,
  dashes: [],
  dashOffset: 0
})
