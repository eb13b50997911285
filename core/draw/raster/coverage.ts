/** Coverage of pixels in floating point, and the rectangles of whole pixels that it lies in. */
import type { Line } from './line'

/** A rectangle of whole pixels; empty where right is not beyond left. */
export interface Bounds {
  left: number
  top: number
  right: number
  bottom: number
}

/** Coverage of the pixels within bounds, 0 to 1. */
export interface Coverage extends Bounds {
  values: Float32Array
  /** For each row, the first pixel that may be covered and the one after the last, from the left; all, if not said. */
  rows?: Uint32Array
}

/** Pixels of a row of coverage that may be covered: from the first up to the one after the last. */
export const spanOf = ({ left, top, right, rows }: Coverage, y: number): [from: number, to: number] =>
  rows ? [left + rows[2 * (y - top)]!, left + rows[2 * (y - top) + 1]!] : [left, right]

/** Bounds that hold no pixel. */
export const emptyBounds = (): Bounds => ({ left: 0, top: 0, right: 0, bottom: 0 })

/** Whether bounds hold no pixel. */
export const isEmpty = ({ left, top, right, bottom }: Bounds): boolean => right <= left || bottom <= top

/** The part of bounds that lies in `clip`; may be empty. */
export function within(bounds: Bounds, clip: Bounds): Bounds {
  return {
    left: Math.max(clip.left, bounds.left),
    top: Math.max(clip.top, bounds.top),
    right: Math.min(clip.right, bounds.right),
    bottom: Math.min(clip.bottom, bounds.bottom)
  }
}

/** The least bounds that hold both. */
export function joined(a: Bounds, b: Bounds): Bounds {
  if (isEmpty(a)) return b
  if (isEmpty(b)) return a
  return {
    left: Math.min(a.left, b.left),
    top: Math.min(a.top, b.top),
    right: Math.max(a.right, b.right),
    bottom: Math.max(a.bottom, b.bottom)
  }
}

/** Bounds with so many pixels more on each side. */
export const grown = ({ left, top, right, bottom }: Bounds, by: number): Bounds => ({
  left: left - by,
  top: top - by,
  right: right + by,
  bottom: bottom + by
})

/** Pixels that lines touch, with `room` around them. */
export function boundsOf(lines: readonly Line[], room = 0): Bounds {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const line of lines)
    for (let i = 0; i < line.length; i += 2) {
      left = Math.min(left, line[i]!)
      right = Math.max(right, line[i]!)
      top = Math.min(top, line[i + 1]!)
      bottom = Math.max(bottom, line[i + 1]!)
    }
  if (left > right) return emptyBounds()
  return {
    left: Math.floor(left - room),
    top: Math.floor(top - room),
    right: Math.ceil(right + room),
    bottom: Math.ceil(bottom + room)
  }
}
