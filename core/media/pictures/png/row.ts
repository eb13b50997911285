/** What every row of the table says that stores its pixels as PNG does. */
import type { Capability } from '../../containers/container'
import type { DepthChoice } from '../../formats/traits/carrying'

export const PNG_DEPTHS: readonly DepthChoice[] = [
  { depth: 8, colourBits: 8, alphaBits: 8 },
  { depth: 16, colourBits: 16, alphaBits: 16 }
]

export const PNG_STRAIGHT: Capability = {
  can: true,
  declares: 'PNG is straight by its standard; nothing else need be said'
}
export const PNG_OPAQUE: Capability = { can: true, declares: 'colour type 2, without an alpha channel' }
