/**
 * The head of a JPEG XL codestream (ISO/IEC 18181-1, A and D): size, depth, and whether one of its extra channels is
 * alpha.
 */
import { unreadable } from '../../../base/errors'
import { orientationOf, type Orientation } from '../../../frame/orient'

export interface JxlInfo {
  width: number
  height: number
  bits: number
  float: boolean
  alpha: 'none' | 'straight' | 'premultiplied'
  animated: boolean
  orientation: Orientation
  /** Primaries and curve by H.273's numbers; null for sRGB; what is said otherwise by words or by a profile. */
  colour: readonly [primaries: number, curve: number] | 'other' | null
}

const CODESTREAM = [0xff, 0x0a]
const CONTAINER = [0, 0, 0, 12, 0x4a, 0x58, 0x4c, 0x20, 0x0d, 0x0a, 0x87, 0x0a]
const begins = (bytes: Uint8Array, with_: readonly number[]): boolean => with_.every((byte, i) => bytes[i] === byte)

/** Whether a file of these first bytes is JPEG XL, bare or in its container. */
export const looksLikeJxl = (head: Uint8Array): boolean => begins(head, CODESTREAM) || begins(head, CONTAINER)

/** Where the codestream begins within a container's boxes; 0 where there is no container. */
function codestreamAt(bytes: Uint8Array, file: string): number {
  if (begins(bytes, CODESTREAM)) return 0
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 0; at + 16 <= bytes.length;) {
    const size = view.getUint32(at)
    const kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8))
    const head = size === 1 ? 16 : 8
    if (kind === 'jxlc') return at + head
    // the first part of a codestream in parts, behind its number
    if (kind === 'jxlp') return at + head + 4
    if (size === 0) break
    at += size === 1 ? Number(view.getBigUint64(at + 8)) : Math.max(8, size)
  }
  throw unreadable(file, 'the header', 'no picture is in its boxes; it was cut short, or they lie in another order')
}

/** Bits from the lowest of each byte on. */
class Bits {
  private at = 0

  constructor(
    private readonly bytes: Uint8Array,
    private readonly file: string
  ) {}

  u(count: number): number {
    let value = 0
    for (let n = 0; n < count; n++, this.at++) {
      const byte = this.bytes[this.at >> 3]
      if (byte === undefined) throw unreadable(this.file, 'the header', 'the file ends within it; it was cut short')
      value += ((byte >> (this.at & 7)) & 1) * 2 ** n
    }
    return value
  }

  bool(): boolean {
    return this.u(1) === 1
  }

  /** One of four: a value as it is, or so many bits and what is added to them. */
  one(...kinds: readonly [plus: number, bits: number][]): number {
    const [plus, bits] = kinds[this.u(2)]!
    return plus + this.u(bits)
  }
}

const RATIOS = [
  [1, 1],
  [12, 10],
  [4, 3],
  [3, 2],
  [16, 9],
  [5, 4],
  [2, 1]
] as const

function sizeOf(bits: Bits): { width: number; height: number } {
  const small = bits.bool()
  const side = (): number => (small ? 8 * (bits.u(5) + 1) : bits.one([1, 9], [1, 13], [1, 18], [1, 30]))
  const height = side()
  const ratio = bits.u(3)
  const [w, h] = RATIOS[ratio - 1] ?? [0, 1]
  return { height, width: ratio === 0 ? side() : Math.floor((height * w) / h) }
}

/** Kinds of extra channels that matter here (ISO/IEC 18181-1, D.3.6). */
const [ALPHA, SPOT, PATTERN] = [0, 2, 5]

function depthOf(bits: Bits): { bits: number; float: boolean } {
  const float = bits.bool()
  if (!float) return { float, bits: bits.one([8, 0], [10, 0], [12, 0], [1, 6]) }
  const depth = bits.one([32, 0], [16, 0], [24, 0], [1, 6])
  bits.u(4)
  return { float, bits: depth }
}

