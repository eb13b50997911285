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
    for (let y = layer.top; y < layer.bottom; y++)
      for (let x = layer.left; x < layer.right; x++) {
        const [u, v] = [x + 0.5, y + 0.5]
        const place = across ? back.a * u + back.c * v + back.e : back.b * u + back.d * v + back.f
        const past = (forward ? edge - place : place - edge) * scale
        const cover = Math.min(1, Math.max(0, 0.5 + (kept ? past : -past)))
        if (cover === 1) continue
        const i = 4 * ((y - layer.top) * row + x - layer.left)
        for (let c = 0; c < 4; c++) layer.pixels[i + c]! *= cover
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
