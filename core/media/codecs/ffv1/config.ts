/**
 * FFV1's configuration record (RFC 9043, 4.2 and 4.3): range coded whole numbers, and a checksum that makes the CRC of
 * the whole zero.
 *
 * version, micro version, coder, [what states become, 255 differences], colour space, bits, chroma planes, two
 * subsamplings, extra plane, slices across - 1, slices down - 1, sets of tables, the tables in runs, for each set
 * whether first states follow, error check, intra
 */
import { concatenate } from '../../../base/files/bytes'
import { unreadable } from '../../../base/errors'
import {
  DEFAULT_TRANSITIONS,
  defaultTransitions,
  RangeDecoder,
  RangeEncoder,
  SYMBOL,
  transitionsOf
} from '../../../frame/kernels/range-coder'

export interface TableSet {
  /** Five tables of 256. */
  tables: Int16Array
  contexts: number
  /** Where the stream brings them: the states that symbols begin with, `SYMBOL` a context. */
  first: Uint8Array | null
}

export interface Ffv1Config {
  version: number
  /** Symbols in Golomb-Rice codes rather than range coded. */
  golomb: boolean
  transitions: Uint8Array
  rgb: boolean
  bits: number
  chroma: boolean
  /** Chroma has a sample for each 2^n pixels, across and down. */
  across: number
  down: number
  alpha: boolean
  slicesAcross: number
  slicesDown: number
  sets: TableSet[]
  /** Whether slices end in a checksum. */
  checked: boolean
  micro: number
}

const MOST_CONTEXTS = 32768

/** CRC-32 of the polynomial 0x04C11DB7, highest bit first, from zero (RFC 9043, 4.9.3). */
export function crcOf(bytes: Uint8Array): number {
  let crc = 0
  for (const byte of bytes) crc = ((crc << 8) ^ CRC[((crc >>> 24) ^ byte) & 255]!) >>> 0
  return crc
}

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let value = n << 24
  for (let i = 0; i < 8; i++) value = value & 0x80000000 ? (value << 1) ^ 0x04c11db7 : value << 1
  return value >>> 0
})

function tableFrom(coder: RangeDecoder, tables: Int16Array, at: number, scale: number): number | null {
  const states = new Uint8Array(SYMBOL).fill(128)
  let value = 0
  for (let i = 0; i < 128; value++) {
    const length = coder.symbol(states, 0, false) + 1
    if (!(length <= 128 - i)) return null
    for (let n = 0; n < length; n++) tables[at + i++] = scale * value
  }
  for (let i = 1; i < 128; i++) tables[at + 256 - i] = -tables[at + i]!
  tables[at + 128] = -tables[at + 127]!
  return 2 * value - 1
}

function setFrom(coder: RangeDecoder): TableSet | null {
  const tables = new Int16Array(5 * 256)
  let count = 1
  for (let t = 0; t < 5; t++) {
    const values = tableFrom(coder, tables, 256 * t, count)
    if (values === null) return null
    count *= values
    if (count > MOST_CONTEXTS) return null
  }
  return { tables, contexts: (count + 1) >> 1, first: null }
}

/** The states that contexts begin with, each told by its distance from the one of the context before. */
function firstStates(coder: RangeDecoder, contexts: number): Uint8Array {
  const states = new Uint8Array(contexts * SYMBOL)
  const coding = Array.from({ length: SYMBOL }, () => new Uint8Array(SYMBOL).fill(128))
  for (let c = 0; c < contexts; c++)
    for (let s = 0; s < SYMBOL; s++) {
      const before = c ? states[(c - 1) * SYMBOL + s]! : 128
      states[c * SYMBOL + s] = (before + coder.symbol(coding[s]!, 0, true)) & 255
    }
  return states
}

/** The numbers and marks of a head, one after another, which share the states they are coded with. */
class HeadReader {
  private readonly states = new Uint8Array(SYMBOL).fill(128)

  constructor(
    private readonly coder: RangeDecoder,
    private readonly fail: (matter: string) => Error
  ) {}

  whole(): number {
    return this.coder.symbol(this.states, 0, false)
  }

  yes(): boolean {
    return this.coder.bit(this.states, 0) === 1
  }

  /** What follows the version: coder, colours and planes, alike in every version (RFC 9043, 4.2). */
  colours(version: number) {
    const kind = this.whole()
    const after = defaultTransitions()
    if (kind === 2) for (let i = 1; i < 256; i++) after[i] = (after[i]! + this.coder.symbol(this.states, 0, true)) & 255
    const space = this.whole()
    const bits = (version > 0 ? this.whole() : 8) || 8
    const chroma = this.yes()
    const [across, down] = [this.whole(), this.whole()]
    const alpha = this.yes()
    if (kind > 2 || space > 1 || !(bits >= 8 && bits <= 16) || across > 4 || down > 4)
      throw this.fail('it asks for what FFV1 does not have')
    return {
      golomb: kind === 0,
      transitions: transitionsOf(after),
      rgb: space === 1,
      bits,
      chroma,
      across,
      down,
      alpha
    }
  }
}

