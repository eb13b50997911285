/**
 * Wavelet pictures, plainly: codes bit by bit, and the transform of two taps low and six high as it is defined. A low
 * value is the sum of two neighbours; a high one twice the first less what the three low values about them foretell.
 */
import type { WaveletBand, WaveletCoded, WaveletFault, WaveletHow, WaveletPlane } from '../../core/frame/kernels/coded'
import type { FrameSize } from '../../core/frame/kernels/kernels'
import { BAND_END, companded, LEVEL_CODES, ZERO_RUNS, type WaveletCode } from '../../core/frame/kernels/wavelet-codes'

const bitsOf = ({ code, bits }: WaveletCode): string => code.toString(2).padStart(bits, '0')

type Meaning = { zeros: number } | { size: number } | 'end'

const MEANINGS = new Map<string, Meaning>([
  ...ZERO_RUNS.map((run): [string, Meaning] => [bitsOf(run), { zeros: run.zeros }]),
  ...LEVEL_CODES.flatMap((code, i): [string, Meaning][] => [
    [`${bitsOf(code)}0`, { size: i + 1 }],
    [`${bitsOf(code)}1`, { size: -(i + 1) }]
  ]),
  [bitsOf(BAND_END), 'end']
])

/** Lines of a picture. */
type Lines = number[][]

const linesOf = (values: ArrayLike<number>, width: number, height: number): Lines =>
  Array.from({ length: height }, (_, y) => Array.from({ length: width }, (_, x) => values[y * width + x]!))

const turned = (lines: Lines): Lines => lines[0]!.map((_, x) => lines.map(line => line[x]!))

/** Coefficients of a band; null where its codes break off or say too much. */
export function readBand(packet: Uint8Array, band: WaveletBand): Lines | null {
  const stride = 8 * Math.ceil(band.width / 8)
  const values: number[] = []
  let code = ''
  for (let bit = 0; bit < 8 * band.bytes; bit++) {
    code += (packet[band.at + (bit >> 3)]! >> (7 - (bit & 7))) & 1
    const meaning = MEANINGS.get(code)
    if (!meaning) continue
    code = ''
    if (meaning === 'end') {
      while (values.length < stride * band.height) values.push(0)
      const lines = linesOf(values, stride, band.height)
      if (band.summed) for (const line of lines) for (let x = 1; x < stride; x++) line[x]! += line[x - 1]!
      return lines.map(line => line.slice(0, band.width))
    }
    if ('zeros' in meaning) for (let n = 0; n < meaning.zeros; n++) values.push(0)
    else {
      const size = Math.abs(meaning.size)
      values.push(Math.sign(meaning.size) * (band.companded ? companded(size) : size) * band.quantiser)
    }
    if (values.length > stride * band.height) return null
  }
  return null
}

/** What low values foretell of the first of a pair, times two. */
function foretold(low: readonly number[], i: number): number {
  const last = low.length - 1
  if (i === 0) return (11 * low[0]! - 4 * low[1]! + low[2]! + 4) >> 3
  if (i === last) return (5 * low[last]! + 4 * low[last - 1]! - low[last - 2]! + 4) >> 3
  return low[i]! + ((low[i - 1]! - low[i + 1]! + 4) >> 3)
}

/** And of the second, which is rounded by itself. */
function foretoldSecond(low: readonly number[], i: number): number {
  const last = low.length - 1
  if (i === 0) return (5 * low[0]! + 4 * low[1]! - low[2]! + 4) >> 3
  if (i === last) return (11 * low[last]! - 4 * low[last - 1]! + low[last - 2]! + 4) >> 3
  return low[i]! + ((low[i + 1]! - low[i - 1]! + 4) >> 3)
}

/** Twice as many values, from low ones and high ones. */
export const joined = (low: readonly number[], high: readonly number[]): number[] =>
  low.flatMap((_, i) => [(foretold(low, i) + high[i]!) >> 1, (foretoldSecond(low, i) - high[i]!) >> 1])

/** Low values and high ones: what `joined` undoes. */
export function parted(values: readonly number[]): { low: number[]; high: number[] } {
  const low = Array.from({ length: values.length / 2 }, (_, i) => values[2 * i]! + values[2 * i + 1]!)
  const last = low.length - 1
  const high = low.map((_, i) =>
    i === last ? foretoldSecond(low, i) - 2 * values[2 * i + 1]! : 2 * values[2 * i]! - foretold(low, i)
  )
  return { low, high }
}

/** The prescale of a level, 0 the finest. */
const scaledBy = (prescale: number, level: number): number => (prescale >>> (14 - 2 * level)) & 3

function planeOf(packet: Uint8Array, plane: WaveletPlane, bits: number): Lines | number {
  const view = new DataView(packet.buffer, packet.byteOffset, packet.byteLength)
  const [w, h] = [plane.width / 8, plane.height / 8]
  const codes = Array.from({ length: w * h }, (_, i) => view.getInt16(plane.low + 2 * i))
  let low = linesOf(codes, w, h)
  for (let level = 2; level >= 0; level--) {
    const found: Lines[] = []
    for (let i = 3 * (2 - level); i < 3 * (3 - level); i++) {
      const band = readBand(packet, plane.bands[i]!)
      if (!band) return i
      found.push(band)
    }
    const [across, down, both] = found as [Lines, Lines, Lines]
    const joinDown = (a: Lines, b: Lines): Lines => {
      const [first, second] = [turned(a), turned(b)]
      return turned(first.map((column, x) => joined(column, second[x]!)))
    }
    const [lows, highs] = [joinDown(low, down), joinDown(across, both)]
    const most = 2 ** bits - 1
    low = lows.map((line, y) =>
      joined(line, highs[y]!).map(value =>
        level ? value << scaledBy(plane.prescale, level) : Math.min(most, Math.max(0, value))
      )
    )
  }
  return low
}

