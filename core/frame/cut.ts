/** Parts of frames. */
import type { Box } from '../base/settings/box'
import { allocateSamples, type Frame } from './frame'

/** A part of a frame, which may reach beyond it; what lies outside is zero. */
export function cut(frame: Frame, { x, y, width, height }: Box): Frame {
  const samples = allocateSamples(width, height, frame.depth)
  const [left, right] = [Math.max(0, -x), Math.min(width, frame.width - x)]
  if (right > left) {
    for (let row = Math.max(0, -y); row < Math.min(height, frame.height - y); row++) {
      const from = 4 * ((y + row) * frame.width + x + left)
      samples.set(frame.samples.subarray(from, from + 4 * (right - left)), 4 * (row * width + left))
    }
  }
  return { ...frame, width, height, samples }
}