/** Reads the record of a stream of version 3. Rejects what is damaged, and what Pour does not decode. */
export function readConfig(record: Uint8Array, file: string): Ffv1Config {
  const fail = (matter: string): Error => unreadable(file, "the codec's configuration", matter)
  if (record.length < 8) throw fail('it is missing or damaged')
  if (crcOf(record) !== 0) throw fail('its checksum does not fit; it is damaged')
  const coder = new RangeDecoder(record.subarray(0, record.length - 4), 0, DEFAULT_TRANSITIONS)
  const part = new HeadReader(coder, fail)
  const version = part.whole()
  if (version !== 3) throw fail(`its version is ${version}; versions 0, 1 and 3 are read`)
  const micro = part.whole()
  const colours = part.colours(3)
  const [slicesAcross, slicesDown] = [part.whole() + 1, part.whole() + 1]
  const count = part.whole()
  if (!(count >= 1 && count <= 8)) throw fail('it asks for what FFV1 does not have')
  if (!(slicesAcross * slicesDown <= 1024)) throw fail('it has more slices than any picture')
  const sets: TableSet[] = []
  for (let i = 0; i < count; i++) {
    const set = setFrom(coder)
    if (!set) throw fail('its tables are damaged')
    sets.push(set)
  }
  for (const set of sets) if (part.yes()) set.first = firstStates(coder, set.contexts)
  const checked = part.whole() === 1
  part.whole()
  if (coder.at > record.length + 2) throw fail('it ends early')
  return { version, micro, ...colours, slicesAcross, slicesDown, sets, checked }
}

/**
 * Reads what a key frame of version 0 or 1 says of itself, where `coder` has just read that it is one. The picture's
 * codes follow, in one slice without a head.
 */
export function readFrameConfig(coder: RangeDecoder, fail: (matter: string) => Error): Ffv1Config {
  const head = new HeadReader(coder, fail)
  const version = head.whole()
  if (!(version <= 1)) throw fail('what it says of its codec is damaged, or of a version that is not read')
  const colours = head.colours(version)
  const set = setFrom(coder)
  if (!set) throw fail('its tables are damaged')
  return { version, micro: 0, ...colours, slicesAcross: 1, slicesDown: 1, sets: [set], checked: false }
}

/**
 * Where a level of difference ends: 0, 1, up to 4, 11, 31 and beyond. What lies within one is coded with one
 * expectation.
 */
const LEVELS = [1, 2, 5, 12, 32, 128]

/** The tables that Pour writes: left, corner and above in eleven levels each, none further away. */
export function writtenSet(): TableSet {
  const tables = new Int16Array(5 * 256)
  const levels = 2 * LEVELS.length - 1
  for (let t = 0, scale = 1; t < 3; t++, scale *= levels)
    for (let d = 0; d < 128; d++) {
      const level = scale * LEVELS.findIndex(end => d < end)
      tables[256 * t + d] = level
      if (d > 0) tables[256 * t + 256 - d] = -level
      if (d === 127) tables[256 * t + 128] = -level
    }
  return { tables, contexts: (levels ** 3 + 1) / 2, first: null }
}

/** The record of what Pour writes: version 3, range coded, RGB or RGBA, every frame by itself, slices checked. */
export function writeConfig({
  bits,
  alpha,
  slicesDown
}: {
  bits: number
  alpha: boolean
  slicesDown: number
}): Uint8Array {
  const coder = new RangeEncoder(DEFAULT_TRANSITIONS)
  const states = new Uint8Array(SYMBOL).fill(128)
  const whole = (value: number): void => coder.symbol(states, 0, value, false)
  const yes = (is: boolean): void => coder.bit(states, 0, is ? 1 : 0)
  for (const value of [3, 4, 1, 1, bits]) whole(value)
  yes(true)
  whole(0)
  whole(0)
  yes(alpha)
  whole(0)
  whole(slicesDown - 1)
  whole(1)
  for (let t = 0; t < 5; t++) {
    const own = new Uint8Array(SYMBOL).fill(128)
    if (t < 3) LEVELS.forEach((end, i) => coder.symbol(own, 0, end - (LEVELS[i - 1] ?? 0) - 1, false))
    else coder.symbol(own, 0, 127, false)
  }
  yes(false)
  whole(1)
  whole(1)
  return checkedBytes(coder.end())
}

/** Bytes with the checksum behind them that makes that of the whole zero. */
export function checkedBytes(bytes: Uint8Array): Uint8Array {
  const sum = new Uint8Array(4)
  new DataView(sum.buffer).setUint32(0, crcOf(bytes))
  return concatenate([bytes, sum])
}
