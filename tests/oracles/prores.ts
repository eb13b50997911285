/**
 * The plain twin of the ProRes kernels: transform and entropy coding of SMPTE RDD 36 as the standard puts them, in f64.
 */
import type { ChooseQuantisers, FrameSize, ProresHow, ProresSlices } from '../../core/frame/kernels/kernels'
import { slicesOf, type Slice } from '../../core/frame/kernels/prores-slices'

/** Progressive block scan (figure 4): row * 8 + column of each position. */
const SCAN = [
  0, 1, 8, 9, 2, 3, 10, 11, 16, 17, 24, 25, 18, 19, 26, 27, 4, 5, 12, 20, 13, 6, 7, 14, 21, 28, 29, 22, 15, 23, 30, 31,
  32, 33, 40, 48, 41, 34, 35, 42, 49, 56, 57, 50, 43, 36, 37, 44, 51, 58, 59, 52, 45, 38, 39, 46, 53, 60, 61, 54, 47,
  55, 62, 63
]

/** Interlaced block scan (figure 5): the progressive one with rows and columns exchanged. */
const FIELD_SCAN = SCAN.map(place => (place % 8) * 8 + (place >> 3))

const WAVE = Array.from({ length: 8 }, (_, k) =>
  Array.from({ length: 8 }, (_, n) => (k === 0 ? Math.sqrt(1 / 8) : 0.5 * Math.cos(((2 * n + 1) * k * Math.PI) / 16)))
)

/** Blocks of a macroblock as (column, row): luma goes row by row, 4:4:4 chroma column by column (7.2). */
const ORDER = {
  luma: [
    [0, 0],
    [1, 0],
    [0, 1],
    [1, 1]
  ],
  chroma: [
    [0, 0],
    [0, 1],
    [1, 0],
    [1, 1]
  ]
} as const

/**
 * Y', Cb or Cr of a pixel in the transform's domain: s / 2^(b-9) - 256 for a limited-range sample s of b bits (7.5.1).
 */
function sample(rgba: Uint16Array, at: number, component: number, { kr, kb }: ProresHow): number {
  const [r, g, b] = [rgba[at]! / 65535, rgba[at + 1]! / 65535, rgba[at + 2]! / 65535]
  const y = kr * r + (1 - kr - kb) * g + kb * b
  if (component === 0) return 438 * y - 224
  return component === 1 ? (448 * (b - y)) / (2 * (1 - kb)) : (448 * (r - y)) / (2 * (1 - kr))
}

/** Coefficients of one component in eighths, position by position of the scan, all blocks at each. */
function coefficients(
  rgba: Uint16Array,
  { width, height }: FrameSize,
  slice: Slice,
  component: number,
  how: ProresHow
): Int16Array {
  const blocks = slice.mbs * 4
  const out = new Int16Array(blocks * 64)
  const order = component === 0 ? ORDER.luma : ORDER.chroma
  for (let b = 0; b < blocks; b++) {
    const [column, row] = order[b & 3]!
    const [left, top] = [slice.x + (b >> 2) * 16 + column * 8, slice.y + row * 8]
    const rows: number[][] = []
    for (let y = 0; y < 8; y++) {
      const line = Array.from({ length: 8 }, (_, x) =>
        sample(rgba, 4 * (Math.min(top + y, height - 1) * width + Math.min(left + x, width - 1)), component, how)
      )
      rows.push(WAVE.map(wave => wave.reduce((sum, w, x) => sum + w * line[x]!, 0)))
    }
    ;(how.field ? FIELD_SCAN : SCAN).forEach((place, k) => {
      const [v, u] = [place >> 3, place & 7]
      let sum = 0
      for (let y = 0; y < 8; y++) sum += WAVE[v]![y]! * rows[y]![u]!
      out[k * blocks + b] = Math.round(sum * 8)
    })
  }
  return out
}

class BitWriter {
  private readonly bytes: number[] = []
  private held = 0
  private count = 0

  put(value: number, length: number): void {
    for (let i = length - 1; i >= 0; i--) {
      this.held = (this.held << 1) | ((value >>> i) & 1)
      if (++this.count === 8) {
        this.bytes.push(this.held)
        this.held = this.count = 0
      }
    }
  }

  /** A code word: Rice up to the switch, Exp-Golomb beyond (7.1.1.1). */
  word(book: number, value: number): void {
    const switchBits = (book & 3) + 1
    const rice = book >> 5
    const exp = (book >> 2) & 7
    if (value >= switchBits << rice) {
      const v = value - (switchBits << rice) + (1 << exp)
      const n = 31 - Math.clz32(v)
      this.put(0, n - exp + switchBits)
      this.put(v, n + 1)
    } else {
      this.put(0, value >> rice)
      this.put(1, 1)
      this.put(value & ((1 << rice) - 1), rice)
    }
  }

  end(): number[] {
    if (this.count) this.put(0, 8 - this.count)
    return this.bytes
  }
}

const RUN_BOOKS = [0x06, 0x06, 0x05, 0x05, 0x04, 0x29, 0x29, 0x29, 0x29, 0x28, 0x28, 0x28, 0x28, 0x28, 0x28, 0x4c]
const LEVEL_BOOKS = [0x04, 0x0a, 0x05, 0x06, 0x04, 0x28, 0x28, 0x28, 0x28, 0x4c]
const DC_BOOKS = [0x04, 0x28, 0x28, 0x4d, 0x4d, 0x70, 0x70]

