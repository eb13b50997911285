/**
 * DWAA and DWAB of OpenEXR: colour in blocks of eight by eight through a cosine transform, alpha in runs, the rest by
 * zlib. Lossy in colour, exact in alpha.
 *
 * eleven u64 of sizes; from version 2 on u16 bytes of rules with the rules; then what is packed by zlib alone, the AC
 * values, the DC values, and the runs
 */
import type { Inflate } from './chunk'
import type { ChunkShape } from './chunk'
import { fromHalf, toHalf } from './half'
import { huffmanUnpack } from './huffman'
import { unpackRuns, unpredict } from './pack'

type Scheme = 'unknown' | 'cosine' | 'runs'
const SCHEMES: readonly Scheme[] = ['unknown', 'cosine', 'runs']

/** How channels are packed, by the last part of their names and their type. */
interface Rule {
  suffix: string
  scheme: Scheme
  /** Which of the three of a colour it is, or -1. */
  colour: number
  type: number
  anyCase: boolean
}

/** What version 0 and 1 take for granted. */
const OLD_RULES: readonly Rule[] = (
  [
    ['r', 'cosine', 0],
    ['red', 'cosine', 0],
    ['g', 'cosine', 1],
    ['grn', 'cosine', 1],
    ['green', 'cosine', 1],
    ['b', 'cosine', 2],
    ['blu', 'cosine', 2],
    ['blue', 'cosine', 2],
    ['y', 'cosine', -1],
    ['by', 'cosine', -1],
    ['ry', 'cosine', -1],
    ['a', 'runs', -1]
  ] as const
).flatMap(([suffix, scheme, colour]) =>
  (scheme === 'runs' ? [0, 1, 2] : [1, 2]).map(type => ({ suffix, scheme, colour, type, anyCase: true }))
)

function rulesOf(view: DataView, at: number, end: number): Rule[] | null {
  const rules: Rule[] = []
  while (at < end) {
    let suffix = ''
    for (; at < end && view.getUint8(at) !== 0; at++) suffix += String.fromCharCode(view.getUint8(at))
    if (at + 3 > end) return null
    const value = view.getUint8(at + 1)
    const scheme = SCHEMES[(value >> 2) & 3]
    if (!scheme) return null
    rules.push({ suffix, scheme, colour: (value >> 4) - 1, type: view.getUint8(at + 2), anyCase: (value & 1) === 1 })
    at += 3
  }
  return rules
}

interface Placed {
  prefix: string
  type: number
  linear: boolean
  scheme: Scheme
  colour: number
  /** Where its line begins within a line of the chunk, in bytes. */
  left: number
}

function placed({ channels, width }: ChunkShape, rules: readonly Rule[]): Placed[] {
  let left = 0
  return channels.map(({ name, type, linear }) => {
    const dot = name.lastIndexOf('.')
    const suffix = name.slice(dot + 1)
    const rule = rules.find(
      rule =>
        rule.type === type &&
        (rule.anyCase ? rule.suffix.toLowerCase() === suffix.toLowerCase() : rule.suffix === suffix)
    )
    const at = left
    left += width * (type === 1 ? 2 : 4)
    return {
      prefix: name.slice(0, Math.max(0, dot)),
      type,
      linear,
      scheme: rule?.scheme ?? 'unknown',
      colour: rule?.scheme === 'cosine' ? rule.colour : -1,
      left: at
    }
  })
}

/** The order in which coefficients are stored: diagonals to and fro. */
const ZIGZAG: readonly number[] = (() => {
  const order: number[] = []
  for (let sum = 0; sum < 15; sum++) {
    const along = Array.from({ length: 8 }, (_, n) => n).filter(n => sum - n >= 0 && sum - n < 8)
    for (const n of along) order.push(sum & 1 ? 8 * n + (sum - n) : 8 * (sum - n) + n)
  }
  return order
})()

/** Eight values of each of eight waves. */
const WAVES = Float64Array.from({ length: 64 }, (_, n) => {
  const [x, u] = [n >> 3, n & 7]
  return (u === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * x + 1) * u * Math.PI) / 16)
})

