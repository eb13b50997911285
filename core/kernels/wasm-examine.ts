/** Binds the kernels that look at a frame: one copy of its samples, widened on the way, serves them all. */
import { freshLanes, BLOCK_BYTES, digitsOf, lastBlock } from './fingerprint'
import type { Counts, ExamineHow, Examined } from './kernels'
import { CHANGE, LINES, NEARLY, WITHIN } from './plain-plane'
import { STRETCH } from './stretches'
import { triplesFrom, triplesRoom, type TriplesExports } from './wasm-triples'

export interface ExamineExports extends TriplesExports {
  widen(from: number, to: number, codes: number): void
  lookBegin(histogram: number, levels: number, out: number): void
  look(from: number, first: number, end: number, histogram: number, levels: number, out: number): void
  mixBlocks(from: number, blocks: number, lanes: number): void
  countSame(from: number, pixels: number, wanted: bigint): number
  countRuns(plane: number, width: number, height: number): number
  runs(plane: number, width: number, height: number, to: number): void
  bleed(plane: number, width: number, height: number, nearly: number, within: number, out: number): void
  comb(plane: number, width: number, height: number, change: number, lines: number, state: number): number
}

/** What `look` counted, from its places in memory. */
export function countsAt(buffer: ArrayBuffer, histogram: number, levels: number, out: number): Counts {
  const r = new Float64Array(buffer.slice(out, out + 72))
  return {
    histogram: new Uint32Array(buffer.slice(histogram, histogram + 1024)),
    levels: new Uint8Array(buffer.slice(levels, levels + 8192)),
    clear: r[0]!,
    solid: r[1]!,
    least: r[2]!,
    most: r[3]!,
    fine: r[4]!,
    excess: r[5]!,
    deficit: r[6]!,
    firstClear: r[7]!,
    spread: r[8]!
  }
}

/** Four codes as the pixel they are in memory. */
const pixelOf = ([r, g, b, a]: readonly [number, number, number, number]): bigint =>
  (BigInt(a) << 48n) | (BigInt(b) << 32n) | (BigInt(g) << 16n) | BigInt(r)

/** See `Kernels.examine`. */
export function wasmExamine(
  exports: ExamineExports,
  lay: (...sizes: number[]) => number[],
  samples: Uint8Array | Uint16Array,
  { width, height, same, alpha }: ExamineHow
): Examined {
  const pixels = width * height
  const narrow = samples instanceof Uint8Array
  // all but the runs, whose room follows from what the plane turns out to be, and which lie behind all of it
  const sizes = [
    8 * pixels + 64,
    narrow ? 4 * STRETCH : 0,
    alpha ? 2 * pixels + 64 : 0,
    ...[1024, 8192, 96, BLOCK_BYTES, 96, 3072, 3072],
    alpha ? Math.max(triplesRoom(width, height), 2 * width + 8) : 0
  ]
  const [from, codes, plane, histogram, levels, out, lanes, votes, intercepts, bins, work] = lay(...sizes) as [
    ...[number, number, number, number, number, number, number, number, number, number, number]
  ]
  let memory = new Uint8Array(exports.memory.buffer)
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
  const wanted = pixelOf(same)
  const mixed = new Uint32Array(exports.memory.buffer, lanes, 4)
  mixed.set(freshLanes())
  exports.lookBegin(histogram, levels, out)
  let counted = 0
  for (let first = 0; first < pixels; first += STRETCH) {
    const end = Math.min(pixels, first + STRETCH)
    const at = from + 8 * first
    if (narrow) {
      memory.set(bytes.subarray(4 * first, 4 * end), codes)
      exports.widen(codes, at, 4 * (end - first))
    } else memory.set(bytes.subarray(8 * first, 8 * end), at)
    exports.look(from, first, end, histogram, levels, out)
    exports.mixBlocks(at, Math.floor((8 * (end - first)) / BLOCK_BYTES), lanes)
    counted += exports.countSame(at, end - first, wanted)
    if (alpha) exports.alphaOf(at, plane + 2 * first, end - first)
  }
  if ((8 * pixels) % BLOCK_BYTES !== 0) {
    memory.set(lastBlock(memory.subarray(from, from + 8 * pixels)), codes)
    exports.mixBlocks(codes, 1, lanes)
  }
  const result: Examined = {
    counts: countsAt(exports.memory.buffer, histogram, levels, out),
    same: counted,
    fingerprint: digitsOf(mixed, 8 * pixels),
    alpha: null
  }
  if (!alpha) return result
  for (const [place, length] of [
    [votes, 96],
    [intercepts, 3072],
    [bins, 3072]
  ] as const)
    memory.fill(0, place, place + length)
  exports.triples(from, plane, width, height, votes, intercepts, bins, 0, work)
  memory.fill(0, work, work + 2 * width + 8)
  const comb = exports.comb(plane, width, height, CHANGE, LINES, work)
  exports.bleed(plane, width, height, NEARLY, WITHIN, out)
  const count = exports.countRuns(plane, width, height)
  const runs = lay(...sizes, 16 * count).at(-1)!
  exports.runs(plane, width, height, runs)
  memory = new Uint8Array(exports.memory.buffer)
  const [bleed, bleedLeast] = new Int32Array(exports.memory.buffer, out, 2) as unknown as [number, number]
  result.alpha = {
    triples: triplesFrom(exports.memory.buffer, votes, intercepts),
    plane: {
      runs: new Int32Array(exports.memory.buffer.slice(runs, runs + 16 * count)),
      bleed,
      bleedLeast,
      comb
    }
  }
  return result
}
