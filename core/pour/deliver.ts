/** The frame a receiver should get: the source's frame in the deliverable's alpha mode and depth. Writer and proof agree on it. */
import { withAlphaMode } from '../frame/alpha'
import { withDepth } from '../frame/depth'
import type { AlphaMode, Depth, Frame } from '../frame/frame'
import type { Kernels } from '../kernels/kernels'

/**
 * Alpha is converted at the deeper of the two depths, so that rounding happens once more at most. A source without alpha
 * becomes solid in modes that have one.
 */
export function deliverFrame(frame: Frame, form: { depth: Depth; alpha: AlphaMode }, kernels: Kernels): Frame {
  const deeper = form.depth > frame.depth ? withDepth(frame, form.depth, kernels) : frame
  return withDepth(withAlphaMode(deeper, form.alpha, kernels), form.depth, kernels)
}
