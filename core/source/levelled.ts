/** Pictures of a sequence that are not alike: each is brought to the deepest depth, and to alpha where any of them has it. */
import { withDepth } from '../frame/depth'
import { STRAIGHT } from '../frame/frame'
import type { Kernels } from '../kernels/kernels'
import type { FilesSpec, Source } from './source'

/** The same source with frames of one depth, and solid ones where a picture has no alpha and another has. */
export function levelled(source: Source, common: FilesSpec['common'], kernels: Kernels): Source {
  const { bitDepth, claim } = source.facts
  if (!common || (common.bitDepth === bitDepth && (common.claim.mode === 'none') === (claim.mode === 'none')))
    return common ? withFrames(source, common, kernels) : source
  return { ...withFrames(source, common, kernels), facts: { ...source.facts, ...common } }
}

function withFrames(source: Source, common: NonNullable<FilesSpec['common']>, kernels: Kernels): Source {
  return {
    facts: source.facts,
    async frame(index, signal) {
      const frame = await source.frame(index, signal)
      const deep = frame.depth === common.bitDepth ? frame : withDepth(frame, common.bitDepth, kernels)
      // how its colour stands to its alpha makes no difference where alpha is full
      return deep.alpha.mode === 'none' && common.claim.mode !== 'none' ? { ...deep, alpha: STRAIGHT } : deep
    },
    close: () => source.close()
  }
}
