/**
 * Macroblocks of VC-3, plainly (SMPTE ST 2019-1): codes looked up in the tables' own entries, coefficients in real
 * numbers, and the inverse transform as it is defined.
 */
import type { Vc3Coded, Vc3Fault, Vc3How, Vc3Picture } from '../../core/frame/kernels/coded'
import type { FrameSize } from '../../core/frame/kernels/kernels'
import { yccToRgba } from './ycc'

/** The diagonal scan: places in a block, row by row. */
const SCAN: number[] = []
for (let sum = 0; sum < 15; sum++) {
  const diagonal: number[] = []
  for (let y = 0; y < 8; y++) if (sum - y >= 0 && sum - y < 8) diagonal.push(8 * y + sum - y)
  SCAN.push(...(sum % 2 ? diagonal : diagonal.reverse()))
}

const cosine = (k: number, n: number): number =>
  (k ? 0.5 : Math.SQRT1_2 / 2) * Math.cos(((2 * n + 1) * k * Math.PI) / 16)

/** 64 samples from 64 coefficients. */
export function inverse(coefficients: readonly number[]): number[] {
  const rows = Array.from({ length: 64 }, (_, i) => {
    let sum = 0
    for (let k = 0; k < 8; k++) sum += coefficients[8 * (i >> 3) + k]! * cosine(k, i & 7)
    return sum
  })
  return Array.from({ length: 64 }, (_, i) => {
    let sum = 0
    for (let k = 0; k < 8; k++) sum += rows[8 * k + (i & 7)]! * cosine(k, i >> 3)
    return sum
  })
}

class Bits {
  at = 0

  constructor(
    private readonly bytes: Uint8Array,
    readonly length: number
  ) {}

  peek(count: number): number {
    let value = 0
    for (let n = 0; n < count; n++) {
      const place = this.at + n
      value = value * 2 + (((this.bytes[place >> 3] ?? 0) >> (7 - (place & 7))) & 1)
    }
    return value
  }

  take(count: number): number {
    const value = this.peek(count)
    this.at += count
    return value
  }

  /** Whether nothing is left. */
  get over(): boolean {
    return this.at >= this.length
  }
}

/** A block's coefficients, row by row; or what is wrong. */
function blockOf(
  bits: Bits,
  { codes, weights, more }: Vc3Picture,
  { quantiser, component, last }: { quantiser: number; component: number; last: number[] }
): number[] | Vc3Fault['fault'] {
  if (bits.over) return 'ends-early'
  const [runs, sizes] = [codes.subarray(128), codes.subarray(128 + 1024)]
  const first = codes[bits.peek(7)]!
  bits.at += first & 31
  const extra = first >> 8
  if (extra) {
    const value = bits.take(extra)
    last[component]! += value >= 2 ** (extra - 1) ? value : value - 2 ** extra + 1
  }
  const found = new Array<number>(64).fill(0)
  found[0] = last[component]!
  for (let at = 0; ;) {
    if (bits.over) return 'ends-early'
    let entry = sizes[bits.peek(12)]!
    if (entry & 128) entry = sizes[(entry >> 8) + (bits.peek(16) & 15)]!
    bits.at += entry & 31
    let size = entry >> 8
    if (!size) return found
    const below = bits.take(1)
    if (entry & 64) size += 64 * bits.take(more)
    at++
    if (entry & 32) {
      const run = runs[bits.peek(10)]!
      bits.at += run & 31
      at += run >> 8
    }
    if (at > 63) return 'too-far'
    const value = ((size + 0.75) * weights[(component ? 64 : 0) + at]! * quantiser) / 32
    found[SCAN[at]!] = below ? -value : value
  }
}

/** Component and place, in blocks, of each block of a macroblock. */
const placesOf = (whole: boolean): { component: number; right: number; below: number }[] =>
  [0, 1].flatMap(below =>
    whole
      ? [0, 1, 2].flatMap(component => [0, 1].map(right => ({ component, right, below })))
      : [
          { component: 0, right: 0, below },
          { component: 0, right: 1, below },
          { component: 1, right: 0, below },
          { component: 2, right: 0, below }
        ]
  )

