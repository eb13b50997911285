/**
 * How far an element can reach in the picture, so that what is done to it as a whole takes no more pixels than that.
 */
import { combined, type Affine } from '../../raster/line'
import { within, type Bounds } from '../../raster/coverage'
import { MOST_USES, type Size, type Spread, type Styles } from './around'
import type { Hand } from './effects'
import { isMarked, MARKED } from './marker'
import { STILL } from './paint'
import { boxOf, lengthOf, pathOf, placedRuns, runsOf } from './shapes'
import type { Node } from './tree'

/** What cannot be told beforehand: filters, and what is fitted into a place of its own. */
const ANYWHERE = 'anywhere'
/** How much finer than their own measure curves are followed, and up to which magnification that is fine enough. */
const FINE = 64
const MOST_LARGER = 1000
type Reach = Spread | typeof ANYWHERE | null

interface Standing {
  style: Styles
  size: Size
  uses: number
}

/** A box that holds the corners of another, moved. */
function moved([l, t, r, b]: Spread, at: Affine): Spread {
  const corners = [
    [l, t],
    [r, t],
    [l, b],
    [r, b]
  ].map(([x, y]) => [at.a * x! + at.c * y! + at.e, at.b * x! + at.d * y! + at.f] as const)
  const xs = corners.map(([x]) => x)
  const ys = corners.map(([, y]) => y)
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
}

/** Half of a stroke's width, and how far its mitres may stand out, in the element's own measure. */
function strokeReach(style: Styles, size: Size): number {
  if ((style.stroke ?? 'none').trim() === 'none') return 0
  const width = lengthOf(style['stroke-width'], Math.hypot(...size) / Math.SQRT2, 1)
  const mitre = (style['stroke-linejoin'] ?? 'miter') === 'miter' ? Number(style['stroke-miterlimit'] ?? 4) || 4 : 0
  return (width / 2) * Math.max(Math.SQRT2, mitre)
}

/** Looks up how far elements reach, each once where it stands the same. */
export class Reaches {
  private readonly known = new WeakMap<Node, { key: string; reach: Reach }>()

  /**
   * The bounds, within `clip`, beyond which an element draws nothing; `at` is its place, its own transform included.
   */
  boundsOf(hand: Hand, node: Node, { style, size, uses, at }: Standing & { at: Affine }, clip: Bounds): Bounds {
    const reach = this.inside(hand, node, { style, size, uses })
    if (reach === ANYWHERE || Math.hypot(at.a, at.b, at.c, at.d) > MOST_LARGER) return clip
    if (reach === null) return { ...clip, right: clip.left, bottom: clip.top }
    const [left, top, right, bottom] = moved(reach, at)
    if (![left, top, right, bottom].every(Number.isFinite)) return clip
    const found = within(
      {
        left: Math.floor(left) - 1,
        top: Math.floor(top) - 1,
        right: Math.ceil(right) + 1,
        bottom: Math.ceil(bottom) + 1
      },
      clip
    )
    return { ...found, right: Math.max(found.left, found.right), bottom: Math.max(found.top, found.bottom) }
  }

  /** Where an element with its children draws, before its own transform. `style` is what it has, inherited and own. */
  private inside(hand: Hand, node: Node, standing: Standing): Reach {
    const { style, size, uses } = standing
    const key = [
      ...size,
      uses,
      style.stroke,
      style['stroke-width'],
      style['stroke-linejoin'],
      style['stroke-miterlimit'],
      isMarked(style)
    ].join(' ')
    const known = this.known.get(node)
    if (known?.key === key) return known.reach
    const reach = this.reachOf(hand, node, standing)
    this.known.set(node, { key, reach })
    return reach
  }

  private reachOf(hand: Hand, node: Node, { style, size, uses }: Standing): Reach {
    const own = hand.styles(node)
    if (['svg', 'symbol'].includes(node.tag)) return ANYWHERE
    if (own['vector-effect'] === 'non-scaling-stroke') return ANYWHERE
    if (['g', 'a', 'switch', 'use', 'text', 'tspan'].includes(node.tag)) {
      const used = node.tag === 'use'
      const children = used ? hand.used(own, uses) : node.children
      const shift = used ? { ...STILL, e: lengthOf(own.x, size[0]), f: lengthOf(own.y, size[1]) } : STILL
      let all: Reach = null
      for (const child of children) {
        const theirs = hand.styles(child)
        if ((theirs.filter ?? 'none').trim() !== 'none') return ANYWHERE
        const deeper = used ? Math.min(MOST_USES, uses + 1) : uses
        const inner = this.inside(hand, child, { style: hand.inherited(child, style), size, uses: deeper })
        if (inner === ANYWHERE) return ANYWHERE
        if (inner === null) continue
        const [l, t, r, b] = moved(inner, combined(shift, hand.transformOf(child, theirs, size)))
        all = all ? [Math.min(all[0], l), Math.min(all[1], t), Math.max(all[2], r), Math.max(all[3], b)] : [l, t, r, b]
      }
      return all
    }
    if (MARKED.has(node.tag) && isMarked(style)) return ANYWHERE
    if (node.tag === 'image') return hand.ownBox(node, size)
    const data = pathOf(node.tag, own, size)
    if (data === null) return null
    // curves are followed finely enough for any measure; what they leave is less than the pixel that is added
    const [l, t, r, b] = boxOf(
      placedRuns(runsOf(data, { ...STILL, a: FINE, d: FINE }), { ...STILL, a: 1 / FINE, d: 1 / FINE })
    )
    if (!Number.isFinite(l)) return ANYWHERE
    const more = strokeReach(style, size)
    return [l - more, t - more, r + more, b + more]
  }
}