/** The colour encoding (ISO/IEC 18181-1, E.2): its numbers are those of H.273, but for a few of its own. */
function colourOf(bits: Bits): JxlInfo['colour'] {
  if (bits.bool()) return null
  const number = (): number => bits.one([0, 0], [1, 0], [2, 4], [18, 6])
  const place = (): void => {
    for (let n = 0; n < 2; n++) bits.one([0, 19], [524288, 19], [1048576, 20], [2097152, 21])
  }
  const [D65, CUSTOM, RGB, GREY] = [1, 2, 0, 1]
  if (bits.bool()) return 'other'
  const space = number()
  if (space !== RGB && space !== GREY) return 'other'
  const white = number()
  if (white === CUSTOM) place()
  const primaries = space === RGB ? number() : 1
  if (primaries === CUSTOM) for (let n = 0; n < 3; n++) place()
  if (bits.bool()) {
    // a gamma, in parts of ten million
    const power = 1e7 / bits.u(24)
    const near = ([2.2, 2.8] as const).findIndex(each => Math.abs(power - each) < 0.005)
    return white === D65 && primaries === 1 && near >= 0 ? [1, 4 + near] : 'other'
  }
  const curve = number()
  const named = [1, 8, 13, 16, 17, 18].includes(curve) && [1, 9, 11].includes(primaries) && white === D65
  if (!named) return 'other'
  // its P3 has the white of D65, which H.273 numbers 12
  return primaries === 1 && curve === 13 ? null : [primaries === 11 ? 12 : primaries, curve]
}

/** Reads the head from a file's first bytes. Throws an error that names the file where it is damaged. */
export function readJxlInfo(bytes: Uint8Array, file: string): JxlInfo {
  if (!looksLikeJxl(bytes)) throw unreadable(file, 'the header', 'this is not a JPEG XL file')
  const bits = new Bits(bytes.subarray(codestreamAt(bytes, file) + 2), file)
  const info: JxlInfo = {
    ...sizeOf(bits),
    bits: 8,
    float: false,
    alpha: 'none',
    animated: false,
    orientation: 1,
    colour: null
  }
  if (bits.bool()) return info
  if (bits.bool()) {
    info.orientation = orientationOf(bits.u(3) + 1)
    if (bits.bool()) sizeOf(bits)
    // a preview has a size of its own kind, which no file at hand has
    if (bits.bool()) throw unreadable(file, 'the header', 'it holds a preview, which is not read')
    info.animated = bits.bool()
    if (info.animated) {
      bits.one([100, 0], [1000, 0], [1, 10], [1, 30])
      bits.one([1, 0], [1001, 0], [1, 8], [1, 10])
      bits.one([0, 0], [0, 3], [0, 16], [0, 32])
      bits.bool()
    }
  }
  Object.assign(info, depthOf(bits))
  bits.bool()
  const extra = bits.one([0, 0], [1, 0], [2, 4], [1, 12])
  for (let n = 0; n < extra; n++) {
    if (bits.bool()) {
      if (info.alpha === 'none') info.alpha = 'straight'
      continue
    }
    const kind = bits.one([0, 0], [1, 0], [2, 4], [18, 6])
    depthOf(bits)
    bits.one([0, 0], [3, 0], [4, 0], [1, 3])
    const name = bits.one([0, 0], [0, 4], [16, 5], [48, 10])
    for (let i = 0; i < name; i++) bits.u(8)
    if (kind === ALPHA) {
      const associated = bits.bool()
      // of several it is the first that counts
      if (info.alpha === 'none') info.alpha = associated ? 'premultiplied' : 'straight'
    }
    // other channels may lie beside it: a spot colour has four halves more, a filter's pattern its place
    if (kind === SPOT) bits.u(64)
    if (kind === PATTERN) bits.one([1, 0], [0, 2], [3, 4], [19, 8])
  }
  bits.bool()
  return { ...info, colour: colourOf(bits) }
}
