/** Ink: coverage laid under its colours, in the coordinates of the picture. */
import type { ElementBase } from './element'
import { clearLayer, FIRST, paint, type Along, type Layer } from './layer'
import { inverse, type Affine } from '../raster/line'
import { isEmpty, joined, type Bounds, type Coverage } from '../raster/coverage'
import { isTint } from './tint'
import type { Moment } from './timing'
import type { Paint } from './values'

/** A box in an element's own coordinates. */
export type Extent = readonly [left: number, top: number, right: number, bottom: number]

/** Of which element, when and where something is drawn; `at` lays the element's coordinates into the picture. */
export interface Ink {
  element: ElementBase
  moment: Moment
  at: Affine
  clip: Bounds
  box: Extent
}

/** Adds a layer under the coverage it takes. */
export class Painter {
  private readonly parts: { coverage: Coverage; paint: Paint; opacity: number }[] = []
  private bounds: Bounds = { left: 0, top: 0, right: 0, bottom: 0 }

  constructor(readonly ink: Ink) {}

  /** Lays `colour` under coverage; nothing where there is none. */
  add(coverage: Coverage | null, colour: Paint, opacity = 1): void {
    if (!coverage || opacity <= 0) return
    this.parts.push({ coverage, paint: colour, opacity })
    this.bounds = joined(this.bounds, coverage)
  }

  /** Everything that was added, the first behind; null where that is nothing. */
  done(): Layer | null {
    if (isEmpty(this.bounds)) return null
    const layer = clearLayer(this.bounds)
    const { box, at } = this.ink
    for (const { coverage, paint: colour, opacity } of this.parts)
      paint(layer, coverage, { paint: colour, opacity, along: alongOf(colour, box, at) })
    return layer
  }
}

/** Along a gradient's direction, across the element's box. */
function alongOf(colour: Paint, [left, top, right, bottom]: Extent, at: Affine): Along {
  if (typeof colour === 'string') return FIRST
  if (isTint(colour)) return { ...FIRST, begins: colour.share }
  const back = inverse(at)
  const turn = (colour.angle * Math.PI) / 180
  const [ux, uy] = [Math.cos(turn), Math.sin(turn)]
  const reach = Math.abs(ux) * (right - left) + Math.abs(uy) * (bottom - top) || 2
  const [cx, cy] = [(left + right) / 2, (top + bottom) / 2]
  return {
    across: (back.a * ux + back.b * uy) / reach,
    down: (back.c * ux + back.d * uy) / reach,
    begins: 0.5 + ((back.e - cx) * ux + (back.f - cy) * uy) / reach
  }
}
