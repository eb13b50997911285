/**
 * The plain twin of the FFV1 kernels: the samples of one slice of RGB or RGBA (RFC 9043, 3.3 to 3.8.1), range coded.
 */
import { RangeDecoder, RangeEncoder, SYMBOL } from './range-coder'
import type { Ffv1Begun, Ffv1Place, Ffv1Plan, Ffv1Slice } from './kernels'

/** Samples on either side of a line that neighbours are looked for in. */
const BEFORE = 2
const BEHIND = 1

/** Three lines of a plane: the one at hand, and the two above it. */
export class Lines {
  private lines: Int32Array[]

  constructor(private readonly width: number) {
    this.lines = [0, 1, 2].map(() => new Int32Array(BEFORE + width + BEHIND))
  }

  /**
   * Begins a line: what lies left of it is the first of the line above, what lies right of that is its last (RFC 9043,
   * 3.1).
   */
  next(): { here: Int32Array; above: Int32Array; top: Int32Array } {
    const [here, above, top] = [this.lines[2]!, this.lines[0]!, this.lines[1]!]
    this.lines = [here, above, top]
    here[BEFORE - 1] = above[BEFORE]!
    here[BEFORE - 2] = 0
    above[BEFORE + this.width] = above[BEFORE + this.width - 1]!
    return { here, above, top }
  }
}

export const median = (a: number, b: number, c: number): number =>
  a > b ? (b > c ? b : a > c ? c : a) : a > c ? a : b > c ? c : b

/**
 * The context of a sample, negative where its difference is to change its sign (RFC 9043, 3.5). `x` counts from
 * `BEFORE`.
 */
export function contextOf(
  tables: Int16Array,
  set: number,
  { here, above, top }: { here: Int32Array; above: Int32Array; top: Int32Array },
  x: number
): number {
  const at = set * 1280
  const [left, corner, up, right] = [here[x - 1]!, above[x - 1]!, above[x]!, above[x + 1]!]
  return (
    tables[at + ((left - corner) & 255)]! +
    tables[at + 256 + ((corner - up) & 255)]! +
    tables[at + 512 + ((up - right) & 255)]! +
    tables[at + 768 + ((here[x - 2]! - left) & 255)]! +
    tables[at + 1024 + ((top[x]! - up) & 255)]!
  )
}

/** Which set of contexts a plane has: green, blue and red, alpha. */
const SETS = [0, 1, 1, 2] as const

/** Where the contexts of a set begin among the states. */
const setsAt = ({ contexts: [a, b] }: Ffv1Plan): readonly number[] => [0, a * SYMBOL, (a + b) * SYMBOL]

/** Lines of the planes as RGBA (RFC 9043, 3.7.2.1). */
export function toRgba(
  rows: readonly Int32Array[],
  width: number,
  bits: number,
  samples: Uint8Array | Uint16Array,
  at: number
): void {
  const offset = 1 << bits
  const full = (1 << bits) - 1
  const [first, second, third, fourth] = rows as [Int32Array, Int32Array, Int32Array, Int32Array | undefined]
  for (let x = 0; x < width; x++) {
    const b = second[BEFORE + x]! - offset
    const r = third[BEFORE + x]! - offset
    const g = first[BEFORE + x]! - ((b + r) >> 2)
    const to = at + 4 * x
    samples[to] = r + g
    samples[to + 1] = g
    samples[to + 2] = b + g
    samples[to + 3] = fourth ? fourth[BEFORE + x]! : full
  }
}

/** See `Kernels.ffv1Decode`. */
export function ffv1Decode({ data, start, states }: Ffv1Slice, plan: Ffv1Plan, to: Ffv1Place): boolean {
  const { width, height, bits, planes, tables, transitions } = plan
  const samples = bits > 8 ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height)
  const coder = new RangeDecoder(data, 0, transitions)
  Object.assign(coder, start)
  const lines = Array.from({ length: planes }, () => new Lines(width))
  const sets = setsAt(plan)
  const mask = 2 ** (bits + 1) - 1
  for (let y = 0; y < height; y++) {
    const rows: Int32Array[] = []
    for (let p = 0; p < planes; p++) {
      const near = lines[p]!.next()
      const { here, above } = near
      for (let x = BEFORE; x < BEFORE + width; x++) {
        const context = contextOf(tables, SETS[p]!, near, x)
        const difference = coder.symbol(states, sets[SETS[p]!]! + Math.abs(context) * SYMBOL, true)
        if (Number.isNaN(difference)) return false
        const expected = median(here[x - 1]!, above[x]!, here[x - 1]! + above[x]! - above[x - 1]!)
        here[x] = (expected + (context < 0 ? -difference : difference)) & mask
      }
      rows.push(here)
    }
    if (coder.at > data.length + 4) return false
    toRgba(rows, width, bits, samples, 4 * width * y)
  }
  for (let y = 0; y < height; y++)
    to.samples.set(samples.subarray(4 * y * width, 4 * (y + 1) * width), 4 * (to.first + y * to.stride))
  return true
}

/** A difference as the nearest of those that come to the same in so many bits. */
const folded = (difference: number, bits: number): number => (difference << (32 - bits)) >> (32 - bits)

/** See `Kernels.ffv1Encode`. */
export function ffv1Encode(
  samples: Uint8Array | Uint16Array,
  stride: number,
  begun: Ffv1Begun,
  plan: Ffv1Plan
): Uint8Array {
  const { width, height, bits, planes, tables, contexts, transitions } = plan
  const coder = new RangeEncoder(transitions)
  Object.assign(coder, begun)
  const states = new Uint8Array((contexts[0] + contexts[1] + contexts[2]) * SYMBOL).fill(128)
  const lines = Array.from({ length: planes }, () => new Lines(width))
  const sets = setsAt(plan)
  const offset = 1 << bits
  for (let y = 0; y < height; y++) {
    const nears = lines.map(line => line.next())
    for (let x = 0; x < width; x++) {
      const from = 4 * (y * stride + x)
      const g = samples[from + 1]!
      const b = samples[from + 2]! - g
      const r = samples[from]! - g
      nears[0]!.here[BEFORE + x] = g + ((b + r) >> 2)
      nears[1]!.here[BEFORE + x] = b + offset
      nears[2]!.here[BEFORE + x] = r + offset
      if (planes === 4) nears[3]!.here[BEFORE + x] = samples[from + 3]!
    }
    for (let p = 0; p < planes; p++) {
      const near = nears[p]!
      const { here, above } = near
      for (let x = BEFORE; x < BEFORE + width; x++) {
        const context = contextOf(tables, SETS[p]!, near, x)
        const expected = median(here[x - 1]!, above[x]!, here[x - 1]! + above[x]! - above[x - 1]!)
        const difference = here[x]! - expected
        const signed = folded(context < 0 ? -difference : difference, bits + 1)
        coder.symbol(states, sets[SETS[p]!]! + Math.abs(context) * SYMBOL, signed, true)
      }
    }
  }
  return coder.endSlice()
}
