/** Where in a frame anything is to be seen. */
import { codesToHex, type HexColour } from '../base/colour'
import { fullCode, type Frame } from '../frame/frame'
import type { Box } from '../base/settings/box'

/** The smallest rectangle that holds every pixel with any alpha; null for a clear frame. */
export function contentOf({ width, height, samples }: Frame): Box | null {
  const seen = (x: number, y: number): boolean => samples[4 * (y * width + x) + 3]! > 0
  let [left, right, top, bottom] = [width, -1, -1, -1]
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (!seen(x, y)) continue
      if (top < 0) top = y
      bottom = y
      if (x < left) left = x
      break
    }
    if (bottom !== y) continue
    for (let x = width - 1; x > right; x--) {
      if (!seen(x, y)) continue
      right = x
      break
    }
  }
  return bottom < 0 ? null : { x: left, y: top, width: right - left + 1, height: bottom - top + 1 }
}

/** The smallest rectangle that holds all; null when there is none. */
export function unionOf(boxes: readonly (Box | null)[]): Box | null {
  return boxes.reduce<Box | null>((all, box) => {
    if (!all || !box) return all ?? box
    const [x, y] = [Math.min(all.x, box.x), Math.min(all.y, box.y)]
    return {
      x,
      y,
      width: Math.max(all.x + all.width, box.x + box.width) - x,
      height: Math.max(all.y + all.height, box.y + box.height) - y
    }
  }, null)
}

/** The mean stored colour of the pixel at a place and its neighbours: one alone may be grain. Null beyond the frame. */
export function colourAt({ width, height, depth, samples }: Frame, x: number, y: number): HexColour | null {
  if (!(x >= 0 && y >= 0 && x < width && y < height)) return null
  const sums: [number, number, number] = [0, 0, 0]
  let count = 0
  for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
    for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++, count++)
      for (let c = 0; c < 3; c++) sums[c]! += samples[4 * (v * width + u) + c]!
  }
  return codesToHex(sums.map(sum => (sum / count / fullCode(depth)) * 255) as [number, number, number])
}
