/** Where something is drawn, and what it takes from what it stands in. */
import type { Affine } from '../../raster/line'
import type { Layer } from '../../scene/layer'

/** What is inherited (SVG 1.1, appendix on properties). */
export const INHERITED = [
  ...['color', 'fill', 'fill-opacity', 'fill-rule', 'stroke', 'stroke-width', 'stroke-opacity', 'stroke-linecap'],
  ...[
    'stroke-linejoin',
    'stroke-miterlimit',
    'stroke-dasharray',
    'stroke-dashoffset',
    'visibility',
    'paint-order',
    'clip-rule',
    'marker',
    'marker-start',
    'marker-mid',
    'marker-end',
    'image-rendering'
  ]
]

/** References within references: uses of uses. */
export const MOST_USES = 20

export type Styles = Readonly<Record<string, string>>
export type Size = readonly [number, number]

/** What is drawn at one place in the tree. */
export interface DrawnAround {
  style: Styles
  at: Affine
  onto: Layer
  uses: number
  /** The measure that shares of lengths are of. */
  size: Size
}

/** A box. */
export type Spread = readonly [left: number, top: number, right: number, bottom: number]