export function waveletPlanes(
  packet: Uint8Array,
  planes: readonly WaveletPlane[],
  bits: number
): Uint16Array[] | WaveletFault {
  const result: Uint16Array[] = []
  for (const [channel, plane] of planes.entries()) {
    const lines = planeOf(packet, plane, bits)
    if (typeof lines === 'number') return { channel, band: lines }
    result.push(Uint16Array.from(lines.flat()))
  }
  return result
}

/** Alpha of 12 bits from its coded form, and back to the code that lies nearest. */
const alphaOf = (code: number): number => Math.min(4095, (Math.max(0, code - 256) * 9400) >> 13)
const codeOfAlpha = (alpha: number): number => 256 + ((alpha * 28557 + 2 ** 14) >> 15)

export function waveletRgba(
  packet: Uint8Array,
  planes: readonly WaveletPlane[],
  { width, height }: FrameSize
): Uint16Array | WaveletFault {
  const found = waveletPlanes(packet, planes, 12)
  if (!Array.isArray(found)) return found
  const [green, red, blue, alpha] = found as [Uint16Array, Uint16Array, Uint16Array, Uint16Array?]
  const out = new Uint16Array(4 * width * height)
  const stride = planes[0]!.width
  const wide = (code: number): number => Math.round((code * 65535) / 4095)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * stride + x
      const a = alpha ? wide(alphaOf(alpha[at]!)) : 65535
      out.set([wide(red[at]!), wide(green[at]!), wide(blue[at]!), a], 4 * (y * width + x))
    }
  return out
}

/** A band's codes, runs of zeros by the longest that fit; filled to four bytes. */
function codesOf(values: readonly number[]): Uint8Array {
  let bits = ''
  let zeros = 0
  const putZeros = (): void => {
    for (const run of ZERO_RUNS) for (; zeros >= run.zeros; zeros -= run.zeros) bits += bitsOf(run)
  }
  for (const value of values) {
    if (!value) {
      zeros++
      continue
    }
    putZeros()
    const size = LEVEL_CODES.findIndex(
      (_, i) => i === 254 || companded(i + 2) - Math.abs(value) > Math.abs(value) - companded(i + 1)
    )
    bits += bitsOf(LEVEL_CODES[size]!) + (value < 0 ? '1' : '0')
  }
  putZeros()
  bits += bitsOf(BAND_END)
  bits = bits.padEnd(32 * Math.ceil(bits.length / 32), '0')
  return Uint8Array.from({ length: bits.length / 8 }, (_, i) => parseInt(bits.slice(8 * i, 8 * i + 8), 2))
}

function codedPlane(plane: Lines, quantisers: readonly number[]): WaveletCoded {
  const bands: WaveletCoded['bands'] = []
  let picture = plane
  for (let level = 0; level < 3; level++) {
    const rows = picture.map(parted)
    const partDown = (lines: Lines): { low: Lines; high: Lines } => {
      const columns = turned(lines).map(parted)
      return { low: turned(columns.map(({ low }) => low)), high: turned(columns.map(({ high }) => high)) }
    }
    const [lows, highs] = [partDown(rows.map(({ low }) => low)), partDown(rows.map(({ high }) => high))]
    for (const [i, lines] of [highs.low, lows.high, highs.high].entries()) {
      const index = 3 * (2 - level) + i
      const largest = Math.max(...lines.map(line => Math.max(...line.map(Math.abs))))
      const quantiser = Math.max(quantisers[index]!, Math.ceil(largest / companded(255)))
      const part = Math.min(32767, Math.round(32768 / quantiser))
      const stride = 8 * Math.ceil(lines[0]!.length / 8)
      const values = lines.flatMap(line =>
        Array.from({ length: stride }, (_, x) => {
          const value = line[x] ?? 0
          return Math.sign(value) * Math.min(companded(255), (Math.abs(value) * part + 2 ** 14) >> 15)
        })
      )
      bands[index] = { codes: codesOf(values), quantiser }
    }
    picture = level < 2 ? lows.low.map(line => line.map(value => (value + 2) >> 2)) : lows.low
  }
  const low = new DataView(new ArrayBuffer(2 * picture.length * picture[0]!.length))
  for (const [i, value] of picture.flat().entries()) low.setInt16(2 * i, value)
  return { low: new Uint8Array(low.buffer), bands }
}

/** Without filling of clear edges, which the twin of ProRes has. */
export function waveletEncode(
  samples: Uint16Array,
  { width, height }: FrameSize,
  { colour, alpha }: WaveletHow
): WaveletCoded[] {
  const tall = Math.max(24, 8 * Math.ceil(height / 8))
  const plane = (channel: number): Lines =>
    Array.from({ length: tall }, (_, y) =>
      Array.from({ length: width }, (_, x) => {
        const code = Math.round((samples[4 * (Math.min(y, height - 1) * width + x) + channel]! * 4095) / 65535)
        return channel === 3 ? codeOfAlpha(code) : code
      })
    )
  return (alpha ? [1, 0, 2, 3] : [1, 0, 2]).map(channel => codedPlane(plane(channel), channel === 3 ? alpha! : colour))
}