const rows = new Float64Array(64)
function inverse(block: Float64Array): void {
  for (let v = 0; v < 8; v++)
    for (let x = 0; x < 8; x++) {
      let sum = 0
      for (let u = 0; u < 8; u++) sum += WAVES[8 * x + u]! * block[8 * v + u]!
      rows[8 * v + x] = sum
    }
  for (let x = 0; x < 8; x++)
    for (let y = 0; y < 8; y++) {
      let sum = 0
      for (let v = 0; v < 8; v++) sum += WAVES[8 * y + v]! * rows[8 * v + x]!
      block[8 * y + x] = sum
    }
}

/** e to the 2.2: how values above one were pressed together. */
const BASE = Math.exp(2.2)
let lights: Uint16Array | null = null
/** Halves as they were coded made into light again. */
function lightTable(): Uint16Array {
  if (lights) return lights
  lights = new Uint16Array(65536)
  for (let h = 0; h < 65536; h++) {
    const x = fromHalf(h)
    if (!Number.isFinite(x)) continue
    const size = Math.abs(x)
    lights[h] = toHalf(Math.sign(x) * (size <= 1 ? size ** 2.2 : BASE ** (size - 1)))
  }
  return lights
}

interface Stream {
  ac: Uint16Array
  dc: Uint16Array
  acAt: number
  dcAt: number
}

/** Decodes one channel, or three that are one colour, into the chunk's lines. False when values are missing. */
function cosine(
  stream: Stream,
  set: readonly Placed[],
  { width, lines }: ChunkShape,
  out: { view: DataView; lineBytes: number }
): boolean {
  const [across, down] = [Math.ceil(width / 8), Math.ceil(lines / 8)]
  if (stream.dcAt + across * down * set.length > stream.dc.length) return false
  const blocks = set.map(() => new Float64Array(64))
  for (let by = 0; by < down; by++) {
    for (let bx = 0; bx < across; bx++) {
      for (const [n, block] of blocks.entries()) {
        block.fill(0)
        block[0] = fromHalf(stream.dc[stream.dcAt + n * across * down + by * across + bx]!)
        let flat = true
        for (let at = 1; at < 64;) {
          if (stream.acAt >= stream.ac.length) return false
          const value = stream.ac[stream.acAt++]!
          if ((value & 0xff00) === 0xff00) {
            const run = value & 255
            if (run === 0) break
            at += run
          } else {
            block[ZIGZAG[at++]!] = fromHalf(value)
            flat = false
          }
        }
        if (flat) block.fill(block[0] / 8)
        else inverse(block)
      }
      if (blocks.length === 3) {
        const [ys, bs, rs] = blocks as [Float64Array, Float64Array, Float64Array]
        for (let i = 0; i < 64; i++) {
          const [y, cb, cr] = [ys[i]!, bs[i]!, rs[i]!]
          ys[i] = y + 1.5747 * cr
          bs[i] = y - 0.1873 * cb - 0.4682 * cr
          rs[i] = y + 1.8556 * cb
        }
      }
      for (const [n, { type, linear, left }] of set.entries()) {
        const block = blocks[n]!
        for (let v = 0; v < 8 && 8 * by + v < lines; v++) {
          for (let u = 0; u < 8 && 8 * bx + u < width; u++) {
            const coded = toHalf(block[8 * v + u]!)
            const half = linear ? coded : lightTable()[coded]!
            const at = (8 * by + v) * out.lineBytes + left + (8 * bx + u) * (type === 1 ? 2 : 4)
            if (type === 1) out.view.setUint16(at, half, true)
            else out.view.setFloat32(at, fromHalf(half), true)
          }
        }
      }
    }
  }
  stream.dcAt += across * down * set.length
  return true
}

const words = (bytes: Uint8Array): Uint16Array => new Uint16Array(bytes.slice(0, bytes.length & ~1).buffer)

