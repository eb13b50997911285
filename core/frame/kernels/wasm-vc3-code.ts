/** Binds the kernels that code pictures of VC-3, and finds the quantiser that keeps to a budget. */
import type { Vc3Coded, Vc3How } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** The coarsest quantiser that a macroblock can name. */
const COARSEST = 2047
/** The search looks at one macroblock of so many; what it finds is counted whole. */
const STEP = 8

interface Places {
  /** RGBA of 16 bits, and room for two lines of floats. */
  samples: number
  room: number
  /** Planes of a line of macroblocks, used again for each. */
  planes: readonly [number, number, number]
  coefficients: number
  /** Bytes that the coefficients of a line take. */
  line: number
}

/** The coefficients of a picture, line of macroblocks by line; beyond its last line that line goes on. */
function transform({ exports }: Room, { width, height }: FrameSize, { whole, bits, luma }: Vc3How, at: Places): void {
  const across = Math.ceil(width / 16)
  const [lumaStride, chromaStride] = [32 * across, (whole ? 32 : 16) * across]
  const strides = [lumaStride, chromaStride, chromaStride]
  for (let row = 0; 16 * row < height; row++) {
    for (let y = 0; y < 16; y++) {
      const from = at.samples + 8 * width * Math.min(16 * row + y, height - 1)
      const [first, second, third] = at.planes.map((plane, n) => plane + strides[n]! * y) as [number, number, number]
      const to = { from, width, whole: 16 * across, bits }
      if (luma) exports.vc3SplitYcc({ ...to, ...luma, room: at.room, luma: first, first: second, second: third })
      else exports.vc3SplitRgb({ ...to, green: first, blue: second, red: third })
    }
    const [plane, first, second] = at.planes
    exports.vc3Transform({
      luma: plane,
      first,
      second,
      lumaStride,
      chromaStride,
      across,
      whole: whole ? 1 : 0,
      bits,
      to: at.coefficients + at.line * row
    })
  }
}

/** The finest quantiser whose lines keep to the budget, by counts of them; 0 where none does. */
function finest(counted: (quantiser: number, step: number) => number, budget: number): number {
  // the finest is what most graphics need, and its count marks what others look at
  if (counted(1, 1) <= budget) return 1
  let [low, high] = [2, COARSEST]
  while (low < high) {
    const middle = (low + high) >> 1
    if (counted(middle, STEP) <= budget) high = middle
    else low = middle + 1
  }
  let found = low
  while (found <= COARSEST && counted(found, 1) > budget) found++
  if (found > COARSEST) return 0
  if (found === low) while (found > 2 && counted(found - 1, 1) <= budget) found--
  return found
}

/** See `Kernels.vc3Encode`. */
export function wasmVc3Encode(room: Room, samples: Uint16Array, size: FrameSize, how: Vc3How): Vc3Coded | null {
  const { exports, lay } = room
  const { width, height } = size
  const { whole, bits, more, budget } = how
  const [across, down] = [Math.ceil(width / 16), Math.ceil(height / 16)]
  const line = across * (whole ? 12 : 8) * 128
  const lumaBytes = 512 * across
  const chromaBytes = whole ? lumaBytes : lumaBytes / 2
  const [from, scratch, first, second, third, coefficients, marks, codes, weights, to] = lay(
    samples.byteLength + BEYOND,
    8 * (width + 16) + BEYOND,
    lumaBytes + BEYOND,
    chromaBytes + BEYOND,
    chromaBytes + BEYOND,
    line * down,
    (line * down) / 16,
    how.codes.byteLength,
    how.weights.byteLength,
    budget + BEYOND
  ) as [number, number, number, number, number, number, number, number, number, number]
  const { buffer } = exports.memory
  new Uint16Array(buffer, from, samples.length).set(samples)
  new Uint32Array(buffer, codes, how.codes.length).set(how.codes)
  new Float32Array(buffer, weights, how.weights.length).set(how.weights)
  const planes = [first, second, third] as const
  transform(room, size, how, { samples: from, room: scratch + 16, planes, coefficients, line })

  const about = { across, whole: whole ? 1 : 0, bits, more, codes, weights }
  const placed = (row: number) => ({
    coefficients: coefficients + line * row,
    marks: marks + (line * row) / 16
  })
  const counted = (quantiser: number, wide: number): number => {
    const step = across < 4 * wide ? 1 : wide
    let bytes = 0
    // a line that is beyond its codes does not end it: at the finest all lines have to be marked
    for (let row = 0; row < down; row++) {
      const found = exports.vc3Bits({ ...placed(row), step, quantiser, ...about })
      if (found < 0) bytes = Infinity
      bytes += 4 * Math.ceil((found * (across / Math.ceil(across / step))) / 32)
    }
    return bytes
  }
  const quantiser = finest(counted, budget)
  if (!quantiser) return null
  const lines: number[] = []
  let at = 0
  for (let row = 0; row < down; row++) {
    lines.push(at)
    at += exports.vc3Code({ ...placed(row), quantiser, to: to + at, ...about })
  }
  return { data: room.take(to, at), lines, quantiser }
}
