/**
 * Binds the comparing kernel: goes through both frames in bands of rows that stay in the cache, and adds up what each
 * band shows.
 */
import type { Triple } from '../../base/colour'
import { BINS, type Differences, type FrameSize, type Stored } from './kernels'
import { EDGE_REACH, noDifferences, waveX, waveY } from './terms'
import type { Room } from './wasm-room'

const MODES = { straight: 0, premultiplied: 1, none: 2 } as const

/** About so many pixels make a band: half a megabyte of both frames. */
const BAND = 1 << 15

const RESULTS = 20

/** See `Kernels.compare`. `linear` is the place of linear light for every code. */
export function wasmCompare(
  { exports, lay }: Room,
  expected: Uint16Array,
  found: Uint16Array,
  how: FrameSize & { expected: Stored; found: Stored; opposite: Triple; linear: number }
): Differences {
  const { width, height, linear } = how
  const band = Math.max(1, Math.min(height, Math.floor(BAND / width)))
  const rowBytes = 8 * width
  const around = 2 * EDGE_REACH
  const [e, f, block, out, bins, list, rows, map, waves, levels] = lay(
    (band + around) * rowBytes,
    band * rowBytes,
    64,
    8 * RESULTS,
    4 * (BINS + 1),
    4 * band * width,
    (band + around) * width,
    band * width,
    12 * (width + height),
    2048
  ) as [number, number, number, number, number, number, number, number, number, number]
  const { buffer } = exports.memory
  const memory = new Uint8Array(buffer)
  memory.fill(0, bins, bins + 4 * (BINS + 1))
  memory.fill(0, levels, levels + 2048)
  new Float32Array(buffer, block, 11).set([
    MODES[how.expected.mode],
    ...how.expected.matte,
    MODES[how.found.mode],
    ...how.found.matte,
    ...how.opposite
  ])
  const tables = new Float32Array(buffer, waves, 3 * (width + height))
  for (let c = 0; c < 3; c++) {
    for (let x = 0; x < width; x++) tables[c * width + x] = 65535 * waveX(x, c)
    for (let y = 0; y < height; y++) tables[3 * width + c * height + y] = waveY(y, c)
  }
  const [due, delivered] = [expected, found].map(
    samples => new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)
  ) as [Uint8Array, Uint8Array]

  /**
   * Copies the band that begins at row `top` of the frame due, with its neighbours: where it lies, where it ends, and
   * rows above and below.
   */
  function bring(top: number): { at: number; end: number; above: number; below: number } {
    const end = Math.min(height, top + band)
    const [first, last] = [Math.max(0, top - EDGE_REACH), Math.min(height, end + EDGE_REACH)]
    memory.set(due.subarray(first * rowBytes, last * rowBytes), e)
    return { at: e + (top - first) * rowBytes, end, above: top - first, below: last - end }
  }

  const result = noDifferences()
  const { alpha, colour, edge, fine } = result
  const results = new Float64Array(buffer, out, RESULTS)
  const unmarked: number[] = []
  for (let top = 0; top < height; top += band) {
    const { at, end, above, below } = bring(top)
    memory.set(delivered.subarray(top * rowBytes, end * rowBytes), f)
    if (
      !exports.compare({
        e: at,
        f,
        width,
        height: end - top,
        top,
        whole: height,
        above,
        below,
        block,
        out,
        bins,
        list,
        rows,
        map,
        waves,
        table: linear,
        levels
      })
    )
      unmarked.push(top)
    const [
      changed,
      under,
      alphaMax,
      alphaSum,
      alphaSquares,
      alphaChanged,
      clearLost,
      solidLost,
      clear,
      solid,
      least,
      most,
      colourMax,
      colourSum,
      visible,
      edgeMax,
      edgeSum,
      edgePixels,
      fineDue,
      fineFound
    ] = results
    result.changed += changed!
    result.changedUnderClear += under!
    alpha.max = Math.max(alpha.max, alphaMax!)
    alpha.sum += alphaSum!
    alpha.squares += alphaSquares!
    alpha.changed += alphaChanged!
    alpha.clearLost += clearLost!
    alpha.solidLost += solidLost!
    alpha.clear += clear!
    alpha.solid += solid!
    alpha.foundLeast = Math.min(alpha.foundLeast, least!)
    alpha.foundMost = Math.max(alpha.foundMost, most!)
    colour.max = Math.max(colour.max, colourMax!)
    colour.sum += colourSum!
    colour.visible += visible!
    edge.max = Math.max(edge.max, edgeMax!)
    edge.sum += edgeSum!
    edge.pixels += edgePixels!
    fine.due += fineDue!
    fine.found += fineFound!
  }
  // once colour differs anywhere, the edges of the whole frame count
  if (unmarked.length < Math.ceil(height / band)) {
    for (const top of unmarked) {
      const { at, end, above, below } = bring(top)
      edge.pixels += exports.markEdges({ e: at, rows, map, width, height: end - top, above, below })
    }
  }
  colour.bins = new Uint32Array(buffer.slice(bins, bins + 4 * (BINS + 1)))
  alpha.dueLevels = new Uint32Array(buffer.slice(levels, levels + 1024))
  alpha.foundLevels = new Uint32Array(buffer.slice(levels + 1024, levels + 2048))
  return result
}
