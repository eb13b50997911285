/**
 * Frames of FFV1 version 3 as Pour writes them: RGB or RGBA of 8 or 16 bits, every frame a key frame, slices from top
 * to bottom.
 */
import { concatenate } from '../../../base/files/bytes'
import type { Frame } from '../../../frame/frame'
import type { Kernels } from '../../../frame/kernels/kernels'
import { DEFAULT_TRANSITIONS, RangeEncoder, SYMBOL } from '../../../frame/kernels/range-coder'
import { checkedBytes, writtenSet } from './config'

/** Pixels that a slice has at most: enough for contexts to learn, few enough that readers can share a frame out. */
const SLICE = 2 ** 18

/** Slices that a frame of this size is cut into from top to bottom. */
export const slicesDown = (width: number, height: number): number =>
  Math.max(1, Math.min(height, 256, Math.ceil((width * height) / SLICE)))

const SET = writtenSet()
const TABLES = new Int16Array(3 * 1280)
for (let set = 0; set < 3; set++) TABLES.set(SET.tables, 1280 * set)

export interface PictureShape {
  fields: 'progressive' | 'top-first' | 'bottom-first'
  pixelAspect: readonly [number, number]
}

/** How a picture is made up (RFC 9043, 4.5.8). */
const STRUCTURES = { progressive: 3, 'top-first': 1, 'bottom-first': 2 } as const

/** One packet. */
export function encodePicture(frame: Frame, shape: PictureShape, kernels: Kernels): Uint8Array {
  const { width, height, samples, depth } = frame
  const count = slicesDown(width, height)
  const transitions = DEFAULT_TRANSITIONS
  const planes = frame.alpha.mode === 'none' ? 3 : 4
  const parts: Uint8Array[] = []
  for (let n = 0; n < count; n++) {
    const top = Math.floor((height * n) / count)
    const rows = Math.floor((height * (n + 1)) / count) - top
    const coder = new RangeEncoder(transitions)
    if (n === 0) coder.bit(new Uint8Array([128]), 0, 1)
    const states = new Uint8Array(SYMBOL).fill(128)
    const tables = planes === 4 ? [0, 0, 0] : [0, 0]
    const [across, down] = shape.pixelAspect
    for (const value of [0, n, 0, 0, ...tables, STRUCTURES[shape.fields], across, down])
      coder.symbol(states, 0, value, false)
    const { held, run, low, range, out } = coder
    const slice = kernels.ffv1Encode(
      samples.subarray(4 * top * width) as Uint8Array | Uint16Array,
      width,
      { held, run, low, range, out },
      {
        width,
        height: rows,
        bits: depth,
        planes,
        tables: TABLES,
        contexts: [SET.contexts, SET.contexts, planes === 4 ? SET.contexts : 0],
        transitions
      }
    )
    // the length, and that nothing was found wrong
    const foot = [slice.length >> 16, (slice.length >> 8) & 255, slice.length & 255, 0]
    parts.push(checkedBytes(concatenate([slice, Uint8Array.from(foot)])))
  }
  return concatenate(parts)
}
