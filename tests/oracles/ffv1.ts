/**
 * The plain twin of the FFV1 kernels: the samples of one slice of RGB or RGBA (RFC 9043, 3.3 to 3.8.1), range coded.
 */
import { RangeDecoder, RangeEncoder, SYMBOL } from '../../core/frame/kernels/range-coder'
import { BEFORE, contextOf, Lines, median, toRgba } from '../../core/frame/kernels/ffv1-lines'
import type { Ffv1Begun, Ffv1Place, Ffv1Plan, Ffv1Slice } from '../../core/frame/kernels/coded'

/** Which set of contexts a plane has: green, blue and red, alpha. */
const SETS = [0, 1, 1, 2] as const

/** Where the contexts of a set begin among the states. */
const setsAt = ({ contexts: [a, b] }: Ffv1Plan): readonly number[] => [0, a * SYMBOL, (a + b) * SYMBOL]

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
