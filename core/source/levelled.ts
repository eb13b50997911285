/**
 * Pictures of a sequence that are not alike: each is brought to the deepest depth, and to alpha where any of them has
 * it.
 */
import { withDepth } from '../frame/depth'
import { STRAIGHT } from '../frame/frame'
import type { Kernels } from '../frame/kernels/kernels'
import type { FilesSpec, Source } from './source'

/** The same source with frames of one depth, and solid ones where a picture has no alpha and another has. */
export function levelled(source: Source, common: FilesSpec['common'], kernels: Kernels): Source {
  if (!common) return source
  return {
    facts: { ...source.facts, ...common },
    async frame(index, signal) {
      const deep = withDepth(await source.frame(index, signal), common.bitDepth, kernels)
      // how its colour stands to its alpha makes no difference where alpha is full
      return deep.alpha.mode === 'none' && common.claim.mode !== 'none' ? { ...deep, alpha: STRAIGHT } : deep
    },
    close: () => source.close()
  }
}
