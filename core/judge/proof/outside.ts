/** What to expect of a file that came from outside, held against a reference. */
import { wholeForm } from '../../media/formats/form'
import { formatById } from '../../open/registry'
import { STRAIGHT, type AlphaMode } from '../../frame/frame'
import { curveOf } from '../../frame/light-curve'
import type { SourceFacts } from '../../source/source'
import type { Expectation } from './evidence'

/**
 * The delivery is expected to be the whole reference at its own depth, in the mode it is taken to have; one that has
 * lost its alpha is held against what was due, not against itself.
 */
export function expectedOutside(reference: SourceFacts, delivered: SourceFacts, taken: AlphaMode | null): Expectation {
  const own = taken ?? STRAIGHT
  const due: AlphaMode = own.mode === 'none' && reference.claim.mode !== 'none' ? STRAIGHT : own
  const transfer = formatById(delivered.format).transfer ?? 'srgb'
  const curve = transfer === 'linear' ? curveOf(reference.tags) : null
  return {
    width: reference.width,
    height: reference.height,
    frames: reference.frames,
    rate: reference.rate,
    ...wholeForm(delivered.bitDepth, due, { transfer, ...(curve ? { curve } : {}) }),
    bytes: null
  }
}
