/** Binds the kernels that look at a frame: one copy of its samples, widened on the way, serves them all. */
import { freshLanes, BLOCK_BYTES, digitsOf, lastBlock } from './fingerprint'
import type { Counts, ExamineHow, Examined, IslandCounts } from './kernels'
import { CHANGE, FAINT_BELOW, LINES, NEARLY, SPECK, WITHIN } from './terms'
import { FAR } from './terms'
import { STRETCH } from './stretches'
import { triplesFrom, triplesRoom } from './wasm-triples'
import type { Room } from './wasm-room'

/** Bytes that the tables of `look` take: its counts by alpha and its levels. */
export const LOOK_TABLES = [4096, 65536] as const

/** What `look` counted, from its places in memory, after `lookEnd`. */
export function countsAt(buffer: ArrayBuffer, histogram: number, levels: number, out: number): Counts {
  const r = new Float64Array(buffer.slice(out, out + 64))
  return {
    histogram: new Uint32Array(buffer.slice(histogram, histogram + 1024)),
    levels: new Uint8Array(buffer.slice(levels, levels + 8192)),
    clear: r[0]!,
    solid: r[1]!,
    least: r[2]!,
    most: r[3]!,
    fine: r[4]!,
    excess: r[5]!,
    firstClear: r[6]!,
    spread: r[7]!
  }
}

/** Rows beyond those in use that triples look at, and one more. */
const REACH = FAR.at(-1)! + 1

type Codes = readonly [number, number, number, number]

/** Four codes of 16 bits as the pixel they are in memory. */
const pixelOf = ([r, g, b, a]: Codes): bigint =>
  (BigInt(a) << 48n) | (BigInt(b) << 32n) | (BigInt(g) << 16n) | BigInt(r)

const islandsFrom = (found: Int32Array): IslandCounts => {
  const [all, specks, speckMost, faint, faintMost] = [...found] as [number, number, number, number, number]
  return { all, specks, speckMost, faint, faintMost }
}

/** See `Kernels.examine`. */
export function wasmExamine(
  { exports, lay }: Room,
  samples: Uint8Array | Uint16Array,
  { width, height, same, alpha }: ExamineHow
): Examined {
  const pixels = width * height
  const narrow = samples instanceof Uint8Array
  const room = narrow ? 4 : 8
  // all but the runs, whose room follows from what the plane turns out to be, and which lie behind all of it
  const sizes = [
    room * pixels + 64,
    alpha ? 2 * pixels + 64 : 0,
    ...[...LOOK_TABLES, 96, BLOCK_BYTES, BLOCK_BYTES, 128, 3072, 3072],
    alpha ? Math.max(triplesRoom(width, height), 2 * width + 16) : 0
  ]
  const [from, plane, histogram, levels, out, lanes, block, votes, intercepts, bins, work] = lay(...sizes) as [
    ...[number, number, number, number, number, number, number, number, number, number, number]
  ]
  const memory = new Uint8Array(exports.memory.buffer)
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
  const wanted = pixelOf(same)
  const alphaOf = narrow ? exports.alphaOf8 : exports.alphaOf
  const mixed = new Uint32Array(exports.memory.buffer, lanes, 4)
  mixed.set(freshLanes())
  exports.lookBegin(histogram, levels, out, Number(narrow))
  let counted = 0
  // pixels before the first and behind the last that is not clear and black
  let used = pixels
  let last = 0
  const blank: number[] = []
  for (let first = 0; first < pixels; first += STRETCH) {
    const end = Math.min(pixels, first + STRETCH)
    const at = from + room * first
    const count = end - first
    memory.set(bytes.subarray(room * first, room * end), at)
    exports.mixBlocks(at, Math.floor((room * count) / BLOCK_BYTES), lanes)
    if (exports.isBlank(at, room * count)) {
      exports.lookBlank({ from, first, pixels: count, histogram, levels, out })
      if (wanted === 0n) counted += count
      blank.push(first)
      continue
    }
    used = Math.min(used, first)
    last = end
    if (alpha) alphaOf(at, plane + 2 * first, count)
    exports.look({ from, first, end, histogram, levels, out })
    counted += exports.countSame(at, count, wanted)
  }
  exports.lookEnd(histogram, levels, out)
  if (bytes.length % BLOCK_BYTES !== 0) {
    memory.set(lastBlock(bytes), block)
    exports.mixBlocks(block, 1, lanes)
  }
  const counts = countsAt(exports.memory.buffer, histogram, levels, out)
  const result: Examined = {
    counts,
    same: counted,
    fingerprint: digitsOf(mixed, bytes.length),
    alpha: null
  }
  if (!alpha) return result
  for (const [place, length] of [
    [votes, 128],
    [intercepts, 3072],
    [bins, 3072]
  ] as const)
    memory.fill(0, place, place + length)
  const bottom = Math.ceil(last / width)
  const top = Math.min(bottom, Math.floor(used / width))
  // triples reach so many rows beyond; where clear pixels have colours, all of them are looked at
  const reach = counts.spread === 0 && blank.length > 0 ? REACH * width : pixels
  for (const first of blank) {
    const end = Math.min(pixels, first + STRETCH)
    if (end <= top * width - reach || first >= bottom * width + reach) continue
    memory.fill(0, plane + 2 * first, plane + 2 * end)
  }
  if (counts.spread === 0) {
    // all clear pixels have the colour of the first
    const seen = samples.subarray(4 * Math.max(0, counts.firstClear)).subarray(0, 4)
    const [r, g, b] = [...seen].map(code => (narrow ? 257 * code : code)) as [number, number, number]
    const colour = counts.clear === 0 ? 0n : pixelOf([r, g, b, 0])
    exports.clearsKnown(counts.clear, pixels - counts.clear - counts.solid, colour, votes)
  }
  exports.triples({
    from,
    plane,
    width,
    height,
    top,
    bottom,
    out: votes,
    intercepts,
    bins,
    marks: 0,
    work,
    narrow: Number(narrow)
  })
  memory.fill(0, work, work + 2 * width + 16)
  const comb = exports.comb({
    plane,
    width,
    top,
    bottom: Math.min(height, bottom + 1),
    change: CHANGE,
    lines: LINES,
    state: work
  })
  new Int32Array(exports.memory.buffer, out, 2).set([top, bottom])
  exports.bleed({ plane, width, height, nearly: NEARLY, within: WITHIN, out })
  const [bleed, bleedLeast] = [...new Int32Array(exports.memory.buffer, out, 2)] as [number, number]
  const layRuns = (most: number): [runs: number, parent: number, found: number] => {
    const [runs, parent] = lay(...sizes, 16 * most, 4 * most).slice(-2) as [number, number]
    return [runs, parent, exports.runs({ plane, width, top, bottom, to: runs, room: most })]
  }
  // most frames have fewer; of those that have more they are looked for again
  const usual = Math.ceil(pixels / 16)
  const once = layRuns(usual)
  const [runs, parent, found] = once[2] > usual ? layRuns(once[2]) : once
  exports.islands({ from: runs, count: found, parent, speck: SPECK, faint: FAINT_BELOW, out })
  result.alpha = {
    triples: triplesFrom(exports.memory.buffer, votes, intercepts),
    plane: {
      islands: islandsFrom(new Int32Array(exports.memory.buffer, out, 5)),
      bleed,
      bleedLeast,
      comb
    }
  }
  return result
}
