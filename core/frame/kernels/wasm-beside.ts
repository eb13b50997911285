/** Binds the kernels of the key by the colour beside each edge; see `tests/oracles/beside.ts`, which defines it. */
import type { BesideHow, FrameSize, KeyedSamples, ScreenPlate } from './kernels'
import { ACROSS } from './terms'
import { layPlate, SURFACES } from './wasm-keys'
import { layPicture, takePicture, type PictureSamples } from './wasm-picture'
import { BEYOND, type Room } from './wasm-room'

/** Pixels each way that cores are looked at within, and beyond which nothing may be further from the screen. */
const WIDE = 2
const MOST = 6
/** Side of the blocks that ramps are looked for in. */
const BLOCK = 4

/** See `Kernels.keyBeside`. */
export function wasmKeyBeside(
  { exports, lay }: Room,
  samples: PictureSamples,
  plate: ScreenPlate,
  { width, height }: FrameSize,
  how: BesideHow
): KeyedSamples {
  const pixels = width * height
  const [columns, rows] = [Math.floor(width / BLOCK), Math.floor(height / BLOCK)]
  const plane = 4 * pixels + BEYOND
  const blocks = 16 * columns * rows + BEYOND
  const { clear, solid, spill, lean, channel, noise } = how
  const smooth = noise.away > 0 || noise.cross > 0 ? 1 : 0
  const [from, beneath, surfaces, out, near, sure, away, cross, cores, bares, row, colours, screens, any] = lay(
    samples.byteLength + BEYOND,
    'rgba' in plate ? 4 * plane : 0,
    SURFACES,
    // first what smooths and looks around, then the picture that is made
    4 * plane + 8 * MOST * width,
    // first the largest around, then rows of the nearest
    2 * plane,
    plane,
    plane,
    plane,
    pixels + BEYOND,
    pixels + BEYOND,
    4 * (width + 2 * MOST) + BEYOND,
    blocks,
    blocks,
    columns * rows + BEYOND
  ) as [number, number, number, number, number, number, number, number, number, number, number, number, number, number]
  const { buffer } = exports.memory
  const kind = layPicture(buffer, from, samples)
  const screen = layPlate(buffer, plate, beneath, surfaces)
  exports.besideMeasure({ from, kind, plate: screen, surfaces, width, height, away, cross })

  const [meanAway, meanCross, work] = [out, out + plane, out + 2 * plane]
  if (smooth) {
    exports.mean5({ from: away, across: work, to: meanAway, width, height, row })
    exports.mean5({ from: cross, across: work, to: meanCross, width, height, row })
  }
  const [wideAway, wideCross] = smooth ? [meanAway, meanCross] : [away, cross]
  const [wideRest, most] = [near, near + plane]
  /** The largest in a square of what lies at `values`, into `to`; `work` has rows beyond both rims. */
  const square = (values: number, to: number, reach: number): void => {
    exports.largestAcross({ from: values, to: work + 4 * reach * width, width, height, reach, row })
    exports.largestDown(work, to, width, height, reach)
  }
  exports.besideRest(wideAway, wideRest, pixels)
  square(wideRest, wideRest, WIDE)
  square(away, most, MOST)
  const size = { width, height }
  const around = { away, cross, wideAway, wideCross, wideRest, most }
  exports.besideCores({ ...around, ...size, across: ACROSS, noise: noise.away, smooth, cores })
  exports.besideBlocks({
    from,
    kind,
    plate: screen,
    surfaces,
    cores,
    width,
    height,
    columns,
    rows,
    colours,
    screens,
    any
  })
  exports.besideRamps({ cores, colours, screens, any, width, columns, rows, noise: noise.away })
  const hueNoise = Math.hypot(noise.away, ACROSS * noise.cross)
  const means = { away, cross, meanAway, meanCross, n: pixels, across: ACROSS, clear }
  exports.besideBares({ ...means, noiseAway: noise.away, noiseHue: hueNoise, smooth, bares })

  const [coreRows, bareRows] = [near, near + plane]
  exports.nearestRows(cores, width, height, coreRows)
  exports.nearestRows(bares, width, height, bareRows)
  const places = { from, kind, plate: screen, surfaces, to: out, sure: how.sure ? sure : 0 }
  const found = { away, cross, cores, bares, coreRows, bareRows }
  const settings = { across: ACROSS, clear, solid, noise: noise.colour, noisy: smooth, spill, lean, channel }
  exports.besideKey({ ...places, ...found, ...size, ...settings })
  return {
    samples: takePicture(buffer, out, samples),
    sure: how.sure ? new Float32Array(buffer, sure, pixels).slice() : null
  }
}
