/**
 * A frame of a wavelet film ("CFHD"): pairs of 16 bits, what and how much, big-endian, with the bands of each channel
 * among them. What the pairs say was read off frames that a media library coded; SMPTE ST 2073-1 describes their kin.
 *
 * A channel is a low band of plain codes, and nine bands of what was taken from it at three levels, coarsest first:
 * high across, high down, high both ways.
 */
import { unreadable } from '../../../base/errors'
import type { WaveletBand, WaveletPlane } from '../../../frame/kernels/coded'

/** What a pair says. One that a reader may leave out is written as its negative. */
export const TAG = {
  kind: 1,
  sizes: 2,
  marker: 4,
  transform: 10,
  framesIn: 11,
  channels: 12,
  wavelets: 13,
  bands: 14,
  spatial: 15,
  first: 16,
  trailer: 18,
  width: 20,
  height: 21,
  lowBand: 25,
  levels: 26,
  lowWidth: 27,
  lowHeight: 28,
  pixelOffset: 33,
  lowQuantiser: 34,
  lowBits: 35,
  waveletKind: 37,
  waveletNumber: 38,
  waveletLevel: 39,
  bandsAtLevel: 40,
  highWidth: 41,
  highHeight: 42,
  lowBorder: 43,
  highBorder: 44,
  lowScale: 45,
  lowDivisor: 46,
  bandNumber: 48,
  bandWidth: 49,
  bandHeight: 50,
  bandIndex: 51,
  bandCoding: 52,
  quantiser: 53,
  bandScale: 54,
  bandBegins: 55,
  bandEnds: 56,
  channel: 62,
  flags: 68,
  precision: 70,
  bandFlags: 72,
  peakLevel: 74,
  peakLow: 75,
  peakHigh: 76,
  prescale: 83,
  colours: 84,
  shownHeight: 85
} as const

/** What stands between parts, as a marker. */
export const MARKER = { channel: 0x1a4a, low: 0x0f0f, lowEnds: 0x1b4b, level: 0x0d0d, levelEnds: 0x0c0c, band: 0x0e0e }

/** What the channels are, by the number that a sample gives its colours. */
export type WaveletColours = 'ycc' | 'rgb' | 'rgba'
const COLOURS: Readonly<Record<number, WaveletColours>> = { 1: 'ycc', 3: 'rgb', 4: 'rgba' }

export interface WaveletSample {
  /** Size of the coded picture, and how many of its lines are shown. */
  width: number
  height: number
  shownHeight: number
  colours: WaveletColours
  /** Bits of a code. */
  bits: number
  planes: WaveletPlane[]
}

interface SamplePlace {
  file: string
  place: string
}

/** The word that ends a band, on a border of four bytes; before it the code that no coefficient has. */
const BAND_ENDS = (TAG.bandEnds << 16) >>> 0
const END_CODE = 0x3114ba3
const END_BITS = 26

/** Whether the bits before a place of the data are the code that ends a band, with less than a word of zeros behind. */
function endsCodes(view: DataView, at: number): boolean {
  if (at < 8) return false
  const word = (BigInt(view.getUint32(at - 8)) << 32n) | BigInt(view.getUint32(at - 4))
  for (let zeros = 0n; zeros < 32n; zeros++)
    if ((word >> zeros) & 1n) return ((word >> zeros) & ((1n << BigInt(END_BITS)) - 1n)) === BigInt(END_CODE)
  return false
}

/** Where the codes of a band end that begin at a place. */
function codesEnd(view: DataView, from: number): number {
  for (let at = from; at + 4 <= view.byteLength; at += 4)
    if (view.getUint32(at) === BAND_ENDS && endsCodes(view, at)) return at
  return -1
}

/** A channel as its pairs are read. */
interface Reading {
  low: { at: number; width: number; height: number } | null
  bands: WaveletBand[]
}

/** Whether the bands of a plane halve its size three times. */
function fits({ low, bands }: Reading, width: number, height: number): boolean {
  if (!low || bands.length !== 9 || low.width * 8 !== width || low.height * 8 !== height) return false
  return bands.every(({ width: w, height: h }, i) => {
    const across = 8 >> Math.floor(i / 3)
    return w * across === width && h * across === height
  })
}

