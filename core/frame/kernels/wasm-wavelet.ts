/** Binds the kernels of wavelet pictures; see `tests/oracles/wavelet.ts`, which defines what their bands stand for. */
import type { WaveletCoded, WaveletFault, WaveletHow, WaveletPlane } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'
import { companded, waveletDecodeTable, waveletEncodeTable } from './wavelet-codes'

/** What is made once: tables for both directions. */
let decodeTable: Uint32Array<ArrayBuffer> | null = null
let encodeTable: BigUint64Array<ArrayBuffer> | null = null

/** Bytes that four lines of bands take, with a vector and more at each end of each. */
const linesOf = (width: number): number => 4 * (2 * width + 64) + 64

const bytesOf = (array: Uint32Array | BigUint64Array | Int16Array): Uint8Array =>
  new Uint8Array(array.buffer, array.byteOffset, array.byteLength)

/** By how many bits a low band was made smaller before it was halved at a level, 0 the finest. */
const scaledBy = (prescale: number, level: number): number => (prescale >>> (14 - 2 * level)) & 3

/** Coefficients in a band's line: whole vectors. */
const bandLine = (width: number): number => 8 * Math.ceil(width / 8)

/** Where a plane's parts lie while it is decoded. */
interface Places {
  packet: number
  table: number
  sizes: number
  lines: number
  /** Nine bands and the low one, one behind the other. */
  bands: number
  low: number
  /** The picture of each level, of which two are at hand in turn. */
  levels: readonly [number, number]
}

/** Decodes one plane to `to`, in codes of so many bits. The band at fault where there is one, else null. */
function decodePlane(
  { exports }: Room,
  plane: WaveletPlane,
  bits: number,
  { places, to }: { places: Places; to: number }
): number | null {
  const { packet, table, sizes, lines, bands, low, levels } = places
  const { memory } = exports
  let at = low
  exports.waveletLow(packet + plane.low, low, (plane.width * plane.height) / 64)
  for (let level = 2; level >= 0; level--) {
    const three = plane.bands.slice(3 * (2 - level), 3 * (3 - level))
    const { width, height } = three[0]!
    const count = bandLine(width) * height
    const room = 2 * count + BEYOND
    const found = three.map((_, i) => bands + i * room)
    new Uint8Array(memory.buffer, bands, 3 * room).fill(0)
    for (const [i, band] of three.entries()) {
      const meaning = new Int16Array(memory.buffer, sizes, 512)
      for (let size = -255; size < 256; size++) {
        const stands = band.companded ? Math.sign(size) * companded(Math.abs(size)) : size
        meaning[256 + size] = stands * band.quantiser
      }
      const from = packet + band.at
      if (exports.waveletBand({ from, bytes: band.bytes, to: found[i]!, count, table, sizes }))
        return 3 * (2 - level) + i
      if (band.summed) exports.waveletSum(found[i]!, bandLine(width), height)
    }
    const [highAcross, highDown, highBoth] = found as [number, number, number]
    const next = level ? levels[level % 2]! : to
    // before the next step down the picture is its low band again, at its former size
    const [shift, most] = level ? [scaledBy(plane.prescale, level), 0] : [0, 2 ** bits - 1]
    exports.waveletUp({ low: at, highAcross, highDown, highBoth, to: next, width, height, lines, shift, most })
    at = next
  }
  return null
}

/** Decodes every plane, and gives where each lies. */
function decodePlanes(room: Room, packet: Uint8Array, planes: readonly WaveletPlane[], bits: number, beside: number) {
  decodeTable ??= waveletDecodeTable()
  const [{ width, height }] = planes as [WaveletPlane]
  const whole = 2 * width * height + 2 * BEYOND
  const [from, table, sizes, lines, bands, low, one, two, result, ...ends] = room.lay(
    packet.length + BEYOND,
    decodeTable.byteLength,
    1024 + BEYOND,
    linesOf(width),
    3 * bandLine(width / 2) * height + 3 * BEYOND,
    whole / 32 + BEYOND,
    whole / 4 + BEYOND,
    whole / 4 + BEYOND,
    beside,
    ...planes.map(() => whole)
  ) as number[]
  const memory = new Uint8Array(room.exports.memory.buffer)
  memory.set(packet, from)
  memory.set(bytesOf(decodeTable), table)
  const places: Places = {
    packet: from!,
    table: table!,
    sizes: sizes!,
    lines: lines!,
    bands: bands!,
    low: low!,
    levels: [one!, two!]
  }
  for (const [channel, plane] of planes.entries()) {
    const band = decodePlane(room, plane, bits, { places, to: ends[channel]! })
    if (band !== null) return { fault: { channel, band }, ends, result: result! }
  }
  return { fault: null, ends, result: result! }
}

/** See `Kernels.waveletPlanes`. */
export function wasmWaveletPlanes(
  room: Room,
  packet: Uint8Array,
  planes: readonly WaveletPlane[],
  bits: number
): Uint16Array[] | WaveletFault {
  const { fault, ends } = decodePlanes(room, packet, planes, bits, 0)
  const { buffer } = room.exports.memory
  return fault ?? planes.map(({ width, height }, i) => new Uint16Array(buffer, ends[i], width * height).slice())
}

