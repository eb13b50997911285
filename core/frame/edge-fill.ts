/** Colour under clear pixels: that of the nearest visible edge. */
import type { Frame } from './frame'
import { nearestOf } from './nearest'

/** Pixels each way around an edge pixel whose colour is taken with it: one alone may hold hardly any. */
const AROUND = 1

/** The mean colour of what is visible around a pixel, weighed by alpha, into three places of `to`. */
function edgeColour({ width, height, samples }: Frame, p: number, to: Float64Array): void {
  const [x, y] = [p % width, Math.floor(p / width)]
  let [r, g, b, sum] = [0, 0, 0, 0]
  for (let row = Math.max(0, y - AROUND); row <= Math.min(height - 1, y + AROUND); row++)
    for (let column = Math.max(0, x - AROUND); column <= Math.min(width - 1, x + AROUND); column++) {
      const i = 4 * (row * width + column)
      const weight = samples[i + 3]!
      if (weight === 0) continue
      r += samples[i]! * weight
      g += samples[i + 1]! * weight
      b += samples[i + 2]! * weight
      sum += weight
    }
  to[0] = r / sum
  to[1] = g / sum
  to[2] = b / sum
}

/**
 * A straight frame whose clear pixels take the colour of the nearest visible one within `reach` pixels, the same on all
 * sides; alpha stays, and so does all that is visible. Beyond, and in an empty frame, clear pixels turn black.
 */
export function edgeFilled(frame: Frame, reach: number): Frame {
  const { width, height } = frame
  const samples = frame.samples.slice()
  const visible = new Uint8Array(width * height)
  for (let p = 0, i = 3; p < visible.length; p++, i += 4) if (samples[i] !== 0) visible[p] = 1
  const { from, squares } = nearestOf(visible, width, height, reach)
  const most = reach * reach
  // codes are rounded by being cut off
  const round = frame.depth === 32 ? 0 : 0.5
  const colour = new Float64Array(3)
  // pixels beside each other mostly have one edge
  let last = -1
  for (let p = 0, i = 0; p < visible.length; p++, i += 4) {
    if (visible[p]) continue
    const near = squares[p]! <= most
    if (near && from[p] !== last) edgeColour(frame, (last = from[p]!), colour)
    for (let c = 0; c < 3; c++) samples[i + c] = near ? colour[c]! + round : 0
  }
  return { ...frame, samples }
}
