/**
 * Pictures that their file says are turned or mirrored (TIFF 6.0 and Exif, tag 274), set upright. No sample is changed.
 */
import { allocateSamples, type Frame } from './frame'

/** 1 is upright; 2 to 8 say at which corner the first row and column of the stored picture lie. */
export type Orientation = 1 | 2 | 3 | 4 | 5 | 6 | 7 | 8

/** The orientation that a tag's value stands for; upright for values there are none of. */
export const orientationOf = (value: number): Orientation =>
  Number.isInteger(value) && value >= 1 && value <= 8 ? (value as Orientation) : 1

/** What was done to set it upright, in words; null for an upright one. */
export const ORIENTATION_WORDS: Record<Orientation, string | null> = {
  1: null,
  2: 'mirrored left to right',
  3: 'turned by half',
  4: 'mirrored top to bottom',
  5: 'mirrored and turned by a quarter',
  6: 'turned by a quarter to the right',
  7: 'mirrored and turned by a quarter',
  8: 'turned by a quarter to the left'
}

/** Width and height once upright. */
export function orientedSize<S extends { width: number; height: number }>(size: S, orientation: Orientation): S {
  return orientation < 5 ? size : { ...size, width: size.height, height: size.width }
}

/** The stored pixel that stands at a place of the upright picture of w x h. */
const STORED: Record<Orientation, (x: number, y: number, w: number, h: number) => [number, number]> = {
  1: (x, y) => [x, y],
  2: (x, y, w) => [w - 1 - x, y],
  3: (x, y, w, h) => [w - 1 - x, h - 1 - y],
  4: (x, y, _, h) => [x, h - 1 - y],
  5: (x, y) => [y, x],
  6: (x, y, w) => [y, w - 1 - x],
  7: (x, y, w, h) => [h - 1 - y, w - 1 - x],
  8: (x, y, _, h) => [h - 1 - y, x]
}

/** The frame upright; itself where it is so already. */
export function oriented(frame: Frame, orientation: Orientation): Frame {
  if (orientation === 1) return frame
  const { width, height } = orientedSize(frame, orientation)
  const samples = allocateSamples(width, height, frame.depth)
  const stored = STORED[orientation]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [fromX, fromY] = stored(x, y, width, height)
      const from = 4 * (fromY * frame.width + fromX)
      const to = 4 * (y * width + x)
      for (let c = 0; c < 4; c++) samples[to + c] = frame.samples[from + c]!
    }
  return { ...frame, width, height, samples }
}
