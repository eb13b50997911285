/**
 * The ProRes kernels of the WASM build: transforms every slice once, then codes slices as often as the choice of
 * quantisers asks.
 */
import { impossible } from '../../base/errors'
import type { AlphaSlice, ChooseQuantisers, FrameSize, ProresHow, ProresSlices } from './kernels'
import { slicesOf } from './prores-slices'
import type { Room } from './wasm-room'

/**
 * A slice of 8 macroblocks never takes more: 3 * 2048 coefficients of at most 27 bits and their runs, and 2048 alphas
 * of 18 bits.
 */
const MOST_SLICE = 65536

/** The ProRes kernels of an instance; see `Kernels`. */
export function wasmProres(
  { exports, lay }: Room,
  samples: Uint16Array,
  { width, height }: FrameSize,
  how: ProresHow,
  choose: ChooseQuantisers
): ProresSlices {
  const slices = slicesOf(width, height)
  const macroblocks = slices.reduce((sum, slice) => sum + slice.mbs, 0)
  const [rgba, coefficients, planes, work, one] = lay(
    samples.byteLength + 64,
    macroblocks * 1536,
    3 * 16 * 128 * 4,
    4096 * 2,
    MOST_SLICE
  ) as [number, number, number, number, number]
  const { buffer } = exports.memory
  const memory = new Uint8Array(buffer)
  memory.set(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength), rgba)
  if (how.fill) exports.fillClear(rgba, width, height)
  const places: number[] = []
  let at = coefficients
  for (const { x, y, mbs } of slices) {
    places.push(at)
    exports.transformSlice({
      rgba,
      width,
      height,
      x,
      y,
      mbs,
      kr: how.kr,
      kb: how.kb,
      planes,
      to: at,
      field: how.field ? 1 : 0
    })
    at += mbs * 1536
  }
  const code = (n: number, index: number, alphaBits: number): number => {
    const { x, y, mbs } = slices[n]!
    return exports.codeSlice({
      coefficients: places[n]!,
      mbs,
      index,
      alphaBits,
      rgba,
      width,
      height,
      x,
      y,
      work,
      to: one
    })
  }
  const indices = choose(slices.length, (n, index) =>
    exports.measureSlice(places[n]!, slices[n]!.mbs, index, work, one)
  )
  const sizes = new Uint16Array(slices.length)
  let data = new Uint8Array(1 << 20)
  let length = 0
  for (let n = 0; n < slices.length; n++) {
    const size = code(n, indices[n]!, how.alphaBits)
    if (size > 65535) throw impossible('a slice of the picture is too rich for a ProRes frame')
    sizes[n] = size
    if (length + size > data.length) {
      const larger = new Uint8Array(data.length * 2)
      larger.set(data.subarray(0, length))
      data = larger
    }
    data.set(memory.subarray(one, one + size), length)
    length += size
  }
  return { data: data.slice(0, length), sizes }
}

/** Zeros behind a slice's code, which the kernel may read. */
const BEHIND = 16

/** See `Kernels.proresAlpha`. */
export function wasmProresAlpha(
  { exports, lay }: Room,
  data: Uint8Array,
  slices: readonly AlphaSlice[],
  { width, height }: FrameSize,
  bits: 8 | 16
): Uint16Array | number {
  const most = slices.reduce((size, slice) => Math.max(size, slice.size), 0)
  const [from, to] = lay(most + BEHIND, 2 * width * height) as [number, number]
  const memory = new Uint8Array(exports.memory.buffer)
  for (const [n, { x, y, mbs, offset, size }] of slices.entries()) {
    memory.set(data.subarray(offset, offset + size), from)
    memory.fill(0, from + size, from + size + BEHIND)
    const columns = 16 * mbs
    if (
      !exports.proresAlphaSlice({
        from,
        size,
        to: to + 2 * (y * width + x),
        stride: width,
        columns,
        shown: Math.min(columns, width - x),
        rows: Math.min(16, height - y),
        wide: bits === 16 ? 1 : 0
      })
    )
      return n
  }
  const plane = new Uint16Array(width * height)
  plane.set(new Uint16Array(exports.memory.buffer, to, width * height))
  return plane
}

/** Alphas laid side by side at once. */
const BESIDE = 1 << 15

/** See `Kernels.readingsApart`. */
export function wasmReadingsApart(
  { exports, lay }: Room,
  ours: Uint16Array,
  theirs: Uint16Array,
  most: number
): number {
  const [a, b] = lay(2 * BESIDE, 2 * BESIDE) as [number, number]
  const memory = new Uint16Array(exports.memory.buffer)
  for (let from = 0; from < ours.length; from += BESIDE) {
    const count = Math.min(BESIDE, ours.length - from)
    memory.set(ours.subarray(from, from + count), a / 2)
    memory.set(theirs.subarray(from, from + count), b / 2)
    const found = exports.readingsApart(a, b, count, most)
    if (found >= 0) return from + found
  }
  return -1
}
