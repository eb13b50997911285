/** Which formats say what colours mean under which labels. */
import type { Carrying } from './traits/carrying'
import { isTagged, isWide, type ColourTags } from '../../frame/colour-tags'
import { curveOf } from '../../frame/light-curve'
import { writeProfile } from '../profile-write'

/**
 * Whether a format's files say what colours under these tags are: by the tags, or as light of their primaries. Where
 * they do not, codes are shown as other colours.
 */
export function saysColour({ labels, says, transfer }: Carrying, tags: ColourTags | null | undefined): boolean {
  if (!tags || !isTagged(tags) || !isWide(tags)) return true
  if (transfer === 'linear') return curveOf(tags) !== null || !isWide([1, tags[1], 0])
  if (labels === 'numbers') return says?.(tags) ?? true
  return labels === 'profile' && writeProfile(tags) !== null
}
