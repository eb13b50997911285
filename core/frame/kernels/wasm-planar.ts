/** Binds the kernels of planes of 8 bits; see `tests/oracles/planar.ts`, which defines what they give. */
import type { PlanarPart, PlanarTable, PlanarWay } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** See `Kernels.planarSplit`. */
export function wasmPlanarSplit(
  { exports, lay }: Room,
  samples: Uint8Array,
  { width, height }: FrameSize,
  { alpha, tops, way: { start, lines } }: { alpha: boolean; tops: readonly number[]; way: PlanarWay }
): PlanarPart[] {
  const pixels = width * height
  const channels = alpha ? 4 : 3
  const [from, counts, apart, ...planes] = lay(
    samples.length + BEYOND,
    1024,
    pixels + BEYOND,
    ...Array.from({ length: channels }, () => pixels + BEYOND)
  ) as [number, number, number, ...number[]]
  const memory = new Uint8Array(exports.memory.buffer)
  memory.set(samples, from)
  const [green, blue, red, fourth] = planes as [number, number, number, number?]
  exports.planarSplit({ from, pixels, green, blue, red, alpha: fourth ?? 0, start })
  return planes.map(plane => {
    for (const [n, top] of tops.entries()) {
      const rows = (tops[n + 1] ?? height) - top
      exports.planarDiffer({
        from: plane + top * width,
        count: rows * width,
        width,
        to: apart + top * width,
        start,
        lines: Number(lines)
      })
    }
    memory.fill(0, counts, counts + 1024)
    exports.planarCount(apart, pixels, counts)
    return {
      values: memory.slice(apart, apart + pixels),
      counts: new Uint32Array(exports.memory.buffer, counts, 256).slice()
    }
  })
}

/** See `Kernels.planarCode`. */
export function wasmPlanarCode(
  { exports, lay }: Room,
  values: Uint8Array,
  codes: BigUint64Array,
  { words }: Pick<PlanarWay, 'words'>
): Uint8Array {
  // a code takes 32 bits at most
  const [from, table, to] = lay(values.length, codes.byteLength, 4 * values.length + BEYOND) as [number, number, number]
  const { buffer } = exports.memory
  new Uint8Array(buffer).set(values, from)
  new BigUint64Array(buffer, table, codes.length).set(codes)
  const end = exports.planarCode(from, values.length, table, to, Number(words)) >>> 0
  return new Uint8Array(buffer, to, end - to).slice()
}

/** See `Kernels.planarDecode`. */
export function wasmPlanarDecode(
  { exports, lay }: Room,
  bytes: Uint8Array,
  { quick, codes, lengths, symbols }: PlanarTable,
  { count, width, median, way }: { count: number; width: number; median: boolean; way: PlanarWay }
): Uint8Array | null {
  const many = codes.length
  const [from, near, long, to] = lay(bytes.length + BEYOND, quick.byteLength, 6 * many, count + BEYOND) as [
    number,
    number,
    number,
    number
  ]
  const memory = new Uint8Array(exports.memory.buffer)
  memory.set(bytes, from)
  memory.fill(0, from + bytes.length, from + bytes.length + 4)
  memory.set(new Uint8Array(quick.buffer, quick.byteOffset, quick.byteLength), near)
  memory.set(new Uint8Array(codes.buffer, codes.byteOffset, codes.byteLength), long)
  memory.set(lengths, long + 4 * many)
  memory.set(symbols, long + 5 * many)
  const words = Number(way.words)
  if (!exports.planarDecode({ from, bytes: bytes.length, quick: near, long, symbols: many, to, count, words }))
    return null
  if (median) exports.planarSum(to, count, width, way.start, Number(way.lines))
  return memory.slice(to, to + count)
}

/** See `Kernels.planarJoin`. */
export function wasmPlanarJoin(
  { exports, lay, take }: Room,
  planes: readonly Uint8Array[],
  { start }: Pick<PlanarWay, 'start'>
): Uint8Array {
  const pixels = planes[0]!.length
  const [to, ...places] = lay(4 * pixels + 4 * BEYOND, ...planes.map(() => pixels + BEYOND)) as [number, ...number[]]
  const memory = new Uint8Array(exports.memory.buffer)
  for (const [n, plane] of planes.entries()) memory.set(plane, places[n])
  const [green, blue, red, alpha] = places as [number, number, number, number?]
  exports.planarJoin({ to, pixels, green, blue, red, alpha: alpha ?? 0, start })
  return take(to, 4 * pixels)
}
