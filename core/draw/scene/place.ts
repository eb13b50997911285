/** Where an element lies at a moment, out of the box of what it lies in when it slides. */
import { combined, scaleOf, type Affine } from '../raster/line'
import { boxAt } from './extent'
import type { Extent } from './ink'
import { reachOf } from './layer'
import type { Element } from './scene'
import { isPlain, standing } from './standing'
import type { Moment } from './timing'
import type { Move } from './values'

/**
 * From an element's coordinates into the picture's. `box` is its own, `around` is what it lies in: where that is, and
 * its box.
 */
export function placeOf(
  element: Element,
  box: Extent,
  { come, gone, values }: Pick<Moment, 'come' | 'gone' | 'values'>,
  around: { at: Affine; box: Extent }
): Affine {
  const [nearX, nearY, farX, farY] = around.box
  let { x, y, scale } = values
  if (element.entrance.kind === 'grow') scale *= Math.max(0, come)
  if (element.exit.kind === 'grow') scale *= Math.max(0, 1 - gone)
  const plain = isPlain(values, element)
  // a turned element reaches as far to each side as its farthest corner does
  const far = Math.hypot(Math.max(-box[0], box[2]), Math.max(-box[1], box[3])) * values.scale
  const upright = values.rotation % 360 === 0
  const turned = upright ? box.map(side => side * values.scale) : [-far, -far, far, far]
  const stretched = (): Extent => {
    const [l, t, r, b] = boxAt(box, standing(values, element))
    return [l - x, t - y, r - x, b - y]
  }
  const sides = plain ? turned : stretched()
  const { shadow, glow } = element
  const cast =
    Math.max(
      shadow ? reachOf(shadow.soft) + Math.max(Math.abs(shadow.x), Math.abs(shadow.y)) : 0,
      glow ? reachOf(glow.soft) : 0
    ) * (plain ? values.scale : scaleOf(standing(values, element)))
  const [left, top, right, bottom] = sides.map((side, n) => side + (n < 2 ? -cast : cast))
  const slid = (move: Move, share: number): void => {
    if (move.kind !== 'slide' || share === 0) return
    if (move.side === 'left') x -= (values.x + right! - nearX) * share
    if (move.side === 'right') x += (farX - values.x - left!) * share
    if (move.side === 'top') y -= (values.y + bottom! - nearY) * share
    if (move.side === 'bottom') y += (farY - values.y - top!) * share
  }
  slid(element.entrance, 1 - come)
  slid(element.exit, gone)
  return combined(around.at, standing({ ...values, x, y, scale }, element))
}