/**
 * What a frame holds and where. Nothing of the bands is decoded. Throws an error that names file and place where it is
 * damaged, or coded in a way that is not read.
 */
export function readSample(data: Uint8Array, { file, place }: SamplePlace): WaveletSample {
  const fail = (matter: string): Error => unreadable(file, place, matter)
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  const said = new Map<number, number>()
  const of = (tag: number, usual = 0): number => said.get(tag) ?? usual
  const readings: Reading[] = []
  let current: Reading = { low: null, bands: [] }
  let at = 0
  const takeLow = (): void => {
    if (of(TAG.lowBits, 16) !== 16) throw fail(`its low band is of ${of(TAG.lowBits)} bits, which is not read`)
    const low = { at, width: of(TAG.lowWidth), height: of(TAG.lowHeight) }
    current.low = low
    at += 2 * low.width * low.height
    if (at + 4 > data.length) throw fail('its data ends within a low band')
    // an odd one is filled to four bytes, by most who write it
    if (view.getUint32(at) !== ((TAG.marker << 16) | MARKER.lowEnds) && at % 4) at += 2
  }
  const takeBand = (): void => {
    const end = codesEnd(view, at)
    if (end < 0) throw fail(`band ${current.bands.length + 1} of channel ${readings.length + 1} has no end`)
    if (of(TAG.bandCoding, 3) !== 3) throw fail(`a band is coded in way ${of(TAG.bandCoding)}, which is not read`)
    const flags = of(TAG.bandFlags)
    if ((flags & 15) === 0) throw fail('its bands are coded by an older table, which is not read')
    // no writer at hand says any of them, and what they change was not to be learnt
    if (of(TAG.peakLevel) || of(TAG.peakLow) || of(TAG.peakHigh))
      throw fail('it says something of peaks, which is not read')
    const [width, height] = [of(TAG.bandWidth), of(TAG.bandHeight)]
    current.bands.push({
      at,
      bytes: end - at,
      width,
      height,
      quantiser: of(TAG.quantiser),
      companded: (flags & 15) === 1,
      summed: (flags & 16) !== 0
    })
    at = end
  }
  while (at + 4 <= data.length) {
    const [signed, value] = [view.getInt16(at), view.getUint16(at + 2)]
    const tag = Math.abs(signed)
    at += 4
    said.set(tag, value)
    if (tag === TAG.sizes) at += 4 * value
    else if (tag === TAG.marker && value === MARKER.low) takeLow()
    else if (tag === TAG.bandBegins) takeBand()
    if (current.bands.length === 9) {
      readings.push(current)
      current = { low: null, bands: [] }
    }
    if (tag === TAG.trailer && readings.length) break
  }
  const colours = COLOURS[of(TAG.colours, 1)]
  if (!colours) throw fail(`its colours are of kind ${of(TAG.colours)}, which is not read`)
  if (of(TAG.transform) !== 0 || of(TAG.framesIn, 1) > 1) throw fail('two frames are coded together, which is not read')
  if (said.has(TAG.flags) && (of(TAG.flags) & 1) === 0) throw fail('its fields are coded apart, which is not read')
  const [width, height] = [of(TAG.width), of(TAG.height)]
  const channels = colours === 'rgba' ? 4 : 3
  if (readings.length !== channels) throw fail(`it has ${readings.length} of ${channels} channels; it was cut short`)
  const bits = of(TAG.precision, 10)
  if (bits !== 10 && bits !== 12) throw fail(`its codes have ${bits} bits, which is not read`)
  const prescale = of(TAG.prescale, bits === 12 ? 0x2800 : 0x2000)
  const planes = readings.map((reading, i): WaveletPlane => {
    const across = colours === 'ycc' && i > 0 ? width / 2 : width
    if (!fits(reading, across, height))
      throw fail(`channel ${i + 1} has bands that do not fit a picture of ${width}x${height}`)
    return { width: across, height, low: reading.low!.at, bands: reading.bands, prescale }
  })
  const narrowest = Math.min(...planes.map(plane => plane.width))
  if (narrowest < 24 || height < 24) throw fail(`a picture of ${width}x${height} is too small to be halved three times`)
  const shownHeight = Math.min(height, of(TAG.shownHeight, height))
  if (!shownHeight) throw fail('it has no picture')
  return { width, height, shownHeight, colours, bits, planes }
}
