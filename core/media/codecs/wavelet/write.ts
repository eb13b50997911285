/** A frame of a wavelet film from its coded channels: the pairs that say what they are, and the bands among them. */
import type { WaveletCoded } from '../../../frame/kernels/coded'
import { waveletLines } from '../../../frame/kernels/wasm-wavelet'
import { MARKER, TAG } from './sample'

interface Shape {
  width: number
  height: number
}

/** Low bands are made smaller by two bits before the second level and the third. */
const PRESCALE = 0x2800

/** What writes pairs and bytes into room that is made beforehand. */
class Pairs {
  at = 0
  private readonly view: DataView

  constructor(readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  pair(tag: number, value: number): void {
    this.view.setInt16(this.at, tag)
    this.view.setUint16(this.at + 2, value)
    this.at += 4
  }

  put(bytes: Uint8Array): void {
    this.bytes.set(bytes, this.at)
    this.at += bytes.length
  }

  number(at: number, value: number): void {
    this.view.setUint32(at, value)
  }
}

/** Room that the pairs of a channel take, and those before the first. */
const PAIRS_OF_CHANNEL = 4 * (14 + 3 * (12 + 3 * 13))
const PAIRS_BEFORE = 4 * 40

function putBand(
  out: Pairs,
  { codes, quantiser }: WaveletCoded['bands'][number],
  about: { width: number; height: number; index: number }
): void {
  out.pair(TAG.marker, MARKER.band)
  out.pair(TAG.bandNumber, ((about.index - 1) % 3) + 1)
  out.pair(TAG.bandFlags, 1)
  out.pair(TAG.bandWidth, about.width)
  out.pair(TAG.bandHeight, about.height)
  out.pair(TAG.bandIndex, about.index)
  out.pair(TAG.bandCoding, 3)
  out.pair(TAG.quantiser, quantiser)
  out.pair(TAG.bandScale, 1)
  out.pair(TAG.bandBegins, 0)
  out.put(codes)
  out.pair(TAG.bandEnds, 0)
}

function putLevel(out: Pairs, level: number, { bands }: WaveletCoded, { width, height }: Shape): void {
  const [w, h] = [width >> level, height >> level]
  out.pair(TAG.marker, MARKER.level)
  out.pair(TAG.waveletKind, level === 1 ? 5 : 3)
  out.pair(TAG.waveletNumber, level)
  out.pair(TAG.waveletLevel, level)
  out.pair(TAG.bandsAtLevel, 4)
  out.pair(TAG.highWidth, w)
  out.pair(TAG.highHeight, h)
  out.pair(TAG.lowBorder, 0)
  out.pair(TAG.highBorder, 0)
  out.pair(TAG.lowScale, 1)
  out.pair(TAG.lowDivisor, 1)
  const before = 3 * (3 - level)
  for (const i of [0, 1, 2]) putBand(out, bands[before + i]!, { width: w, height: h, index: before + i + 1 })
  out.pair(TAG.marker, MARKER.levelEnds)
}

function putChannel(out: Pairs, number: number, coded: WaveletCoded, shape: Shape): void {
  if (number) {
    out.pair(TAG.kind, 3)
    out.pair(TAG.channel, number)
  }
  out.pair(TAG.marker, MARKER.channel)
  out.pair(TAG.lowBand, 0)
  out.pair(TAG.levels, 3)
  out.pair(TAG.lowWidth, shape.width >> 3)
  out.pair(TAG.lowHeight, shape.height >> 3)
  out.pair(TAG.pixelOffset, 0)
  out.pair(TAG.lowQuantiser, 1)
  out.pair(TAG.lowBits, 16)
  out.pair(TAG.marker, MARKER.low)
  out.put(coded.low)
  // an odd number of them is filled to four bytes
  out.at += -out.at & 3
  out.pair(TAG.marker, MARKER.lowEnds)
  for (const level of [3, 2, 1]) putLevel(out, level, coded, shape)
}

/**
 * The bytes of a frame of 12 bits: green, red, blue and, where there are four, alpha. `width` is a multiple of 8;
 * `height` is how many lines are shown of those coded.
 */
export function writeSample(channels: readonly WaveletCoded[], given: Shape): Uint8Array {
  const shape = { ...given, height: waveletLines(given.height) }
  const room = channels.reduce(
    (sum, { low, bands }) =>
      sum + PAIRS_OF_CHANNEL + low.length + bands.reduce((all, { codes }) => all + codes.length, 0),
    PAIRS_BEFORE
  )
  const out = new Pairs(new Uint8Array(room))
  out.pair(TAG.kind, 9)
  out.pair(TAG.sizes, channels.length)
  const sizes = out.at
  out.at += 4 * channels.length
  out.pair(TAG.transform, 0)
  out.pair(TAG.framesIn, 1)
  out.pair(TAG.channels, channels.length)
  out.pair(TAG.colours, channels.length === 4 ? 4 : 3)
  out.pair(TAG.wavelets, 3)
  out.pair(TAG.bands, 10)
  out.pair(TAG.spatial, 2)
  out.pair(TAG.first, 3)
  out.pair(TAG.width, shape.width)
  out.pair(TAG.height, shape.height)
  if (shape.height !== given.height) out.pair(-TAG.shownHeight, given.height)
  out.pair(TAG.precision, 12)
  out.pair(TAG.prescale, PRESCALE)
  out.pair(TAG.flags, 1)
  for (const [number, coded] of channels.entries()) {
    const before = out.at
    putChannel(out, number, coded, shape)
    out.number(sizes + 4 * number, out.at - before)
  }
  out.pair(TAG.trailer, 0)
  return out.bytes.subarray(0, out.at)
}