function threePlanes(packet: Uint8Array, picture: Vc3Picture): Uint16Array[] | Vc3Fault {
  const { across, lines, bits: depth, whole } = picture
  const widths = [16 * across, (whole ? 16 : 8) * across, (whole ? 16 : 8) * across]
  const planes = widths.map(width => new Uint16Array(width * 16 * lines.length))
  for (const [line, { at, bytes }] of lines.entries()) {
    const bits = new Bits(packet.subarray(at), 8 * bytes)
    const last = [0, 1, 2].map(() => 2 ** (depth + 2))
    for (let mb = 0; mb < across; mb++) {
      if (bits.at + 12 > bits.length) return { line, fault: 'ends-early' }
      const quantiser = bits.take(11)
      bits.take(1)
      for (const { component, right, below } of placesOf(whole)) {
        const block = blockOf(bits, picture, { quantiser, component, last })
        if (typeof block === 'string') return { line, fault: block }
        const width = widths[component]!
        const left = mb * (component ? widths[1]! / across : 16) + 8 * right
        for (const [i, value] of inverse(block).entries()) {
          const code = Math.min(2 ** depth - 1, Math.max(0, Math.floor(value + 0.5)))
          planes[component]![(16 * line + 8 * below + (i >> 3)) * width + left + (i & 7)] = code
        }
      }
    }
  }
  return planes
}

export function vc3Rgba(packet: Uint8Array, picture: Vc3Picture, { width, height }: FrameSize): Uint16Array | Vc3Fault {
  const planes = threePlanes(packet, picture)
  if (!Array.isArray(planes)) return planes
  const { bits, whole, luma } = picture
  const stride = 16 * picture.across
  if (luma) {
    const all = Uint16Array.from(planes.flatMap(plane => [...plane]))
    return yccToRgba(
      { planes: all, stride, planeSize: planes[0]!.length, width, height, bits, half: !whole },
      null,
      luma
    )
  }
  const out = new Uint16Array(4 * width * height).fill(65535)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (const [c, plane] of [2, 0, 1].entries())
        out[4 * (y * width + x) + c] = Math.round((planes[plane]![y * stride + x]! * 65535) / (2 ** bits - 1))
  return out
}

/** 64 coefficients, row by row, from 64 samples. */
function forward(samples: readonly number[]): number[] {
  const rows = Array.from({ length: 64 }, (_, i) => {
    let sum = 0
    for (let n = 0; n < 8; n++) sum += samples[8 * (i >> 3) + n]! * cosine(i & 7, n)
    return sum
  })
  return Array.from({ length: 64 }, (_, i) => {
    let sum = 0
    for (let n = 0; n < 8; n++) sum += rows[8 * n + (i & 7)]! * cosine(i >> 3, n)
    return sum
  })
}

/** Codes of a picture's components, each of its own width, in whole macroblocks. */
function planesOf(samples: Uint16Array, { width, height }: FrameSize, { bits, luma, whole }: Vc3How): number[][] {
  const [across, down] = [16 * Math.ceil(width / 16), 16 * Math.ceil(height / 16)]
  const unit = 2 ** (bits - 8)
  const parts = (x: number, y: number): number[] => {
    const at = 4 * (Math.min(y, height - 1) * width + Math.min(x, width - 1))
    const [red, green, blue] = [samples[at]!, samples[at + 1]!, samples[at + 2]!]
    if (!luma) return [green, blue, red].map(code => (code * (2 ** bits - 1)) / 65535)
    const { kr, kb } = luma
    const light = kr * red + kb * blue + (1 - kr - kb) * green
    const away = [(blue - light) / (2 - 2 * kb), (red - light) / (2 - 2 * kr)]
    return [16 * unit + (219 * unit * light) / 65535, ...away.map(v => 128 * unit + (224 * unit * v) / 65535)]
  }
  return [0, 1, 2].map(component => {
    const half = component > 0 && !whole
    const columns = half ? across / 2 : across
    const last = Math.ceil(width / 2) - 1
    return Array.from({ length: columns * down }, (_, i) => {
      const [x, y] = [i % columns, Math.floor(i / columns)]
      if (!half) return Math.floor(parts(x, y)[component]! + 0.5)
      const middle = 2 * Math.min(x, last)
      const [left, here, right] = [Math.max(0, middle - 1), middle, middle + 1].map(at => parts(at, y)[component]!)
      return Math.floor((left! + 2 * here! + right!) / 4 + 0.5)
    })
  })
}