/** See `Kernels.waveletRgba`. */
export function wasmWaveletRgba(
  room: Room,
  packet: Uint8Array,
  planes: readonly WaveletPlane[],
  { width, height }: FrameSize
): Uint16Array | WaveletFault {
  const size = 8 * width * height
  const { fault, ends, result } = decodePlanes(room, packet, planes, 12, size + BEYOND)
  if (fault) return fault
  const [green, red, blue, alpha] = ends as [number, number, number, number | undefined]
  const stride = planes[0]!.width
  room.exports.waveletPack({ green, red, blue, alpha: alpha ?? 0, to: result, stride, width, height })
  return new Uint16Array(room.take(result, size).buffer)
}

/** Lines that a picture of so many is coded with. */
export const waveletLines = (height: number): number => Math.max(24, 8 * Math.ceil(height / 8))

/** The largest number that a size stands for. */
const MOST = companded(255)

/** Where parts of a picture lie while it is coded. */
interface CodePlaces {
  table: number
  lines: number
  /** Low bands of which two are at hand in turn, three others, and the codes of one. */
  lows: readonly [number, number]
  highs: readonly [number, number, number]
  packed: number
}

/** Codes a plane, which is lost by it. */
function encodePlane(
  { exports }: Room,
  plane: number,
  { width, height }: FrameSize,
  { places, quantisers }: { places: CodePlaces; quantisers: readonly number[] }
): WaveletCoded {
  const { table, lines, lows, highs, packed } = places
  const [highAcross, highDown, highBoth] = highs
  const bands: WaveletCoded['bands'] = new Array<WaveletCoded['bands'][number]>(9)
  let from = plane
  for (let level = 0; level < 3; level++) {
    const [w, h] = [width >> (level + 1), height >> (level + 1)]
    const low = lows[level % 2]!
    const shift = level < 2 ? 2 : 0
    exports.waveletDown({ from, width: w, height: h, low, highAcross, highDown, highBoth, lines, shift })
    for (const [i, band] of highs.entries()) {
      const index = 3 * (2 - level) + i
      const count = bandLine(w) * h
      const quantiser = Math.max(quantisers[index]!, Math.ceil(exports.waveletLargest(band, 2 * count) / MOST))
      exports.waveletQuantise(band, 2 * count, Math.min(32767, Math.round(32768 / quantiser)))
      const bytes = exports.waveletCode(band, count, packed, table)
      bands[index] = { codes: new Uint8Array(exports.memory.buffer, packed, bytes).slice(), quantiser }
    }
    from = low
  }
  const coarsest = new DataView(exports.memory.buffer, from, (width * height) / 32)
  const low = new DataView(new ArrayBuffer(coarsest.byteLength))
  for (let i = 0; i < coarsest.byteLength; i += 2) low.setInt16(i, coarsest.getInt16(i, true))
  return { low: new Uint8Array(low.buffer), bands }
}

/** See `Kernels.waveletEncode`. */
export function wasmWaveletEncode(
  room: Room,
  samples: Uint16Array,
  { width, height }: FrameSize,
  { colour, alpha, fill }: WaveletHow
): WaveletCoded[] {
  encodeTable ??= waveletEncodeTable()
  const { exports } = room
  const tall = waveletLines(height)
  const whole = 2 * width * tall + BEYOND
  const channels = alpha ? 4 : 3
  const high = bandLine(width / 2) * tall + BEYOND
  const [table, lines, one, two, across, down, both, packed, pixels, ...planes] = room.lay(
    encodeTable.byteLength,
    linesOf(width),
    whole / 4 + BEYOND,
    whole / 4 + BEYOND,
    high,
    high,
    high,
    // a coefficient takes 27 bits at most
    bandLine(width / 2) * tall * 2 + BEYOND,
    8 * width * tall + BEYOND,
    ...Array.from({ length: channels }, () => whole)
  ) as [number, number, number, number, number, number, number, number, number, ...number[]]
  const memory = new Uint8Array(exports.memory.buffer)
  memory.set(bytesOf(encodeTable), table)
  memory.set(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength), pixels)
  if (fill) exports.fillClear(pixels, width, height)
  const line = 8 * width
  for (let y = height; y < tall; y++)
    memory.copyWithin(pixels + y * line, pixels + (height - 1) * line, pixels + height * line)
  const [green, red, blue, fourth] = planes as [number, number, number, number?]
  exports.waveletUnpack({ from: pixels, pixels: width * tall, green, red, blue, alpha: fourth ?? 0 })
  const places: CodePlaces = { table, lines, lows: [one, two], highs: [across, down, both], packed }
  return planes.map((plane, i) =>
    encodePlane(room, plane, { width, height: tall }, { places, quantisers: i < 3 ? colour : alpha! })
  )
}
