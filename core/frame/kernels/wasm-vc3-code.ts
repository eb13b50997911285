/** Binds the kernels that code pictures of VC-3, and finds the quantiser that keeps to a budget. */
import type { Vc3Coded, Vc3How } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** The coarsest quantiser that a macroblock can name. */
const COARSEST = 2047
/** The search looks at one macroblock of so many; what it finds is counted whole. */
const STEP = 8

interface Places {
  planes: readonly [number, number, number]
  coefficients: number
  codes: number
  weights: number
}

interface Shape {
  across: number
  down: number
  /** Bytes that the coefficients of a line of macroblocks take. */
  line: number
}

/** Lays three planes of whole macroblocks into memory, and their coefficients. */
function transform({ exports }: Room, { width, height }: FrameSize, given: Given): void {
  const { places, shape, how, samples, room } = given
  const { whole, bits, luma } = how
  const { across, down, line } = shape
  const [lumaWidth, chromaWidth] = [16 * across, (whole ? 16 : 8) * across]
  const { buffer } = exports.memory
  const rows = places.planes.map((plane, n) => ({ plane, bytes: 2 * (n ? chromaWidth : lumaWidth) }))
  for (let y = 0; y < height; y++) {
    const from = samples + 8 * width * y
    const [first, second, third] = rows.map(({ plane, bytes }) => plane + bytes * y) as [number, number, number]
    if (luma)
      exports.vc3SplitYcc({
        from,
        width,
        whole: lumaWidth,
        bits,
        ...luma,
        room,
        luma: first,
        first: second,
        second: third
      })
    else exports.vc3SplitRgb({ from, width, whole: lumaWidth, bits, green: first, blue: second, red: third })
  }
  // the last line goes on below
  for (const { plane, bytes } of rows) {
    const last = new Uint8Array(buffer, plane + bytes * (height - 1), bytes)
    for (let y = height; y < 16 * down; y++) new Uint8Array(buffer, plane + bytes * y, bytes).set(last)
  }
  for (let row = 0; row < down; row++)
    exports.vc3Transform({
      luma: places.planes[0] + 32 * lumaWidth * row,
      first: places.planes[1] + 32 * chromaWidth * row,
      second: places.planes[2] + 32 * chromaWidth * row,
      lumaStride: 2 * lumaWidth,
      chromaStride: 2 * chromaWidth,
      across,
      whole: whole ? 1 : 0,
      bits,
      to: places.coefficients + line * row
    })
}

interface Given {
  places: Places
  shape: Shape
  how: Vc3How
  samples: number
  room: number
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
  const lumaBytes = 512 * across * down
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
  const places = { planes: [first, second, third], coefficients, codes, weights } as const
  transform(room, size, { places, shape: { across, down, line }, how, samples: from, room: scratch + 16 })

  const about = { across, whole: whole ? 1 : 0, bits, more, codes, weights }
  const placed = (row: number) => ({
    coefficients: coefficients + line * row,
    marks: marks + (line * row) / 16
  })
  const counted = (quantiser: number, wide: number): number => {
    const step = across < 4 * wide ? 1 : wide
    let bytes = 0
    for (let row = 0; row < down; row++) {
      const found = exports.vc3Bits({ ...placed(row), step, quantiser, ...about })
      if (found < 0) return Infinity
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