const digits = (entry: number): string =>
  (entry & 31) === 0 ? '' : (entry >>> 5).toString(2).padStart(entry & 31, '0')
const wide = (value: number, count: number): string => (count ? value.toString(2).padStart(count, '0') : '')

/** A block's codes; null where a size is beyond what they hold. */
function blockCodes(
  coefficients: readonly number[],
  { codes, weights, more, bits }: Vc3How,
  { quantiser, component, last }: { quantiser: number; component: number; last: number[] }
): string | null {
  const finer = bits === 8 ? 16 : 4
  const first = Math.round(coefficients[0]!)
  const difference = first - last[component]!
  last[component] = first
  const extra = difference ? Math.floor(Math.log2(Math.abs(difference))) + 1 : 0
  let text = digits(codes[extra]!) + wide(difference < 0 ? difference + 2 ** extra - 1 : difference, extra)
  let before = 0
  for (let at = 1; at < 64; at++) {
    const value = Math.round(coefficients[SCAN[at]!]! * finer)
    const steps = Math.abs(value) * Math.fround(32 / (weights[(component ? 64 : 0) + at]! * quantiser * finer))
    const size = Math.max(Math.trunc(steps - 0.25), steps >= 1 ? 1 : 0)
    if (!size) continue
    if (size > 64 * 2 ** more) return null
    const run = at - before - 1
    before = at
    const kind = (run ? 64 : 0) + (size > 64 ? 128 : 0)
    text += digits(codes[32 + kind + ((size - 1) % 64)]!) + (value < 0 ? '1' : '0')
    if (size > 64) text += wide(Math.floor((size - 1) / 64), more)
    if (run) text += digits(codes[32 + 256 + run]!)
  }
  return text + digits(codes[16]!)
}

/** The lines at a quantiser, filled to whole fours of bytes; null where a size is too large. */
function linesAt(blocks: readonly { component: number; coefficients: number[] }[][][], how: Vc3How, quantiser: number) {
  const lines: string[] = []
  for (const macroblocks of blocks) {
    const last = [0, 1, 2].map(() => 2 ** (how.bits + 2))
    let text = ''
    for (const macroblock of macroblocks) {
      text += wide(2 * quantiser, 12)
      for (const { component, coefficients } of macroblock) {
        const codes = blockCodes(coefficients, how, { quantiser, component, last })
        if (codes === null) return null
        text += codes
      }
    }
    lines.push(text.padEnd(32 * Math.ceil(text.length / 32), '0'))
  }
  return lines
}

export function vc3Encode(samples: Uint16Array, size: FrameSize, how: Vc3How): Vc3Coded | null {
  const [across, down] = [Math.ceil(size.width / 16), Math.ceil(size.height / 16)]
  const planes = planesOf(samples, size, how)
  const blocks = Array.from({ length: down }, (_, row) =>
    Array.from({ length: across }, (_, mb) =>
      placesOf(how.whole).map(({ component, right, below }) => {
        const narrow = component > 0 && !how.whole
        const [columns, left] = [narrow ? 8 * across : 16 * across, mb * (narrow ? 8 : 16) + 8 * right]
        const at = (i: number): number => (16 * row + 8 * below + (i >> 3)) * columns + left + (i & 7)
        return { component, coefficients: forward(Array.from({ length: 64 }, (_, i) => planes[component]![at(i)]!)) }
      })
    )
  )
  for (let quantiser = 1; quantiser < 2048; quantiser++) {
    const lines = linesAt(blocks, how, quantiser)
    if (!lines || lines.reduce((sum, line) => sum + line.length / 8, 0) > how.budget) continue
    const starts: number[] = []
    const bytes: number[] = []
    for (const line of lines) {
      starts.push(bytes.length)
      for (let at = 0; at < line.length; at += 8) bytes.push(parseInt(line.slice(at, at + 8), 2))
    }
    return { data: Uint8Array.from(bytes), lines: starts, quantiser }
  }
  return null
}
