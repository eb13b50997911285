/**
 * Macroblocks of VC-3, plainly (SMPTE ST 2019-1): codes looked up in the tables' own entries, coefficients in real
 * numbers, and the inverse transform as it is defined.
 */
import type { Vc3Fault, Vc3Picture, Vc3Planes } from '../../core/frame/kernels/coded'

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

export function vc3Planes(packet: Uint8Array, picture: Vc3Picture): Vc3Planes | Vc3Fault {
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
  return { planes: planes as Vc3Planes['planes'] }
}