/** The file's lines, or null when the data is damaged. Memory follows from the shape. */
export async function unpackDwa(packed: Uint8Array, shape: ChunkShape, inflate: Inflate): Promise<Uint8Array | null> {
  const { channels, width, lines } = shape
  const pixels = width * lines
  const lineBytes = width * channels.reduce((sum, { type }) => sum + (type === 1 ? 2 : 4), 0)
  if (packed.length < 88) return null
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength)
  const [version, rawPlain, packedPlain, packedAc, packedDc, packedRuns, sortedRuns, rawRuns, acs, dcs, how] =
    Array.from({ length: 11 }, (_, n) => Number(view.getBigUint64(8 * n, true))) as [
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number
    ]
  if (version > 2) return null
  let at = 88
  let rules: readonly Rule[] | null = OLD_RULES
  if (version === 2) {
    if (packed.length < 90) return null
    const size = view.getUint16(88, true)
    if (size < 2 || 88 + size > packed.length) return null
    rules = rulesOf(view, 90, 88 + size)
    at += size
  }
  if (!rules || at + packedPlain + packedAc + packedDc + packedRuns > packed.length) return null
  const all = placed(shape, rules)
  // no count may ask for more than the chunk can mean
  const most = lineBytes * lines
  const blocks = Math.ceil(width / 8) * Math.ceil(lines / 8) * channels.length
  if (rawPlain > most || rawRuns > most || sortedRuns > 2 * most + 1024 || acs > 64 * blocks || dcs > blocks)
    return null
  const part = (size: number): Uint8Array => packed.subarray(at, (at += size))
  const plainPart = part(packedPlain)
  const acPart = part(packedAc)
  const dcPart = part(packedDc)
  const runsPart = part(packedRuns)
  const plain = rawPlain ? await inflate(plainPart, rawPlain) : new Uint8Array(0)
  const ac = !acs
    ? new Uint16Array(0)
    : how === 0
      ? huffmanUnpack(acPart, acs)
      : await inflate(acPart, 2 * acs).then(bytes => bytes && words(bytes))
  const dc = dcs ? await inflate(dcPart, 2 * dcs).then(bytes => bytes && words(unpredict(bytes))) : new Uint16Array(0)
  const sorted = rawRuns ? await inflate(runsPart, sortedRuns) : new Uint8Array(0)
  const runs = rawRuns ? sorted && unpackRuns(sorted, rawRuns) : new Uint8Array(0)
  if (!plain || !ac || !dc || !runs) return null

  const raw = new Uint8Array(most)
  const out = { view: new DataView(raw.buffer), lineBytes }
  const stream: Stream = { ac, dc, acAt: 0, dcAt: 0 }
  const lossy = all.filter(({ scheme }) => scheme === 'cosine')
  // three of one prefix and type are one colour; they come first
  const sets: Placed[][] = []
  for (const prefix of new Set(lossy.map(channel => channel.prefix))) {
    const three = [0, 1, 2].map(colour => lossy.find(channel => channel.prefix === prefix && channel.colour === colour))
    if (three.every(channel => channel !== undefined) && new Set(three.map(channel => channel!.type)).size === 1)
      sets.push(three as Placed[])
  }
  const grouped = new Set(sets.flat())
  for (const channel of lossy) if (!grouped.has(channel)) sets.push([channel])
  for (const set of sets) if (!cosine(stream, set, shape, out)) return null

  let [plainAt, runsAt] = [0, 0]
  for (const { scheme, type, left } of all) {
    const bytes = type === 1 ? 2 : 4
    if (scheme === 'unknown') {
      if (plainAt + pixels * bytes > plain.length) return null
      for (let y = 0; y < lines; y++, plainAt += width * bytes)
        raw.set(plain.subarray(plainAt, plainAt + width * bytes), y * lineBytes + left)
    } else if (scheme === 'runs') {
      if (runsAt + pixels * bytes > runs.length) return null
      // the bytes of a value lie apart
      for (let b = 0; b < bytes; b++, runsAt += pixels)
        for (let y = 0; y < lines; y++)
          for (let x = 0; x < width; x++) raw[y * lineBytes + left + x * bytes + b] = runs[runsAt + y * width + x]!
    }
  }
  return raw
}