function codeComponent(c: Int16Array, blocks: number, index: number): number[] {
  const scale = index <= 128 ? index : (index - 96) * 4
  const factor = Math.floor((8192 + (scale >> 1)) / scale)
  const q = c.map(value => (value * factor + 16384) >> 15)
  const bits = new BitWriter()
  let previous = q[0]!
  bits.word(0xb8, (previous << 1) ^ (previous >> 31))
  let code = 5
  let sign = 0
  for (let b = 1; b < blocks; b++) {
    const delta = q[b]! - previous
    const negative = delta < 0 ? -1 : 0
    const told = delta === 0 ? 0 : 2 * Math.abs(delta) - (negative === sign ? 0 : 1)
    bits.word(DC_BOOKS[Math.min(code, 6)]!, told)
    code = told
    sign = delta === 0 ? 0 : negative
    previous = q[b]!
  }
  let [run, level, last] = [4, 2, blocks - 1]
  for (let i = blocks; i < q.length; i++) {
    if (q[i] === 0) continue
    const zeros = i - last - 1
    bits.word(RUN_BOOKS[Math.min(run, 15)]!, zeros)
    bits.word(LEVEL_BOOKS[Math.min(level, 9)]!, Math.abs(q[i]!) - 1)
    bits.put(q[i]! < 0 ? 1 : 0, 1)
    run = zeros
    level = Math.abs(q[i]!)
    last = i
  }
  return bits.end()
}

function codeAlpha(rgba: Uint16Array, width: number, height: number, slice: Slice, bitsEach: 8 | 16): number[] {
  const values: number[] = []
  for (let y = 0; y < 16; y++) {
    for (let x = 0; x < slice.mbs * 16; x++) {
      const a = rgba[4 * (Math.min(slice.y + y, height - 1) * width + Math.min(slice.x + x, width - 1)) + 3]!
      values.push(bitsEach === 16 ? a : Math.floor((a + 128) / 257))
    }
  }
  const mask = bitsEach === 16 ? 65535 : 255
  const half = bitsEach === 16 ? 64 : 8
  const bits = new BitWriter()
  let previous = mask
  for (let i = 0; i < values.length;) {
    const value = values[i]!
    let delta = (value - previous) & mask
    if (delta > mask - half) delta -= mask + 1
    if (delta === 0 || Math.abs(delta) > half) {
      bits.put(1, 1)
      bits.put(delta & mask, bitsEach)
    } else {
      bits.put(0, 1)
      bits.put(Math.abs(delta) - 1, bitsEach === 16 ? 6 : 3)
      bits.put(delta < 0 ? 1 : 0, 1)
    }
    previous = value
    let run = 0
    for (i++; i < values.length && values[i] === value; i++) run++
    if (run === 0) bits.put(1, 1)
    else {
      bits.put(0, 1)
      bits.put(run, run < 16 ? 4 : 15)
    }
  }
  return bits.end()
}

/** Clear pixels of blocks that have others as well take their mean colour. */
function filled(rgba: Uint16Array, width: number, height: number): Uint16Array {
  const out = rgba.slice()
  for (let top = 0; top < height; top += 8) {
    for (let left = 0; left < width; left += 8) {
      const places: number[] = []
      for (let y = top; y < Math.min(top + 8, height); y++)
        for (let x = left; x < Math.min(left + 8, width); x++) places.push(4 * (y * width + x))
      const seen = places.filter(at => rgba[at + 3]! > 0)
      if (seen.length === 0) continue
      const mean = [0, 1, 2].map(c =>
        Math.floor((seen.reduce((sum, at) => sum + rgba[at + c]!, 0) + Math.floor(seen.length / 2)) / seen.length)
      )
      for (const at of places) if (rgba[at + 3] === 0) out.set(mean, at)
    }
  }
  return out
}

export function prores(
  given: Uint16Array,
  width: number,
  height: number,
  how: ProresHow,
  choose: ChooseQuantisers
): ProresSlices {
  const samples = how.fill ? filled(given, width, height) : given
  const slices = slicesOf(width, height)
  const transformed = slices.map(slice => [0, 1, 2].map(c => coefficients(samples, { width, height }, slice, c, how)))
  const coded = (n: number, index: number): number[][] =>
    transformed[n]!.map(c => codeComponent(c, slices[n]!.mbs * 4, index))
  const indices = choose(slices.length, (n, index) => coded(n, index).reduce((sum, part) => sum + part.length, 0))
  const pieces = slices.map((slice, n) => {
    const colour = coded(n, indices[n]!)
    const alpha = how.alphaBits ? codeAlpha(samples, width, height, slice, how.alphaBits) : []
    const told = how.alphaBits ? colour : colour.slice(0, 2)
    return [
      (2 + 2 * told.length) << 3,
      indices[n]!,
      ...told.flatMap(part => [part.length >> 8, part.length & 255]),
      ...colour.flat(),
      ...alpha
    ]
  })
  return { data: Uint8Array.from(pieces.flat()), sizes: Uint16Array.from(pieces, piece => piece.length) }
}
