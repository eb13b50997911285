/** Wipes: an element uncovered or covered by a line that runs across its box. */
import type { Layer } from './layer'
import { inverse, type Affine } from '../raster/line'
import type { ElementBase } from './element'
import type { Extent } from './ink'
import type { Moment } from './timing'
import type { Move } from './values'

/** Which share of an element is uncovered: coverage falls to nothing beyond a line that runs across its box. */
interface Wipe {
  side: Move['side']
  share: number
  /** Whether what is uncovered lies at the side, or everywhere else. */
  kept: boolean
}

/** The wipes that an element is within at a moment; what is to be traced and has no line is uncovered instead. */
export function wipesOf({ entrance, exit }: ElementBase, traces: boolean, { come, gone }: Moment): Wipe[] {
  const wiped = (kind: Move['kind']): boolean => kind === 'wipe' || (kind === 'trace' && !traces)
  return [
    ...(wiped(entrance.kind) && come < 1 ? [{ side: entrance.side, share: come, kept: true }] : []),
    ...(wiped(exit.kind) && gone > 0 ? [{ side: exit.side, share: gone, kept: false }] : [])
  ]
}

/** Takes away what is not uncovered, in place. `at` lays the element's box into the picture. */
export function applyWipes(layer: Layer, wipes: readonly Wipe[], [left, top, right, bottom]: Extent, at: Affine): void {
  const back = inverse(at)
  const row = layer.right - layer.left
  for (const { side, share, kept } of wipes) {
    const across = side === 'left' || side === 'right'
    const [from, to] = across ? [left, right] : [top, bottom]
    const scale = (across ? Math.hypot(at.a, at.b) : Math.hypot(at.c, at.d)) || 1e-6
    const forward = side === 'left' || side === 'top'
    const edge = forward ? from + (to - from) * share : to - (to - from) * share
    const [perX, perY, begins] = across ? [back.a, back.c, back.e] : [back.b, back.d, back.f]
    const way = (forward === kept ? 1 : -1) * scale
    const { pixels } = layer
    for (let y = layer.top; y < layer.bottom; y++) {
      const here = perY * (y + 0.5) + begins
      const coverAt = (x: number): number => 0.5 + way * (edge - (perX * (x + 0.5) + here))
      // along a row it rises or falls, so that its ends tell of all between
      const [first, last] = [coverAt(layer.left), coverAt(layer.right - 1)]
      if (first >= 1 && last >= 1) continue
      const from = 4 * (y - layer.top) * row
      if (first <= 0 && last <= 0) {
        pixels.fill(0, from, from + 4 * row)
        continue
      }
      const step = -way * perX
      let i = from
      for (let x = 0; x < row; x++, i += 4) {
        const cover = first + step * x
        if (cover >= 1) continue
        const share = cover > 0 ? cover : 0
        pixels[i]! *= share
        pixels[i + 1]! *= share
        pixels[i + 2]! *= share
        pixels[i + 3]! *= share
      }
    }
  }
}

/** Takes away what lies left and right of a box, in place. */
export const cutAtSides = (layer: Layer, box: Extent, at: Affine): void =>
  applyWipes(
    layer,
    (['left', 'right'] as const).map(side => ({ side, share: 1, kept: true })),
    box,
    at
  )
